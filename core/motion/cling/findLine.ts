/**
 * Where the line runs inside a straightened picture: a pair of opposite edges, followed along the path.
 *
 * Every place across is judged by the rise of brightness half a width to its left and the fall half a width to
 * its right; the best chain of places is found by dynamic programming, then each edge is measured between
 * samples and both are smoothed along the path without listening to outliers.
 * Source: common practice; the chain after Amini, Weymouth and Jain, "Using dynamic programming for solving
 * variational problems in vision", IEEE PAMI 12(9), 1990.
 */
import { addEquation, solveSymmetric } from '../../geometry/linear'
import { convolveSeparable, gaussianTaps } from '../../image/convolve'
import type { Plane } from '../../image/raster'
import { ACROSS_PX, ALONG_PX } from './ruler'

export interface FoundLine {
  /** Offset of the centre from the middle column for each row, px, smooth. */
  readonly offsets: Float64Array
  readonly widths: Float64Array
  /** Mean height of the two edges per row, smooth along the path; in the plane's scale per px. */
  readonly strengths: Float64Array
  /** Mean of `strengths` over the used rows. */
  readonly strength: number
  /** Deviation of the measured centres from the smooth line, px. */
  readonly spreadPx: number
}

const EDGE_SIGMA_PX = 0.8
const ALONG_SIGMA_PX = 7
const SLOPE_COST = 0.35 // of a typical edge, for each px of offset per row squared
const MAX_STEP = 2 // columns by which the chain may move per row: 27° against the drawn direction
const EDGE_SEARCH_PX = 2

/**
 * Slope across, smoothed both ways: above 0 where brightness rises to the right. Along the path only used rows are
 * averaged: what lies beyond an end, or outside the picture, must not bend the line there.
 */
export function slopeAcross(plane: Plane, isUsed: (row: number) => boolean): Plane {
  const taps = gaussianTaps(EDGE_SIGMA_PX / ACROSS_PX)
  const radius = (taps.length - 1) / 2
  // The derivative of a Gaussian, so that a step of 1 has the height 1 / (sqrt(2 pi) sigma) per px.
  const sigma = EDGE_SIGMA_PX / ACROSS_PX
  const derivative = Float32Array.from(taps, (tap, i) => (tap * (i - radius)) / (sigma * sigma * ACROSS_PX))
  const { width, height } = plane
  const slope = convolveSeparable({ ...plane, channels: 1 }, derivative, [1])
  const mask = { width: 1, height, channels: 1, data: new Float32Array(height) }
  for (let row = 0; row < height; row++) {
    if (isUsed(row)) mask.data[row] = 1
    else slope.data.fill(0, row * width, (row + 1) * width)
  }
  const along = gaussianTaps(ALONG_SIGMA_PX / ALONG_PX)
  const smooth = convolveSeparable(slope, [1], along)
  const share = convolveSeparable(mask, [1], along)
  for (let row = 0; row < height; row++) {
    const scale = 1 / Math.max(share.data[row]!, 0.05)
    for (let at = row * width; at < (row + 1) * width; at++) smooth.data[at] = smooth.data[at]! * scale
  }
  return smooth
}

/** How strong the slope across is in all channels together, whichever way it goes. @param slopes  One for each channel. */
export function slopeStrength(slopes: readonly Plane[]): Plane {
  const [{ width, height }] = slopes as [Plane]
  const data = new Float32Array(width * height)
  for (const slope of slopes)
    for (let at = 0; at < data.length; at++) data[at]! += slope.data[at]! * slope.data[at]!
  for (let row = 0; row < height; row++) {
    let mean = 0
    for (let at = row * width; at < (row + 1) * width; at++) {
      data[at] = Math.sqrt(data[at]! / slopes.length)
      mean += data[at]! / width
    }
    // Ground that is full of edges tells nothing by them.
    for (let at = row * width; at < (row + 1) * width; at++) data[at]! -= mean
  }
  return { width, height, data }
}

/**
 * @param slope   From `slopeAcross`.
 * @param widthAt Expected width of the line at each row, px.
 * @param reachPx How far from the middle the centre may lie.
 * @param isUsed  Rows that are seen; the others follow their neighbours.
 * @param fall  −1: brightness falls at the right edge; 1: what is told of both edges is how strong they are, whichever way they go.
 */
