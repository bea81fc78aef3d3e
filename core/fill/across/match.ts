/**
 * Which place on one side of a path belongs to which on the other.
 *
 * An edge that crosses a wire at an angle leaves one side further along the path than it enters the
 * other. The shift between the sides is found for every px of the path at once: dynamic programming
 * over all shifts, with a price on shifts that change along the path.
 * Source: the Viterbi recurrence on scan-line matching, as in Y. Ohta and T. Kanade, "Stereo by intra-
 * and inter-scanline search using dynamic programming", IEEE Trans. PAMI 7(2), 1985.
 */
import type { Raster } from '../../image/raster'

export interface SideMatch {
  /** How much further along the path the right side's counterpart lies, in px, per column. */
  readonly shifts: Float32Array
  /** How well the two sides agree there: 0 no better than chance, 1 fully. */
  readonly agreement: Float32Array
}

const WINDOW_PX = 8 // compared this far to either side of a place

const BEND_PRICE = 2 // of the sides' mean difference, per px of change from column to column
const SLANT_PRICE = 0.25 // per px of shift for each px of gap: between equals the straighter joins
const AGREEMENT_WINDOW_PX = 7
const CHANCE = 0.6 // correlation that the best of many shifts reaches on unrelated texture

/** How badly the two sides fit, for every column and shift;. */
export interface SideCosts {
  readonly columns: number
  readonly maxShift: number
  readonly gapPx: number
  /** A row of 2 mostShift + 1 for each column: mean squared differences. */
  readonly costs: Float64Array
}

/** The same path on another frame. */
export interface MatchBeside {
  readonly costs: SideCosts
  readonly agreement: Float32Array
}

/**
 * @param left, right  Strips of the same size; their first rows are compared.
 * @param mostShift    Largest shift considered, in px; 0 keeps the sides straight across.
 * @param gapPx        From rim to rim: with it a shift is a slope, which edges beside the path should have too.
 */
export const measureSideCosts = (
  left: Raster,
  right: Raster,
  maxShift: number,
  gapPx: number,
): SideCosts => ({
  columns: left.width,
  maxShift,
  gapPx,
  costs: windowedCosts(left, right, maxShift, gapPx),
})

/**
 * Costs with those of frames beside added: places keep their share of the way along the path, so that the
 * shifts chosen hardly change from one frame to the next.
 */
export function joinSideCosts(own: SideCosts, beside: readonly MatchBeside[]): SideCosts {
  const { columns, maxShift, gapPx } = own
  if (beside.length === 0 || maxShift === 0) return own
  const shiftCount = 2 * maxShift + 1
  const costs = own.costs.slice()
  for (const { costs: other } of beside) {
    const step = (other.columns - 1) / Math.max(1, columns - 1)
    const apart = other.maxShift - maxShift
    const theirs = 2 * other.maxShift + 1
    for (let column = 0; column < columns; column++) {
      const from = Math.round(column * step) * theirs
      for (let s = 0; s < shiftCount; s++) {
        const at = Math.min(Math.max(s + apart, 0), theirs - 1)
        costs[column * shiftCount + s]! += other.costs[from + at]!
      }
    }
  }
  return { columns, maxShift, gapPx, costs }
}

/** Agreement averaged with that of the frames beside. */
export function joinAgreement(own: Float32Array, beside: readonly MatchBeside[]): Float32Array {
  if (beside.length === 0) return own
  return own.map((value, column) => {
    let sum = value
    for (const { agreement } of beside) {
      sum += agreement[Math.round((column * (agreement.length - 1)) / Math.max(1, own.length - 1))]!
    }
    return sum / (beside.length + 1)
  })
}

/** The shift of every column: the cheapest way through all of them. */
export function chooseShifts({ columns, maxShift, gapPx, costs }: SideCosts): Float32Array {
  const shiftCount = 2 * maxShift + 1
  let mean = 0
  for (const cost of costs) mean += cost
  mean = mean / costs.length + 1e-12
  const from = new Int16Array(columns * shiftCount)
  let totals = new Float64Array(shiftCount)
  let next = new Float64Array(shiftCount)
  for (let column = 0; column < columns; column++) {
    for (let s = 0; s < shiftCount; s++) {
      let best = totals[s]!
      let bestFrom = s
      // A shift changes by at most one px from column to column: 45° is the steepest bend.
      for (const other of [s - 1, s + 1]) {
        if (other < 0 || other >= shiftCount) continue
        const total = totals[other]! + BEND_PRICE * mean
        if (total < best) {
          best = total
          bestFrom = other
        }
      }
      from[column * shiftCount + s] = bestFrom
      next[s] = best + costs[column * shiftCount + s]! + (SLANT_PRICE * mean * Math.abs(s - maxShift)) / gapPx
    }
    ;[totals, next] = [next, totals]
  }
  let s = totals.indexOf(Math.min(...totals))
  const raw = new Float32Array(columns)
  for (let column = columns - 1; column >= 0; column--) {
    raw[column] = s - maxShift
    s = from[column * shiftCount + s]!
  }
  return smooth(raw, 2)
}

export function matchSides(
  left: Raster,
  right: Raster,
  maxShift: number,
  gapPx: number,
  beside: readonly MatchBeside[] = [],
): SideMatch {
  const shifts = chooseShifts(joinSideCosts(measureSideCosts(left, right, maxShift, gapPx), beside))
  return { shifts, agreement: joinAgreement(measureAgreement(left, right, shifts), beside) }
}

