/**
 * Places of an area where other frames must not be believed, although they show something: beside them one shows what the
 * plate does not, such as the wing that a thread hangs on. What lies on the wing is wing, not wall, and the other way round.
 *
 * Each place near the rim has samples on it, that count as Poisson's kernel of a half-plane says: by the square of how
 * near they are. So the vote comes close to the harmonic function that has the rim's verdicts at the rim.
 */
import { kernels } from '../kernels/module'
import type { KernelScope } from '../kernels/memory'
import type { Rim } from './rim'

/** Hidden places in groups that share their samples of the rim, in kernel memory. */
export interface RimSamples {
  readonly groups: number
  /** Of each hidden place its group, -1 where the rim says nothing of it. */
  readonly groupOf: number
  readonly hidden: number
  readonly starts: number
  readonly ends: number
  readonly rim: number
  readonly weights: number
  /** Scratch: a byte for each group. */
  readonly inconsistent: number
}

/** Deeper inside, the rim says nothing. */
const DEEPEST_PX = 16
/** Samples lie no further than this beyond the nearest ones, px. */
const BEYOND_PX = 8
const MAX_SAMPLES = 16
const BUCKET_PX = 8
/** Pixels so close to each other, both hidden and of the rim, see nearly the same: one speaks for all. */
const BLOCK_PX = 2
/** Share of the samples, by weight, from which on a place belongs with what differs. */
const MAX_DIFFERING = 0.5
/** Fewer pixels that differ are chance. */
const MIN_DIFFERING = 10

export const rimSamplesBytes = (hidden: number): number =>
  4 * hidden + (hidden + 1) * (9 + 8 * MAX_SAMPLES) + 512

/** @param width, height  Of the crop. @param depths  How deep each hidden pixel lies inside the area, px. */
export function findRimSamples(
  scope: KernelScope,
  { width, height }: { readonly width: number; readonly height: number },
  hidden: Int32Array,
  depths: Float32Array,
  { pixels }: Rim,
): RimSamples {
  const buckets = bucketsOf(pixels, width, height)
  const groupOf = new Int32Array(hidden.length).fill(-1)
  const groupOfBlock = new Map<number, number>()
  const [rim, weights]: [number[], number[]] = [[], []]
  const [starts, ends]: [number[], number[]] = [[], []]
  const found: number[] = []
  for (let k = 0; k < hidden.length; k++) {
    const depth = depths[k]!
    if (depth > DEEPEST_PX) continue
    const row = (hidden[k]! / width) | 0
    const col = hidden[k]! - row * width
    const block = ((row / BLOCK_PX) | 0) * width + ((col / BLOCK_PX) | 0)
    const known = groupOfBlock.get(block)
    if (known !== undefined) {
      groupOf[k] = known
      continue
    }
    const reach = Math.max(0, depth) + BEYOND_PX
    found.length = 0
    samplesAround(found, buckets, pixels, width, col, row, reach)
    const step = Math.max(1, Math.ceil(found.length / MAX_SAMPLES))
    starts.push(rim.length)
    for (let at = 0; at < found.length; at += step) {
      rim.push(found[at]!)
      weights.push(1 / Math.max(1, squared(pixels[found[at]!]!, width, col, row)))
    }
    ends.push(rim.length)
    groupOf[k] = starts.length - 1
    groupOfBlock.set(block, groupOf[k]!)
  }
  return {
    groups: starts.length,
    hidden: hidden.length,
    groupOf: scope.pointerTo(groupOf),
    starts: scope.pointerTo(Int32Array.from(starts)),
    ends: scope.pointerTo(Int32Array.from(ends)),
    rim: scope.pointerTo(Int32Array.from(rim)),
    weights: scope.pointerTo(Float32Array.from(weights)),
    inconsistent: scope.reserve(starts.length + 1),
  }
}

interface Buckets {
  readonly cols: number
  readonly rows: number
  readonly begins: Int32Array
  readonly members: Int32Array
}

/** Rim pixels by squares of the crop: those of a square from its begin on, up to the next. */
function bucketsOf(pixels: Int32Array, width: number, height: number): Buckets {
  const [cols, rows] = [Math.ceil(width / BUCKET_PX), Math.ceil(height / BUCKET_PX)]
  const begins = new Int32Array(cols * rows + 1)
  const bucketOf = (pixel: number) => {
    const row = (pixel / width) | 0
    const col = pixel - row * width
    return col % BLOCK_PX !== 0 || row % BLOCK_PX !== 0
      ? -1
      : ((row / BUCKET_PX) | 0) * cols + ((col / BUCKET_PX) | 0)
  }
  for (let k = 0; k < pixels.length; k++) {
    const bucket = bucketOf(pixels[k]!)
    if (bucket >= 0) begins[bucket + 1]!++
  }
  for (let bucket = 0; bucket < cols * rows; bucket++) begins[bucket + 1]! += begins[bucket]!
  const next = begins.slice()
  const members = new Int32Array(begins[cols * rows]!)
  for (let k = 0; k < pixels.length; k++) {
    const bucket = bucketOf(pixels[k]!)
    if (bucket >= 0) members[next[bucket]!++] = k
  }
  return { cols, rows, begins, members }
}

function samplesAround(
  found: number[],
  { cols, rows, begins, members }: Buckets,
  pixels: Int32Array,
  width: number,
  col: number,
  row: number,
  reach: number,
): void {
  const [top, bottom] = [
    Math.max(0, Math.floor((row - reach) / BUCKET_PX)),
    Math.min(rows - 1, Math.floor((row + reach) / BUCKET_PX)),
  ]
  const [left, right] = [
    Math.max(0, Math.floor((col - reach) / BUCKET_PX)),
    Math.min(cols - 1, Math.floor((col + reach) / BUCKET_PX)),
  ]
  for (let by = top; by <= bottom; by++) {
    for (let at = begins[by * cols + left]!; at < begins[by * cols + right + 1]!; at++) {
      if (squared(pixels[members[at]!]!, width, col, row) <= reach * reach) found.push(members[at]!)
    }
  }
}

function squared(pixel: number, width: number, col: number, row: number): number {
  const down = (pixel / width) | 0
  const [dx, dy] = [pixel - down * width - col, down - row]
  return dx * dx + dy * dy
}

/**
 * Votes on each group by the present verdicts of the rim.
 * @param differing  How many of them differ. @param verdicts  In kernel memory.
 * @returns Whether any group may be inconsistent; then `inconsistent` says which.
 */
export function vote(
  { groups, starts, ends, rim, weights, inconsistent }: RimSamples,
  verdicts: number,
  differing: number,
): boolean {
  if (differing < MIN_DIFFERING || groups === 0) return false
  kernels().voteInconsistent(starts, ends, rim, weights, groups, verdicts, MAX_DIFFERING, inconsistent)
  return true
}

/** 1 for each hidden place that the last vote found inconsistent. */
export function readVote({ groups, groupOf, hidden, inconsistent }: RimSamples): Uint8Array {
  const { buffer } = kernels().memory
  const [of, votes] = [new Int32Array(buffer, groupOf, hidden), new Uint8Array(buffer, inconsistent, groups)]
  const out = new Uint8Array(hidden)
  for (let k = 0; k < hidden; k++) out[k] = of[k]! >= 0 ? votes[of[k]!]! : 0
  return out
}
