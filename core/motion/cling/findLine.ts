/**
 * Where the line runs inside a straightened picture: a pair of opposite edges, followed along the path.
 *
 * Every place across is judged by the rise of brightness half a width to its left and the fall half a width to
 * its right; the best chain of places is found by dynamic programming, then each edge is measured between
 * samples and both are smoothed along the path without listening to outliers.
 * Source: common practice; the chain after Amini, Weymouth and Jain, "Using dynamic programming for solving
 * variational problems in vision", IEEE PAMI 12(9), 1990.
 */
import { convolveSeparable, gaussianTaps } from '../../image/convolve'
import type { Plane } from '../../image/raster'
import { kernels } from '../../kernels/module'
import { withKernelMemory, writeWithKernel } from '../../kernels/memory'
import { leastChain, usedRows } from './leastChain'
import { ACROSS_PX, ALONG_PX } from './ruler'
import { smoothAlong } from './smoothAlong'

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
  { width, height, data }: Plane,
  middle: number,
  widthAt: (row: number) => number,
  reachPx: number,
  isUsed: (row: number) => boolean,
  fall: -1 | 1,
) {
  const reach = Math.min(Math.floor(reachPx / ACROSS_PX), middle)
  const places = 2 * reach + 1
  const used = usedRows(height, isUsed)
  const halves = Float64Array.from({ length: height }, (_, row) => widthAt(row) / 2 / ACROSS_PX)
  const costs = new Float32Array(places * height)
  const bytes = data.byteLength + costs.byteLength + halves.byteLength + used.byteLength + 1024
  const sum = withKernelMemory(bytes, (scope) => {
    const [slope, isUsedAt, halvesAt] = [data, used, halves].map((array) => scope.pointerTo(array)) as [
      number,
      number,
      number,
    ]
    let sizes = 0
    writeWithKernel(scope, costs, (out) => {
      new Float32Array(kernels().memory.buffer, out, costs.length).fill(0)
      sizes = kernels().edgeCosts(slope, width, height, isUsedAt, halvesAt, middle - reach, places, fall, out)
    })
    return sizes
  })
  const count = places * used.reduce((all, one) => all + one, 0)
  const typical = count > 0 ? sum / count : 1
  const chain = leastChain(costs, places, height, (SLOPE_COST * typical * ACROSS_PX * ACROSS_PX) / 0.25)
  let score = 0
  for (let row = 0; row < height; row++) score -= costs[row * places + chain[row]!]!
  return { chain, reach, score: (score * places) / Math.max(count, 1) }
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
