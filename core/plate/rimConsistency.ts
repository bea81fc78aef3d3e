/**
 * Places of an area where other frames must not be believed, although they show something: beside them one shows what the
 * plate does not, such as the wing that a thread hangs on. What lies on the wing is wing, not wall, and the other way round.
 *
 * Each place near the rim has witnesses on it, that count as Poisson's kernel of a half-plane says: by the square of how
 * near they are. So the vote comes close to the harmonic function that has the rim's verdicts at the rim.
 */
import { NOT_SHOWN, type Rim } from './rim'

/** Of each hidden pixel the rim pixels that speak for it: those from its start up to its end. */
export interface RimSamples {
  readonly starts: Int32Array
  readonly ends: Int32Array
  readonly rim: Int32Array
  readonly weights: Float32Array
}

/** Deeper inside, the rim is no witness. */
const DEEPEST_PX = 16
/** Witnesses stand no further than this beyond the nearest ones, px. */
const BEYOND_PX = 8
const MAX_WITNESSES = 32
const BUCKET_PX = 8
/** Pixels so close to each other, both hidden and of the rim, see nearly the same: one speaks for all. */
const BLOCK_PX = 2
/** Share of the witnesses, by weight, from which on a place belongs with what differs. */
const MAX_DIFFERING = 0.5
/** Fewer pixels that differ are chance. */
const MIN_DIFFERING = 10

/** @param hidden  Pixels of a crop so many px wide. @param depths  How deep each lies inside the area, px. */
export function findRimSamples(
  width: number,
  hidden: Int32Array,
  depths: Float32Array,
  { pixels }: Rim,
): RimSamples {
  const cols = Math.ceil(width / BUCKET_PX) + 1
  const buckets = new Map<number, number[]>()
  pixels.forEach((pixel, k) => {
    const [col, row] = [pixel % width, (pixel / width) | 0]
    if (col % BLOCK_PX !== 0 || row % BLOCK_PX !== 0) return
    const at = Math.floor(row / BUCKET_PX) * cols + Math.floor(col / BUCKET_PX)
    const bucket = buckets.get(at)
    if (bucket) bucket.push(k)
    else buckets.set(at, [k])
  })
  const [starts, ends] = [new Int32Array(hidden.length), new Int32Array(hidden.length)]
  const [rim, weights]: [number[], number[]] = [[], []]
  const found: number[] = []
  const firstOfBlock = new Map<number, number>()
  hidden.forEach((pixel, k) => {
    const depth = depths[k]!
    if (depth > DEEPEST_PX) return
    const [col, row] = [pixel % width, (pixel / width) | 0]
    const block = Math.floor(row / BLOCK_PX) * width + Math.floor(col / BLOCK_PX)
    const first = firstOfBlock.get(block)
    if (first !== undefined) {
      starts[k] = starts[first]!
      ends[k] = ends[first]!
      return
    }
    firstOfBlock.set(block, k)
    const reach = Math.max(0, depth) + BEYOND_PX
    found.length = 0
    for (let by = Math.floor((row - reach) / BUCKET_PX); by <= Math.floor((row + reach) / BUCKET_PX); by++) {
      for (
        let bx = Math.floor((col - reach) / BUCKET_PX);
        bx <= Math.floor((col + reach) / BUCKET_PX);
        bx++
      ) {
        for (const other of buckets.get(by * cols + bx) ?? [])
          if (squared(pixels[other]!, width, col, row) <= reach * reach) found.push(other)
      }
    }
    const step = Math.max(1, Math.ceil(found.length / MAX_WITNESSES))
    starts[k] = rim.length
    for (let at = 0; at < found.length; at += step) {
      rim.push(found[at]!)
      weights.push(1 / Math.max(1, squared(pixels[found[at]!]!, width, col, row)))
    }
    ends[k] = rim.length
  })
  return { starts, ends, rim: Int32Array.from(rim), weights: Float32Array.from(weights) }
}

const squared = (pixel: number, width: number, col: number, row: number): number => {
  const [dx, dy] = [(pixel % width) - col, ((pixel / width) | 0) - row]
  return dx * dx + dy * dy
}

/**
 * @param differs  The verdict on each pixel of the rim.
 * @returns 1 for each hidden pixel that is not to be believed; null where all are.
 */
export function inconsistent(
  { starts, ends, rim, weights }: RimSamples,
  differs: Uint8Array,
): Uint8Array | null {
  let count = 0
  for (const one of differs) if (one === 1) count++
  if (count < MIN_DIFFERING) return null
  const out = new Uint8Array(starts.length)
  for (let k = 0; k < out.length; k++) {
    let [against, all] = [0, 0]
    for (let at = starts[k]!; at < ends[k]!; at++) {
      const verdict = differs[rim[at]!]!
      if (verdict === NOT_SHOWN) continue
      all += weights[at]!
      if (verdict === 1) against += weights[at]!
    }
    if (against > MAX_DIFFERING * all) out[k] = 1
  }
  return out
}
