/**
 * The survey of a clip: one pass, frame by frame, in memory of a few frames.
 *
 * Every detector sees each frame once and says at the end what it has found.
 */
import type { Samples } from '../image/samples'
import type { Frame } from '../time'
import { findBadPixels, restOf } from './badPixels'
import { countClip, type ClipShape, type ClipStatistics } from './clipStatistics'
import { createCutDetector } from './cuts'
import { SURVEY_FORMAT, SURVEY_VERSION, type Find, type Survey } from './finds'
import { countMotes } from './motes'
import { quarterStops } from './quarter'
import { levelsOf, shiftBetween, type Levels } from './shift'

export interface Surveyor {
  /** The next frame. @throws RangeError when it has another shape than the clip. */
  add(frame: Samples): void
  /** @throws RangeError when there was no frame. */
  finish(): { readonly survey: Survey; readonly clip: ClipStatistics }
}

export function createSurvey(shape: ClipShape, firstFrame: Frame): Surveyor {
  const statistics = countClip(shape)
  const cutDetector = createCutDetector()
  const cuts: Frame[] = []
  let motes: ReturnType<typeof countMotes> | null = null
  let last: Levels | null = null
  let frameCount = 0
  return {
    add(frame) {
      statistics.add(frame)
      const levels = levelsOf(quarterStops(frame))
      motes ??= countMotes(levels[0]!)
      const moved = last && shiftBetween(last, levels)
      const isCut = moved !== null && cutDetector.isCut(moved.left)
      if (isCut) cuts.push(firstFrame + frameCount)
      motes.add(levels, isCut ? null : moved)
      last = levels
      frameCount++
    },
    finish() {
      const clip = statistics.finish()
      const lastFrame = firstFrame + frameCount - 1
      const always = { firstFrame, lastFrame }
      const finds: Find[] = [
        ...findBadPixels(clip).map((found) => ({ ...found, ...always, id: idOf('px', found.x, found.y) })),
        ...(motes?.finish() ?? []).map((found) => ({ ...found, ...always, id: idOf('mote', found.x, found.y) })),
      ]
      const survey: Survey = {
        format: SURVEY_FORMAT,
        version: SURVEY_VERSION,
        plate: { width: shape.width, height: shape.height, firstFrame, frameCount },
        rest: restOf(clip),
        cuts,
        finds: finds.sort((a, b) => b.sure - a.sure || a.y - b.y || a.x - b.x),
      }
      return { survey, clip }
    },
  }
}

/** Places are told apart by whole px. */
const idOf = (what: string, x: number, y: number): string => `${what}-${Math.floor(x)}-${Math.floor(y)}`