export function findLine(
  slope: Plane,
  middle: number,
  widthAt: (row: number) => number,
  reachPx: number,
  isUsed: (row: number) => boolean,
  freedom: number,
  fall: -1 | 1 = -1,
): FoundLine {
  const { width, height } = slope
  const read = readerOf(slope)
  const { chain, reach } = followLine(slope, middle, widthAt, reachPx, isUsed, fall)

  const weights = new Float64Array(height)
  const lefts = new Float64Array(height)
  const rights = new Float64Array(height)
  for (let row = 0; row < height; row++) {
    if (!isUsed(row)) continue
    const centre = middle - reach + chain[row]!
    const half = widthAt(row) / 2 / ACROSS_PX
    const left = peakNear(read, row, centre - half, 1, width)
    const right = peakNear(read, row, centre + half, fall, width)
    lefts[row] = (left.at - middle) * ACROSS_PX
    rights[row] = (right.at - middle) * ACROSS_PX
    weights[row] = Math.max(0, Math.min(left.height, right.height))
  }
  const centres = Float64Array.from(lefts, (left, row) => (left + rights[row]!) / 2)
  const measured = Float64Array.from(lefts, (left, row) => rights[row]! - left)
  const bends = Math.min(12, Math.max(4, Math.round((height * ALONG_PX) / freedom)))
  const line = smoothAlong(centres, weights, bends, 1)
  const widths = smoothAlong(measured, weights, 3, 1.2)
  const strengths = new Float64Array(height)
  let [total, used] = [0, 0]
  for (let row = 0; row < height; row++) {
    const column = middle + line.values[row]! / ACROSS_PX
    const half = widths.values[row]! / 2 / ACROSS_PX
    strengths[row] = Math.min(read(row, column - half), fall * read(row, column + half))
    if (!isUsed(row)) continue
    total += Math.max(0, strengths[row]!)
    used++
  }
  return {
    offsets: line.values,
    widths: widths.values.map((value) => Math.max(value, 1)),
    strengths,
    strength: used > 0 ? total / used : 0,
    spreadPx: line.spread,
  }
}

/** How well a line of one width can be followed: the mean response along the best chain. A quick look at many. */
export function scoreLine(
  slope: Plane,
  middle: number,
  widthPx: number,
  reachPx: number,
  isUsed: (row: number) => boolean,
  fall: -1 | 1 = -1,
): number {
  return followLine(slope, middle, () => widthPx, reachPx, isUsed, fall).score
}

function readerOf({ width, data }: Plane) {
  return (row: number, column: number): number => {
    const at = Math.min(Math.max(column, 0), width - 1.001)
    const left = at | 0
    const from = row * width + left
    return data[from]! + (at - left) * (data[from + 1]! - data[from]!)
  }
}

function followLine(
  slope: Plane,
  middle: number,
  widthAt: (row: number) => number,
  reachPx: number,
  isUsed: (row: number) => boolean,
  fall: -1 | 1,
) {
  const { height } = slope
  const read = readerOf(slope)
  const reach = Math.min(Math.floor(reachPx / ACROSS_PX), middle)
  const places = 2 * reach + 1
  const responses = new Float64Array(places * height)
  let sum = 0
  let count = 0
  for (let row = 0; row < height; row++) {
    if (!isUsed(row)) continue
    const half = widthAt(row) / 2 / ACROSS_PX
    for (let place = 0; place < places; place++) {
      const column = middle - reach + place
      const left = read(row, column - half)
      const right = fall * read(row, column + half)
      // Both edges must be there: one strong one alone is somebody else's.
      const response = left < right ? left + 0.3 * right : right + 0.3 * left
      responses[row * places + place] = response
      sum += response < 0 ? -response : response
      count++
    }
  }
  const typical = count > 0 ? sum / count : 1
  const chain = bestChain(responses, places, height, (SLOPE_COST * typical * ACROSS_PX * ACROSS_PX) / 0.25)
  let score = 0
  for (let row = 0; row < height; row++) score += responses[row * places + chain[row]!]!
  return { chain, reach, score: (score * places) / Math.max(count, 1) }
}

/** The chain of places, one a row, with the highest sum of responses less the cost of its steps. */
function bestChain(responses: Float64Array, places: number, rows: number, stepCost: number): Int32Array {
  let scores = responses.slice(0, places)
  const came = new Int8Array(places * rows)
  for (let row = 1; row < rows; row++) {
    const next = new Float64Array(places)
    for (let place = 0; place < places; place++) {
      let best = -Infinity
      let step = 0
      for (let move = -MAX_STEP; move <= MAX_STEP; move++) {
        const from = place + move
        if (from < 0 || from >= places) continue
        const score = scores[from]! - stepCost * move * move
        if (score > best) {
          best = score
          step = move
        }
      }
      next[place] = best + responses[row * places + place]!
      came[row * places + place] = step
    }
    scores = next
  }
  const chain = new Int32Array(rows)
  let place = 0
  for (let i = 1; i < places; i++) if (scores[i]! > scores[place]!) place = i
  for (let row = rows - 1; row >= 0; row--) {
    chain[row] = place
    place += came[row * places + place]!
  }
  return chain
}

