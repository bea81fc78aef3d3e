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
const SLANT_PRICE = 0.05 // per px of shift: between equals the straighter joins
const AGREEMENT_WINDOW_PX = 7
const CHANCE = 0.6 // correlation that the best of many shifts reaches on unrelated texture

/**
 * @param left, right  Strips of the same size; their first rows are compared.
 * @param mostShift    Largest shift considered, in px; 0 keeps the sides straight across.
 */
export function matchSides(left: Raster, right: Raster, mostShift: number): SideMatch {
  const columns = left.width
  const shiftCount = 2 * mostShift + 1
  const costs = windowedCosts(left, right, mostShift)
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
      next[s] = best + costs[column * shiftCount + s]! + SLANT_PRICE * mean * Math.abs(s - mostShift)
    }
    ;[totals, next] = [next, totals]
  }
  let s = totals.indexOf(Math.min(...totals))
  const raw = new Float32Array(columns)
  for (let column = columns - 1; column >= 0; column--) {
    raw[column] = s - mostShift
    s = from[column * shiftCount + s]!
  }
  const shifts = smooth(raw, 2)
  return { shifts, agreement: measureAgreement(left, right, shifts) }
}

/** Mean squared difference of the sides around each column, for every shift. */
function windowedCosts(left: Raster, right: Raster, mostShift: number): Float64Array {
  const { width: columns, channels } = left
  const shiftCount = 2 * mostShift + 1
  const rows = Math.min(2, left.height)
  const costs = new Float64Array(columns * shiftCount)
  const differences = new Float64Array(columns + 1)
  for (let s = 0; s < shiftCount; s++) {
    const shift = s - mostShift
    const half = Math.floor(shift / 2)
    for (let column = 0; column < columns; column++) {
      const a = clampColumn(column - half, columns)
      const b = clampColumn(column - half + shift, columns)
      let sum = 0
      for (let row = 0; row < rows; row++) {
        for (let channel = 0; channel < channels; channel++) {
          const difference = left.data[(row * columns + a) * channels + channel]! - right.data[(row * columns + b) * channels + channel]!
          sum += difference * difference
        }
      }
      differences[column + 1] = differences[column]! + sum / (rows * channels)
    }
    for (let column = 0; column < columns; column++) {
      const begin = Math.max(0, column - WINDOW_PX)
      const end = Math.min(columns, column + WINDOW_PX + 1)
      costs[column * shiftCount + s] = (differences[end]! - differences[begin]!) / (end - begin)
    }
  }
  return costs
}

/** Correlation of the two sides along the path, in a window that slides with the shift. */
function measureAgreement(left: Raster, right: Raster, shifts: Float32Array): Float32Array {
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
    agreement[column] = spread > 1e-9 ? Math.min(Math.max((together / spread - CHANCE) / (1 - CHANCE), 0), 1) : 0
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
