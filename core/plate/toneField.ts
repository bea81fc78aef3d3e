/**
 * How the light of another frame differs from this one's around an area: a gain for each channel that may change
 * smoothly over the place (one lamp flickers, another does not), and an offset.
 *
 * Weighted least squares, repeated with weights that fall as Tukey's biweight. The gain is a polynomial of second
 * degree over the place; what the ring does not fix stays level. Source: common practice.
 */
import { solveSymmetric } from '../geometry/linear'
import { kernels } from '../kernels/module'
import type { Anchors } from './anchors'
import type { KernelTone, ReadingPlanes } from './places'

export interface ToneField {
  readonly tone: KernelTone
  /** Standard deviation of what remains, for each channel, in the plate's scale. */
  readonly residuals: readonly number[]
}

/** v, vX, vY, vXX, vXY, vYY, 1. */
const TERMS = 7
/** Of the normal equations, and the median of what remains. */
const SUMS = 30
const ROUNDS = 3
const MIN_PLACES = 40
const DARK = 0.02 // below, a ratio says nothing
const DEVIATION_OF_MEDIAN = 1.4826 // of normal differences
const BIWEIGHT_REACH = 4.685 // deviations; Tukey's usual
const MIN_DEVIATION = 1e-5

/** Bytes of terms for so many channels. */
export const toneBytes = (channels: number): number => 4 * TERMS * channels

/**
 * Fits the light at the anchors.
 * @param there  What the other frame shows at them. @param terms  Where the terms go, `toneBytes` of kernel memory.
 * @returns null when too few anchors are seen there.
 */
export function fitToneField(anchors: Anchors, there: ReadingPlanes, terms: number): ToneField | null {
  const residuals: number[] = []
  for (let c = 0; c < anchors.channels; c++) {
    const fitted = fitChannel(anchors, there, c)
    if (!fitted) return null
    new Float32Array(kernels().memory.buffer, terms + 4 * TERMS * c, TERMS).set(fitted.terms)
    residuals.push(fitted.residual)
  }
  const { x, y, unit } = anchors.frame
  return { tone: { terms, x0: x, y0: y, unit }, residuals }
}

function fitChannel(anchors: Anchors, there: ReadingPlanes, channel: number) {
  const { usualRatio, usualDifference, toneSums, memory } = kernels()
  const { places, unitXs, unitYs, work } = anchors
  const own = anchors.values + 4 * places.count * channel
  const theirs = there.values + 4 * there.stride * channel
  const [termsAt, sumsAt, sizes] = [work, work + 8 * TERMS, work + 8 * (TERMS + SUMS)]
  const sums = new Float64Array(memory.buffer, sumsAt, SUMS)
  const cell = new Float64Array(memory.buffer, termsAt, TERMS)
  // Begun with the usual ratio: a plain fit would be led astray by what shows something else.
  const ratio = usualRatio(own, theirs, there.kept, places.count, DARK, MIN_PLACES / 2, sizes)
  let now = Float64Array.of(ratio - 1, 0, 0, 0, 0, 0, 0)
  let reach = reachOf(usualDifference(own, theirs, there.kept, places.count, ratio, sizes))
  let residual = 0
  for (let round = 0; round < ROUNDS; round++) {
    cell.set(now)
    // prettier-ignore
    const seen = toneSums(unitXs, unitYs, own, theirs, there.kept, places.count, termsAt, reach, sizes, sumsAt)
    if (seen < MIN_PLACES) return null
    const median = sums[SUMS - 1]!
    residual = Math.max(DEVIATION_OF_MEDIAN * median, MIN_DEVIATION)
    reach = reachOf(median)
    const solved = solveSymmetric(heldLevel(upperOf(sums)), sums.subarray(22, 22 + TERMS))
    if (!solved) return null
    now = new Float64Array(solved)
  }
  return { terms: now, residual }
}

const reachOf = (median: number): number =>
  BIWEIGHT_REACH * Math.max(DEVIATION_OF_MEDIAN * median, MIN_DEVIATION)

/** The normal matrix from its different sums; see `assembly/tone.ts` for their order. */
function upperOf(s: Float64Array): Float64Array {
  const [s00, s10, s01, s20, s11, s02, s30, s21, s12, s03, s40, s31, s22, s13, s04] = s
  const [l00, l10, l01, l20, l11, l02, w] = s.subarray(15, 22)
  // prettier-ignore
  return Float64Array.of(
    s00!, s10!, s01!, s20!, s11!, s02!, l00!,
    s20!, s11!, s30!, s21!, s12!, l10!,
    s02!, s21!, s12!, s03!, l01!,
    s40!, s31!, s22!, l20!,
    s22!, s13!, l11!,
    s04!, l02!,
    w!,
  )
}

/**
 * Some of the gain's own weight on the slopes, the bends and the offset: they stay 0 unless the ring asks for them from all sides.
 * Where it is seen on one side only, a bend would run away on the other. Set on the demo film.
 */
const HOLD = [1e-9, 2e-3, 2e-3, 1e-2, 1e-2, 1e-2, 1e-3] as const

function heldLevel(upper: Float64Array): Float64Array {
  const base = upper[0]!
  for (let i = 0, at = 0; i < TERMS; at += TERMS - i, i++) upper[at]! += base * HOLD[i]!
  return upper
}
