/**
 * The survey of a clip: one pass, frame by frame, in memory of a few frames.
 *
 * Every detector sees each frame once and says at the end what it has found.
 */
import type { Samples } from '../image/samples'
import type { Frame } from '../time'
import { findBadPixels, grainFloors, restOf } from './badPixels'
import { countClip, type ClipShape, type ClipStatistics } from './clipStatistics'
import { createCutDetector } from './cuts'
import { cropOf, SURVEY_FORMAT, SURVEY_VERSION, type Find, type Survey } from './finds'
import { countMotes, type Mote, type SeenMote } from './motes'
import { CELL_PX, quarterStops } from './quarter'
import { levelsOf, shiftBetween, type Levels } from './shift'
import { findStillMarks, type StillMark } from './stillMarks'
import { detectLines, LINES_EVERY } from './thinLines'

export interface Surveyor {
  /** The next frame; it is not to be changed afterwards. @throws RangeError when it has another shape than the clip. */
  add(frame: Samples): void
  /** @throws RangeError when there was no frame. */
  finish(): { readonly survey: Survey; readonly clip: ClipStatistics }
}

export function createSurvey(shape: ClipShape, firstFrame: Frame): Surveyor {
  const statistics = countClip(shape)
  const cutDetector = createCutDetector()
  const cuts: Frame[] = []
  const lines = detectLines(shape)
  let motes: ReturnType<typeof countMotes> | null = null
  let last: { readonly levels: Levels; readonly samples: Samples } | null = null
  let lookedAt: Frame = firstFrame - 1
  let travel = NO_TRAVEL
  let frameCount = 0
  return {
    add(frame) {
      statistics.add(frame)
      const levels = levelsOf(quarterStops(frame))
      motes ??= countMotes(levels[0]!)
      const moved = last && shiftBetween(last.levels, levels)
      const isCut = moved !== null && cutDetector.isCut(moved.left)
      if (isCut) cuts.push(firstFrame + frameCount)
      motes.add(levels, isCut ? null : moved)
      travel = isCut || !moved ? { ...NO_TRAVEL, mostCells: travel.mostCells } : travelled(travel, moved)
      last = { levels, samples: frame }
      frameCount++
      if (isCut) lines.cut()
      if (isCut || (frameCount - 1) % LINES_EVERY === 0) lookForLines()
    },
    finish() {
      const clip = statistics.finish()
      const lastFrame = firstFrame + frameCount - 1
      if (lookedAt < lastFrame) lookForLines()
      const always = { firstFrame, lastFrame }
      const [rest, floors] = [restOf(clip), grainFloors(clip)]
      const marks = rest === 'moves' && travel.mostCells * CELL_PX >= MARKS_FROM_PX ? findStillMarks(clip, Math.min(...floors)) : []
      // What lies on a mark is the mark's, and goes with it.
      const isApart = ({ x, y }: { readonly x: number; readonly y: number }) => marks.every((mark) => !liesOn(mark, x, y))
      const finds: Find[] = [
        ...findBadPixels(clip, rest, floors)
          .filter(isApart)
          .map((found) => ({ ...found, ...always, id: idOf('px', found.x, found.y) })),
        ...motesApart(motes?.finish() ?? [], marks).map((found) => ({ ...found, ...always, id: idOf('mote', found.x, found.y) })),
        ...marks.map((found) => ({ ...found, ...always, id: idOf('mark', found.x, found.y) })),
        ...lines.finish(rest === 'rests').map((found) => ({ ...found, id: `${idOf('line', found.x, found.y)}-${found.firstFrame}` })),
      ]
      const survey: Survey = {
        format: SURVEY_FORMAT,
        version: SURVEY_VERSION,
        plate: { width: shape.width, height: shape.height, firstFrame, frameCount },
        rest,
        cuts,
        finds: finds.map((find) => ({ ...find, crop: cropOf(find, shape) })).sort((a, b) => b.sure - a.sure || a.y - b.y || a.x - b.x),
      }
      return { survey, clip }
    },
  }

  function lookForLines(): void {
    const { levels, samples } = last!
    lookedAt = firstFrame + frameCount - 1
    lines.look(lookedAt, samples, levels[0]!, { x: travel.x[0], y: travel.y[0] })
  }
}

/**
 * Motes that are not on a mark. What is compared with a bright mark looks dark: of motes that only one side has shown, those that lie
 * along a mark are left out.
 */
function motesApart(seen: readonly SeenMote[], marks: readonly StillMark[]): Mote[] {
  const liesAlong = ({ x, y }: Mote) =>
    marks.some((mark) => Math.abs(y - mark.y) < mark.heightPx / 2 + ALONG_PX || Math.abs(x - mark.x) < mark.widthPx / 2 + ALONG_PX)
  return seen
    .filter(({ mote, isOneSided }) => marks.every((mark) => !liesOn(mark, mote.x, mote.y)) && !(isOneSided && liesAlong(mote)))
    .map(({ mote }) => mote)
}

const BESIDE_PX = 8
const ALONG_PX = 20

const liesOn = (mark: StillMark, x: number, y: number): boolean =>
  Math.abs(x - mark.x) < mark.widthPx / 2 + BESIDE_PX && Math.abs(y - mark.y) < mark.heightPx / 2 + BESIDE_PX

/** Places are told apart by whole px. */
const idOf = (what: string, x: number, y: number): string => `${what}-${Math.floor(x)}-${Math.floor(y)}`

/** A picture that goes less far as a whole leaves things of its own sharp in its mean: nothing tells them from marks. */
const MARKS_FROM_PX = 48

/** Where the picture as a whole is and has been since the last cut, cells; and how far it ever went. */
interface Travel {
  readonly x: readonly [now: number, least: number, most: number]
  readonly y: readonly [now: number, least: number, most: number]
  readonly mostCells: number
}
const NO_TRAVEL: Travel = { x: [0, 0, 0], y: [0, 0, 0], mostCells: 0 }

function travelled({ x, y, mostCells }: Travel, moved: { readonly x: number; readonly y: number }): Travel {
  const go = ([now, least, most]: Travel['x'], by: number): Travel['x'] => [now + by, Math.min(least, now + by), Math.max(most, now + by)]
  const [nextX, nextY] = [go(x, moved.x), go(y, moved.y)]
  return { x: nextX, y: nextY, mostCells: Math.max(mostCells, nextX[2] - nextX[1], nextY[2] - nextY[1]) }
}
