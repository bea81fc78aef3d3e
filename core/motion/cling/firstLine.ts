/**
 * The line near a rough drawing: several looks and widths are tried, and of what they find that is kept whose colours across
 * tell most. How wide it was drawn is evidence: a highlight on a rod is a clear line too, but not the one that was drawn.
 */
import { exp, log } from '../../kernels/exact'
import type { Plane } from '../../image/raster'
import { channelLooks, firstLooks, learnLook, seenThrough } from './appearance'
import { same } from './clingCurves'
import { findLine, scoreLine, slopeAcross, slopeStrength } from './findLine'
import { learnProfile, type LearnedProfile, type LineProfile } from './profile'
import { fitProfile } from './profileFit'
import { ALONG_PX, type Straightened } from './ruler'

/** Why there is no line: too little was drawn to tell, or nothing near it is clear enough. */
export type NoLine = 'too-short' | 'no-line'

export interface FirstLine {
  /** Of its middle from the middle column, px, for each row. */
  readonly offsets: Float64Array
  readonly learned: LearnedProfile
}

/** How far a rough drawing may be off. */
export const ROUGH_PX = 14
const WIDTHS_PX = [2, 3, 4.5, 6.5, 9, 12, 16, 22, 30, 42] as const
/** People draw wider than the line is: common practice, no source. */
const DRAWN_WIDER = 1.3
const OF_DRAWN = [0.6, 0.8, 1, 1.2] as const
/** Deviation of the drawn width in natural logarithms, and how little a width can count. */
const [WIDTH_DEVIATION, MIN_WIDTH_SHARE] = [0.5, 0.2]
/** Of all looks and widths, and of all widths by strength alone, those that are fitted in full. */
const [CLOSE_LOOKS, CLOSE_WIDTHS] = [8, 2]
const ROUNDS = 4
/** A shorter drawing tells nothing: 30 px. */
const MIN_ROWS = 10
/**
 * How clear a line is: how much better it fits where it is than up to 12 px beside, times the root of what each px of it tells in nats, of
 * one at most. The shorter it was drawn, the more chance finds. Set on one half of the practice set: of lines 300 px long that are there
 * all but the faintest have .55 at least, of paths drawn where there is none nine in ten stay below .32; of 150 px .33 and .42, of 80 px .35 and .56.
 */
const CLARITY_REACH_PX = 12
const [CONVINCING_LONG, CONVINCING_MORE, LONG_PX] = [0.16, 0.15, 300]
const convincingFrom = (lengthPx: number): number =>
  CONVINCING_LONG + CONVINCING_MORE * Math.max(0, log(LONG_PX / lengthPx) / log(2))
/** Half of the strip that may be the line, of the drawn width, and px besides. */
const [HALF_SHARE, HALF_PX] = [0.62, 2.5]

/** What a straightened picture must hold beside the line, px. */
export const besidePx = (drawnPx: number): number => ROUGH_PX + halfOf(drawnPx) + 10

const halfOf = (drawnPx: number): number => HALF_SHARE * drawnPx + HALF_PX

