/** How much of a mark is there on every frame, for one that fades or pulses. */
import { fewestKeys, type CurveKey } from '../curveKeys'
import type { RunContext } from '../shot/context'
import { observe, type EstimatedMark } from './estimateMark'
import { groundUnder, type MarkFootage } from './groundUnder'
import { gridOfOpacity, type MarkPlace } from './markPlaces'
import { SEEN } from './observation'
import { middleOf, strengthsOf } from './strengths'

/** Strengths are straight within this. */
const STRAIGHT = 0.03
const MIN_OPACITY = 0.03
const AROUND_PX = 2
/** Ground that was only guessed has this say beside ground that was seen. */
const GUESSED_SAY = 0.1

/** @returns Keys of its strength, 0 to 1; one for a mark that does not fade; null when it was stopped. */
export async function markFades(
  footage: MarkFootage,
  mark: EstimatedMark,
  places: readonly MarkPlace[],
  context: RunContext,
): Promise<readonly CurveKey[] | null> {
  if (mark.strengths.every((one) => one === 1)) return [{ frame: 0, level: 1 }]
  const { col, row, width, height } = mark
  const grid = gridOfOpacity({ col, row, width, height }, mark.opacity, MIN_OPACITY, AROUND_PX)
  const levels: CurveKey[] = []
  for (const [done, place] of places.entries()) {
    const ground = await groundUnder(footage, grid, place, context)
    if (context.shouldStop()) return null
    if (ground) {
      const seen = observe(ground, grid, place)
      const strength = middleOf(strengthsOf(seen, mark, (at) => (seen.known[at] === SEEN ? 1 : GUESSED_SAY)))
      levels.push({ frame: place.frame, level: Math.min(1, Math.max(0, strength)) })
    }
    context.onProgress?.(done + 1, places.length)
  }
  return fewestKeys(levels, STRAIGHT)
}
