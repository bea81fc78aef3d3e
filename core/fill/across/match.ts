/**
 * Which place on one side of a path belongs to which on the other. The loops are in `kernels/assembly/match.ts`.
 *
 * An edge that crosses a wire at an angle leaves one side further along the path than it enters the
 * other. The shift between the sides is found for every px of the path at once: dynamic programming
 * over all shifts, with a price on shifts that change along the path. Beside the likeness of the rims it counts how badly
 * each side, read outwards, keeps to the slope that a shift means: on stripes the rims alone cannot tell a shift from one
 * that is a stripe longer.
 * Source: the Viterbi recurrence on scan-line matching, as in Y. Ohta and T. Kanade, "Stereo by intra-
 * and inter-scanline search using dynamic programming", IEEE Trans. PAMI 7(2), 1985.
 */
import type { KernelScope } from '../../kernels/memory'
import { kernels } from '../../kernels/module'
import { MATCHED_LEVEL, stripBytes, type Strips } from './strips'

export interface SideMatch {
  /** How much further along the path the right side's counterpart lies, in px, per column. */
  readonly shifts: Float32Array
  /** How well the two sides agree there: 0 no better than chance, 1 fully. */
  readonly agreement: Float32Array
}

const BEND_PRICE = 2 // of the sides' mean difference, per px of change from column to column
const SLANT_PRICE = 0.25 // per px of shift for each px of gap: between equals the straighter joins
const AGREEMENT_WINDOW_PX = 7
const CHANCE = 0.6 // correlation that the best of many shifts reaches on unrelated texture

/** How far sides may be shifted against each other. */
export interface ShiftRange {
  /** Largest shift considered, in px; 0 keeps the sides straight across. */
  readonly maxShift: number
  /** From rim to rim: with it a shift is a slope, which edges beside the path should have too. */
  readonly gapPx: number
}

/** How badly the two sides fit, for every column and shift. */
export interface SideCosts extends ShiftRange {
  readonly columns: number
  /** A row of 2 maxShift + 1 for each column: mean squared differences. */
  readonly costs: Float32Array
}

/** The same path on another frame. */
export interface MatchBeside {
  readonly costs: SideCosts
  readonly agreement: Float32Array
}

/** How far outwards from the rim the course of edges beside the path is read: at three rows, the farthest so far out. */
export const courseRowsOf = (gapPx: number): number => Math.max(6, Math.min(20, Math.round(gapPx / 3)))

/** What reading along a slope, and shifted, needs of a strip beyond its ends. */
const padOf = ({ maxShift, gapPx }: ShiftRange, farthest: number): number =>
  maxShift + Math.ceil((farthest * maxShift) / gapPx) + 4

/** Kernel memory that matching takes at most. */
export function matchMemory({ columns, rows }: Pick<Strips, 'columns' | 'rows'>, range: ShiftRange): number {
  const pad = padOf(range, Math.min(courseRowsOf(range.gapPx), rows - 1))
  const costs = columns * (2 * range.maxShift + 1)
  return (
    kernels().sideCostBytes(columns, pad) + costs * 9 + 24 * (2 * range.maxShift + 8) + 8 * columns + 4096
  )
}

/** The matched level of a side. */
const matched = ({ columns, rows }: Strips, { strips }: Strips['left']): number =>
  strips + MATCHED_LEVEL * stripBytes(columns, rows)

/** Costs of all shifts, in kernel memory. */
function measureCosts(strips: Strips, range: ShiftRange, scope: KernelScope): Float32Array {
  const { columns, rows, channels, left, right } = strips
  const { maxShift, gapPx } = range
  const farthest = Math.min(courseRowsOf(gapPx), rows - 1)
  const pad = padOf(range, farthest)
  const costs = scope.floats(columns * (2 * maxShift + 1))
  const scratch = scope.reserve(kernels().sideCostBytes(columns, pad))
  // prettier-ignore
  kernels().sideCosts(
    matched(strips, left), matched(strips, right), columns, rows, channels, maxShift, gapPx, farthest, pad,
    scratch, costs.byteOffset,
  )
  return costs
}

/** The shift of every column: the cheapest way through all of them. */
function chooseShifts(
  columns: number,
  costs: Float32Array,
  range: ShiftRange,
  scope: KernelScope,
): Float32Array {
  const count = 2 * range.maxShift + 1
  const scratch = scope.reserve(3 * 8 * (count + 4) + columns * count + 32)
  const raw = scope.floats(columns)
  // prettier-ignore
  kernels().chooseShifts(
    costs.byteOffset, columns, range.maxShift, BEND_PRICE, SLANT_PRICE / range.gapPx, scratch, raw.byteOffset,
  )
  return smooth(raw, 2)
}

/** Correlation of the two sides along the path, in a window that slides with the shift. */
function measureAgreement(strips: Strips, shifts: Float32Array, scope: KernelScope): Float32Array {
  const { columns, left, right } = strips
  const raw = scope.floats(columns)
  // prettier-ignore
  kernels().sideAgreement(
    matched(strips, left), matched(strips, right), columns, scope.pointerTo(shifts), AGREEMENT_WINDOW_PX, CHANCE,
    raw.byteOffset,
  )
  return smooth(raw, 3)
}

/** What other frames' matching takes of this one. */
export function prepareMatch(strips: Strips, range: ShiftRange, scope: KernelScope): MatchBeside {
  const costs = measureCosts(strips, range, scope)
  const shifts = chooseShifts(strips.columns, costs, range, scope)
  return {
    costs: { ...range, columns: strips.columns, costs: costs.slice() },
    agreement: measureAgreement(strips, shifts, scope),
  }
}

/** @param beside  Of frames beside: what they chose has the same say, so that shifts hardly change from frame to frame. */
export function matchSides(
  strips: Strips,
  range: ShiftRange,
  beside: readonly MatchBeside[],
  scope: KernelScope,
): SideMatch {
  const costs = measureCosts(strips, range, scope)
  if (range.maxShift > 0) {
    for (const { costs: other } of beside) {
      const from = scope.pointerTo(other.costs)
      kernels().addCosts(
        costs.byteOffset,
        strips.columns,
        range.maxShift,
        from,
        other.columns,
        other.maxShift,
      )
    }
  }
  const shifts = chooseShifts(strips.columns, costs, range, scope)
  return { shifts, agreement: joinAgreement(measureAgreement(strips, shifts, scope), beside) }
}

/** Agreement averaged with that of the frames beside. */
function joinAgreement(own: Float32Array, beside: readonly MatchBeside[]): Float32Array {
  if (beside.length === 0) return own
  return own.map((value, column) => {
    let sum = value
    for (const { agreement } of beside) {
      sum += agreement[Math.round((column * (agreement.length - 1)) / Math.max(1, own.length - 1))]!
    }
    return sum / (beside.length + 1)
  })
}

/** A running mean over `radius` columns to either side. */
function smooth(values: Float32Array, radius: number): Float32Array {
  const out = new Float32Array(values.length)
  for (let column = 0; column < values.length; column++) {
    const begin = Math.max(0, column - radius)
    const end = Math.min(values.length, column + radius + 1)
    let sum = 0
    for (let i = begin; i < end; i++) sum += values[i]!
    out[column] = sum / (end - begin)
  }
  return out
}
