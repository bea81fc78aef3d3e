/** How coarse grain shows itself: statistics of a Gaussian blur of white grain, and the way back from them. */
import { coarseTaps, FINEST_PX } from './grain'

export interface CoarseStats {
  readonly coarsePx: number
  /** Correlation of places 0, 1, 2 and 4 px apart along a row or a column. */
  readonly correlations: { readonly r1: number; readonly r2: number; readonly r4: number }
}

/** What the mask (1 −2 1)ᵀ(1 −2 1) makes of grain of deviation 1, its taps 1 px apart; 6 for white grain. */
export const fineGain = ({ correlations: { r1, r2 } }: CoarseStats): number => 6 - 8 * r1 + 2 * r2
/** The same with taps 2 px apart. */
export const wideGain = ({ correlations: { r2, r4 } }: CoarseStats): number => 6 - 8 * r2 + 2 * r4

const LARGEST_STEP = 30
const STEP_PX = 0.05
let table: readonly CoarseStats[] | undefined

export function statsOf(coarsePx: number): CoarseStats {
  if (coarsePx < FINEST_PX) return { coarsePx: 0, correlations: { r1: 0, r2: 0, r4: 0 } }
  const taps = coarseTaps(coarsePx)
  const correlation = (lag: number) => taps.reduce((sum, tap, i) => sum + tap * (taps[i + lag] ?? 0), 0)
  return { coarsePx, correlations: { r1: correlation(1), r2: correlation(2), r4: correlation(4) } }
}

/** The coarseness, px, at which a statistic that rises with it has a value; between the table's steps it runs straight. */
export function coarsenessWhere(statistic: (one: CoarseStats) => number, value: number): number {
  table ??= Array.from({ length: LARGEST_STEP + 1 }, (_, i) =>
    statsOf(i === 0 ? 0 : FINEST_PX + (i - 1) * STEP_PX),
  )
  let low = table[0]!
  let lowValue = statistic(low)
  if (value <= lowValue) return 0
  for (const high of table) {
    const highValue = statistic(high)
    if (value <= highValue)
      return (
        low.coarsePx +
        ((value - lowValue) / Math.max(highValue - lowValue, 1e-9)) * (high.coarsePx - low.coarsePx)
      )
    low = high
    lowValue = highValue
  }
  return low.coarsePx
}
