/** Where a line of a known profile runs inside a straightened picture. */
import { kernels } from '../../kernels/module'
import { withKernelMemory } from '../../kernels/memory'
import { leastChain, usedRows } from './leastChain'
import type { LineProfile } from './profile'
import { ACROSS_PX, ALONG_PX, type Straightened } from './ruler'
import { smoothAlong } from './smoothAlong'

export interface ProfileFit {
  /** Offset of the centre from the middle column for each row, px, smooth. */
  readonly offsets: Float64Array
  /** How much better it fits there than around, 0 to 1. */
  readonly clarity: number
  /** Deviation of single rows from the smooth line, px. */
  readonly spreadPx: number
}

/** Costs of all places of all rows; a place is a column. */
export interface PlaceCosts {
  readonly costs: Float32Array
  readonly places: number
  /** The place of the middle column. */
  readonly reach: number
}

/** A column counts for so many variances at most: what hides the line is no other line. */
const MOST = 9
/** For each px of offset per row, squared. */
const STEP_COST = 0.5

export function placeCosts(
  { raster, middle }: Straightened,
  profile: LineProfile,
  reachPx: number,
  isUsed: (row: number) => boolean,
): PlaceCosts {
  const { width, height, channels, data } = raster
  const side = (profile.columns - 1) >> 1
  const reach = Math.max(0, Math.min(Math.floor(reachPx / ACROSS_PX), middle - side))
  const places = 2 * reach + 1
  const used = usedRows(height, isUsed)
  const bytes = 4 * (data.length + places * height + 3 * profile.levels.length) + height + 512
  return withKernelMemory(bytes, (scope) => {
    const out = scope.take(places * height).fill(0)
    // prettier-ignore
    kernels().lineCosts(
      scope.pointerTo(data), width, height, channels, scope.pointerTo(used), scope.pointerTo(profile.levels),
      scope.pointerTo(profile.scales), scope.pointerTo(profile.weights), profile.columns, middle - side - reach, places,
      MOST, out.byteOffset,
    )
    return { costs: out.slice(), places, reach }
  })
}

/** @param freedomPx  A bend for about every so many px of length. */
export function fitProfile(
  strip: Straightened,
  profile: LineProfile,
  reachPx: number,
  isUsed: (row: number) => boolean,
  freedomPx: number,
): ProfileFit {
  const { costs, places, reach } = placeCosts(strip, profile, reachPx, isUsed)
  const rows = strip.raster.height
  const smooth = smoothedAlong(costs, places, rows, isUsed)
  const chain = leastChain(smooth, places, rows, STEP_COST * ACROSS_PX * ACROSS_PX)
  const [centres, weights] = [new Float64Array(rows), new Float64Array(rows)]
  let [clear, used] = [0, 0]
  for (let row = 0; row < rows; row++) {
    if (!isUsed(row)) continue
    const line = row * places
    const place = Math.min(Math.max(chain[row]!, 1), places - 2)
    const [a, b, c] = [smooth[line + place - 1]!, smooth[line + place]!, smooth[line + place + 1]!]
    const bend = a - 2 * b + c
    const between = bend > 1e-6 ? Math.min(Math.max((a - c) / (2 * bend), -0.5), 0.5) : 0
    centres[row] = (place - reach + between) * ACROSS_PX
    let around = 0
    for (let at = line; at < line + places; at++) around += smooth[at]!
    around /= places
    const better = around > 1e-6 ? Math.max(0, 1 - smooth[line + chain[row]!]! / around) : 0
    weights[row] = better
    clear += better
    used++
  }
  const bends = Math.min(12, Math.max(4, Math.round((rows * ALONG_PX) / freedomPx)))
  const line = smoothAlong(centres, weights, bends, 1)
  return { offsets: line.values, clarity: used > 0 ? clear / used : 0, spreadPx: line.spread }
}

const AVERAGED_ROWS = 2

/** Costs averaged over a few used rows: grain goes, the line stays. */
function smoothedAlong(
  costs: Float32Array,
  places: number,
  rows: number,
  isUsed: (row: number) => boolean,
): Float32Array {
  const out = new Float32Array(costs.length)
  for (let row = 0; row < rows; row++) {
    let count = 0
    for (
      let other = Math.max(0, row - AVERAGED_ROWS);
      other <= Math.min(rows - 1, row + AVERAGED_ROWS);
      other++
    ) {
      if (!isUsed(other)) continue
      count++
      for (let place = 0; place < places; place++)
        out[row * places + place]! += costs[other * places + place]!
    }
    for (let at = row * places; at < (row + 1) * places && count > 0; at++) out[at]! /= count
  }
  return out
}

/** A straight run of a line through a straightened picture: its offsets at the first and the last row, px. */
export interface Run {
  readonly firstPx: number
  readonly lastPx: number
}

/** Fewer rows tell no run. */
const MIN_ROWS = 3
/** Runs so near to a better one are the same, px. */
const APART_PX = 14
const RUN_STEP = 3

/** The straight runs that fit best, the best first, each well apart from the others. */
export function bestRuns(
  strip: Straightened,
  profile: LineProfile,
  reachPx: number,
  isUsed: (row: number) => boolean,
  most: number,
): Run[] {
  const rows = strip.raster.height
  const used = usedRows(rows, isUsed)
  if (used.reduce((sum, one) => sum + one, 0) < MIN_ROWS) return []
  const { costs, places, reach } = placeCosts(strip, profile, reachPx, isUsed)
  const side = Math.floor((places - 1) / RUN_STEP) + 1
  return withKernelMemory(costs.byteLength + 4 * side * side + rows + 512, (scope) => {
    const sums = scope.take(side * side)
    // prettier-ignore
    kernels().runSums(
      scope.pointerTo(costs), places, rows, scope.pointerTo(used), RUN_STEP, side, sums.byteOffset,
    )
    return leastOf(sums, side, most).map(([i, j]) => ({
      firstPx: (RUN_STEP * i - reach) * ACROSS_PX,
      lastPx: (RUN_STEP * j - reach) * ACROSS_PX,
    }))
  })
}

/** The places of the least sums of a square, those below 0, each well apart from the others; the others are cleared. */
function leastOf(sums: Float32Array, side: number, most: number): (readonly [number, number])[] {
  const out: (readonly [number, number])[] = []
  const apart = Math.floor(APART_PX / (RUN_STEP * ACROSS_PX))
  while (out.length < most) {
    let best = 0
    for (let at = 1; at < sums.length; at++) if (sums[at]! < sums[best]!) best = at
    if (!(sums[best]! < 0)) break
    const [i, j] = [Math.floor(best / side), best % side]
    out.push([i, j])
    for (let a = Math.max(0, i - apart); a <= Math.min(side - 1, i + apart); a++)
      sums.fill(0, a * side + Math.max(0, j - apart), a * side + Math.min(side, j + apart + 1))
  }
  return out
}