/** How far outwards from the rim the course of edges beside the path is read: at three rows, the farthest so far out. */
export const courseRowsOf = (gapPx: number): number => Math.max(6, Math.min(20, Math.round(gapPx / 3)))
const COURSE_SHARE = 1 // how much the course of edges counts against the likeness of the rims

/**
 * Mean squared difference of the sides around each column, for every shift; and how badly each side, read outwards, keeps
 * to the slope that the shift means. On stripes the rims alone cannot tell a shift from one that is a stripe longer.
 */
function windowedCosts(left: Raster, right: Raster, maxShift: number, gapPx: number): Float64Array {
  const { width: columns, channels } = left
  const shiftCount = 2 * maxShift + 1
  const rows = Math.min(2, left.height)
  const costs = new Float64Array(columns * shiftCount)
  const differences = new Float64Array(columns + 1)
  const greys = maxShift > 0 ? [greyRows(left), greyRows(right)] : []
  const farthest = Math.min(courseRowsOf(gapPx), left.height - 1)
  const outward = [1 / 3, 2 / 3, 1].map((share) => Math.round(share * farthest)).filter((row) => row > 0)
  for (let s = 0; s < shiftCount; s++) {
    const shift = s - maxShift
    const half = Math.floor(shift / 2)
    const slope = shift / gapPx
    for (let column = 0; column < columns; column++) {
      const a = clampColumn(column - half, columns)
      const b = clampColumn(column - half + shift, columns)
      let sum = 0
      for (let row = 0; row < rows; row++) {
        for (let channel = 0; channel < channels; channel++) {
          const difference =
            left.data[(row * columns + a) * channels + channel]! -
            right.data[(row * columns + b) * channels + channel]!
          sum += difference * difference
        }
      }
      sum /= rows * channels
      if (greys.length > 0 && outward.length > 0) {
        let course = 0
        for (const row of outward) {
          const before = greys[0]![a]! - readRow(greys[0]!, columns, row, a - row * slope)
          const after = greys[1]![b]! - readRow(greys[1]!, columns, row, b + row * slope)
          course += before * before + after * after
        }
        sum += (COURSE_SHARE * course) / (2 * outward.length)
      }
      differences[column + 1] = differences[column]! + sum
    }
    for (let column = 0; column < columns; column++) {
      const begin = Math.max(0, column - WINDOW_PX)
      const end = Math.min(columns, column + WINDOW_PX + 1)
      costs[column * shiftCount + s] = (differences[end]! - differences[begin]!) / (end - begin)
    }
  }
  return costs
}

/** Brightness of every place of a strip. */
function greyRows({ width, height, channels, data }: Raster): Float32Array {
  const grey = new Float32Array(width * height)
  const colours = Math.min(channels, 3)
  for (let at = 0; at < grey.length; at++)
    for (let c = 0; c < colours; c++) grey[at]! += data[at * channels + c]! / colours
  return grey
}

function readRow(grey: Float32Array, columns: number, row: number, at: number): number {
  const u = at < 0 ? 0 : at > columns - 1 ? columns - 1 : at
  const i = Math.min(Math.floor(u), columns - 2)
  const from = row * columns + i
  return grey[from]! + (u - i) * (grey[from + 1]! - grey[from]!)
}

/** Correlation of the two sides along the path, in a window that slides with the shift. */
export function measureAgreement(left: Raster, right: Raster, shifts: Float32Array): Float32Array {
  const { width: columns, channels } = left
  const agreement = new Float32Array(columns)
  for (let column = 0; column < columns; column++) {
    const half = shifts[column]! / 2
    let together = 0
    let spreadLeft = 0
    let spreadRight = 0
    for (let channel = 0; channel < channels; channel++) {
      let [n, sumA, sumB, sumAA, sumBB, sumAB] = [0, 0, 0, 0, 0, 0]
      for (let k = -AGREEMENT_WINDOW_PX; k <= AGREEMENT_WINDOW_PX; k++) {
        const a = left.data[clampColumn(Math.round(column + k - half), columns) * channels + channel]!
        const b = right.data[clampColumn(Math.round(column + k + half), columns) * channels + channel]!
        n++
        sumA += a
        sumB += b
        sumAA += a * a
        sumBB += b * b
        sumAB += a * b
      }
      together += sumAB / n - (sumA / n) * (sumB / n)
      spreadLeft += sumAA / n - (sumA / n) * (sumA / n)
      spreadRight += sumBB / n - (sumB / n) * (sumB / n)
    }
    const spread = (spreadLeft + spreadRight) / 2
    agreement[column] =
      spread > 1e-9 ? Math.min(Math.max((together / spread - CHANCE) / (1 - CHANCE), 0), 1) : 0
  }
  return smooth(agreement, 3)
}

/** A running mean over `radius` columns to either side. */
function smooth(values: Float32Array, radius: number): Float32Array {
  return values.map((_, column) => {
    const begin = Math.max(0, column - radius)
    const end = Math.min(values.length, column + radius + 1)
    let sum = 0
    for (let i = begin; i < end; i++) sum += values[i]!
    return sum / (end - begin)
  })
}

const clampColumn = (column: number, columns: number): number => Math.min(Math.max(column, 0), columns - 1)