/** The highest slope of a sign near a column, between samples. */
function peakNear(
  read: (row: number, column: number) => number,
  row: number,
  column: number,
  sign: number,
  width: number,
): { at: number; height: number } {
  const reach = Math.round(EDGE_SEARCH_PX / ACROSS_PX)
  let [best, at] = [-Infinity, column]
  for (let i = -reach; i <= reach; i++) {
    const place = column + i
    if (place < 1 || place > width - 2) continue
    const height = sign * read(row, place) - 0.002 * i * i
    if (height > best) [best, at] = [height, place]
  }
  const [a, b, c] = [sign * read(row, at - 1), sign * read(row, at), sign * read(row, at + 1)]
  const bend = a - 2 * b + c
  const shift = bend < -1e-12 ? Math.min(Math.max((a - c) / (2 * bend), -0.5), 0.5) : 0
  return { at: at + shift, height: b }
}

/**
 * A smooth function of the row through measured values: uniform cubic B-splines, outliers without a say.
 * Source: de Boor, "A Practical Guide to Splines"; weights after Beaton and Tukey, 1974.
 */
export function smoothAlong(
  values: Float64Array,
  weights: Float64Array,
  pieces: number,
  tolerance: number,
): { values: Float64Array; spread: number } {
  const rows = values.length
  const unknowns = pieces + 3
  const firsts = new Int32Array(rows)
  const bases = new Float64Array(rows * 4)
  for (let row = 0; row < rows; row++) {
    const t = (row / Math.max(rows - 1, 1)) * pieces
    const first = Math.min(Math.floor(t), pieces - 1)
    const f = t - first
    const g = 1 - f
    firsts[row] = first
    bases[row * 4] = (g * g * g) / 6
    bases[row * 4 + 1] = (3 * f * f * f - 6 * f * f + 4) / 6
    bases[row * 4 + 2] = (-3 * f * f * f + 3 * f * f + 3 * f + 1) / 6
    bases[row * 4 + 3] = (f * f * f) / 6
  }
  const used = weights.slice()
  const out = new Float64Array(rows)
  const off = new Float64Array(rows)
  let spread = 0
  for (let round = 0; round < 5; round++) {
    const upper = new Float64Array((unknowns * (unknowns + 1)) / 2)
    const right = new Float64Array(unknowns)
    const line = new Float64Array(unknowns)
    let total = 0
    for (let row = 0; row < rows; row++) {
      const weight = used[row]!
      if (weight <= 0) continue
      const b = row * 4
      for (let i = 0; i < 4; i++) {
        const r = firsts[row]! + i
        const at = r * unknowns - (r * (r - 1)) / 2
        const share = weight * bases[b + i]!
        for (let j = i; j < 4; j++) upper[at + j - i]! += share * bases[b + j]!
        right[r]! += share * values[row]!
      }
      total += weight
    }
    // A little stiffness: stretches that nothing measures run straight on between the others.
    const stiffness = 1e-3 * Math.max(total, 1e-9)
    for (let k = 0; k + 2 < unknowns; k++) {
      line.fill(0)
      line[k] = 1
      line[k + 1] = -2
      line[k + 2] = 1
      addEquation(upper, right, line, 0, stiffness)
    }
    const solved = solveSymmetric(upper, right)
    if (!solved) return { values: out, spread: Infinity }
    let measured = 0
    for (let row = 0; row < rows; row++) {
      const first = firsts[row]!
      let value = 0
      for (let k = 0; k < 4; k++) value += bases[row * 4 + k]! * solved[first + k]!
      out[row] = value
      if (weights[row]! > 0) off[measured++] = Math.abs(values[row]! - value)
    }
    spread = measured > 0 ? 1.4826 * off.subarray(0, measured).sort()[measured >> 1]! : 0
    const scale = 4.7 * Math.max(spread, 0.4 * tolerance)
    for (let row = 0; row < rows; row++) {
      const ratio = (values[row]! - out[row]!) / scale
      const rest = Math.max(0, 1 - ratio * ratio)
      used[row] = weights[row]! * rest * rest
    }
  }
  return { values: out, spread }
}