/** @param drawnPx  The width it was drawn with. @returns Why there is none, where there is none. */
export function findFirstLine(
  rough: Straightened,
  drawnPx: number,
  isUsed: (row: number) => boolean,
  freedomPx: number,
): FirstLine | NoLine {
  let used = 0
  for (let row = 0; row < rough.raster.height; row++) if (isUsed(row)) used++
  if (used < MIN_ROWS) return 'too-short'
  const channels = Math.min(rough.raster.channels, 3)
  const widths = [...WIDTHS_PX, ...OF_DRAWN.map((share) => (share * drawnPx) / DRAWN_WIDER)]
  const scored = (slope: Plane, fall: -1 | 1) =>
    widths.map((widthPx) => {
      const share = shareOfWidth(widthPx, drawnPx)
      return {
        slope,
        fall,
        widthPx,
        score: share * scoreLine(slope, rough.middle, widthPx, ROUGH_PX, isUsed, fall),
      }
    })
  const bySign = firstLooks(channels).flatMap((look) =>
    scored(slopeAcross(seenThrough(rough, look), isUsed), -1),
  )
  const slopes = channelLooks(channels).map((look) => slopeAcross(seenThrough(rough, look), isUsed))
  const byStrength = scored(slopeStrength(slopes), 1)
  let best: (FirstLine & { readonly score: number }) | null = null
  for (const { slope, fall, widthPx } of [
    ...closest(bySign, CLOSE_LOOKS),
    ...closest(byStrength, CLOSE_WIDTHS),
  ]) {
    const line = findLine(slope, rough.middle, () => widthPx, ROUGH_PX, isUsed, freedomPx, fall)
    const learned = learnProfile(rough, line.offsets, isUsed, halfOf(drawnPx))
    if (!learned) continue
    const score = (learned.information * shareOfWidth(learned.widthPx, drawnPx)) / (1 + line.spreadPx)
    if (!best || score > best.score) best = { offsets: line.offsets, learned, score }
  }
  if (!best) return 'no-line'
  const found = refined(rough, best, drawnPx, isUsed, freedomPx)
  const { profile, information, widthPx } = found.learned
  const { clarity } = fitProfile(rough, profile, CLARITY_REACH_PX, isUsed, freedomPx)
  const clearness = clarity * Math.sqrt(Math.min(1, information / widthPx))
  return clearness >= convincingFrom(used * ALONG_PX) ? found : 'no-line'
}

const closest = <T extends { readonly score: number }>(some: readonly T[], count: number): T[] =>
  [...some].sort((a, b) => b.score - a.score).slice(0, count)

/** Centred on its outer edges, matched and learned again in turn. */
function refined(
  rough: Straightened,
  { offsets, learned }: FirstLine,
  drawnPx: number,
  isUsed: (row: number) => boolean,
  freedomPx: number,
): FirstLine {
  for (let round = 0; round < ROUNDS; round++) {
    const centred = offsets.map((offset) => offset + learned.shiftPx)
    const fitted = fitProfile(rough, learned.profile, ROUGH_PX + 4, isUsed, freedomPx)
    // Matched, a profile lies where it was learned; where it does not, the rows did not agree on it.
    const next = learnProfile(rough, fitted.offsets, isUsed, halfOf(drawnPx))
    if (!next || next.information < 0.8 * learned.information) {
      offsets = centred
      break
    }
    offsets = fitted.offsets
    learned = next
  }
  return { offsets: offsets.map((offset) => offset + learned.shiftPx), learned }
}

function shareOfWidth(widthPx: number, drawnPx: number): number {
  const ratio = log(widthPx / (drawnPx / DRAWN_WIDER)) / WIDTH_DEVIATION
  return Math.max(MIN_WIDTH_SHARE, exp(-0.5 * ratio * ratio))
}

/** Of the line as its profile fits and as its edges do, the one whose colours tell more. */
export function clearest(
  ruler: Straightened,
  profile: LineProfile,
  widthPx: number,
  reachPx: number,
  isUsed: (row: number) => boolean,
  freedomPx: number,
): { readonly offsets: Float64Array; readonly learned: LearnedProfile } | null {
  const byProfile = fitProfile(ruler, profile, reachPx, isUsed, freedomPx).offsets
  const look = learnLook(ruler, byProfile, same(widthPx, byProfile.length), isUsed)
  const slope = look && slopeAcross(seenThrough(ruler, look), isUsed)
  const byEdges = slope && findLine(slope, ruler.middle, () => widthPx, reachPx, isUsed, freedomPx).offsets
  let best: { offsets: Float64Array; learned: LearnedProfile } | null = null
  for (const offsets of byEdges ? [byProfile, byEdges] : [byProfile]) {
    const learned = learnProfile(ruler, offsets, isUsed, widthPx / 2 + 2)
    if (!learned || (best && learned.information <= best.learned.information)) continue
    best = { offsets: offsets.map((offset) => offset + learned.shiftPx), learned }
  }
  return best
}
