/**
 * The survey of a clip: one pass, frame by frame, in memory of a few frames.
 *
 * Every detector sees each frame once and says at the end what it has found.
 */
import type { Size } from '../image/rect'
import type { Samples } from '../image/samples'
import type { Frame } from '../time'
import { findBadPixels, grainFloors, type BadPixel } from './badPixels'
import { countClip, type ClipShape, type ClipStatistics } from './clipStatistics'
import { createCutDetector } from './cuts'
import { surveyCarrier, type CarrierPart } from './carrier/carrier'
import { carrierFinds } from './carrier/carrierFinds'
import { cropOf, isWholeLine, placeOn, SURVEY_FORMAT, SURVEY_VERSION, type Find, type Survey } from './finds'
import { countMotes, type Mote, type SeenMote } from './motes'
import { CELL_PX, quarterStops } from './quarter'
import { restOf } from './restOf'
import { levelsOf, shiftBetween, type Levels } from './shift'
import type { Surveyor } from './surveyor'
import { findStillMarks, type StillMark } from './stillMarks'
import { detectLines, LINES_EVERY, type FoundLines, type ThinLine } from './thinLines'
import { detectTravelling, type TravellingMark } from './travelling/travellingMarks'

/** What each place of the frame tells by itself over time. */
export interface StillPart {
  readonly rest: Survey['rest']
  readonly pixels: readonly BadPixel[]
  /** Of a picture that travels as far as `MARKS_FROM_PX`. */
  readonly marks: readonly StillMark[]
}

/** What is told by how the picture goes from frame to frame. */
export interface MovingPart {
  readonly frameCount: number
  readonly cuts: readonly Frame[]
  /** How far the picture ever went, cells. */
  readonly maxCells: number
  readonly motes: readonly SeenMote[]
  readonly lines: FoundLines
  readonly travelling: readonly TravellingMark[]
}

/** One part of a survey; the others can be made elsewhere at the same time. */
export function surveyStill(
  shape: ClipShape,
): Surveyor<{ readonly still: StillPart; readonly clip: ClipStatistics }> {
  const statistics = countClip(shape)
  return {
    add: statistics.add,
    finish() {
      const clip = statistics.finish()
      const [rest, floors] = [restOf(clip), grainFloors(clip)]
      const marks = rest === 'moves' ? findStillMarks(clip, Math.min(...floors)) : []
      return { still: { rest, pixels: findBadPixels(clip, rest, floors), marks }, clip }
    },
  }
}

/** Another part. */
export function surveyMoving(shape: ClipShape, firstFrame: Frame): Surveyor<MovingPart> {
  const cutDetector = createCutDetector()
  const cuts: Frame[] = []
  const lines = detectLines(shape)
  const travelling = detectTravelling()
  let motes: ReturnType<typeof countMotes> | null = null
  let last: { readonly levels: Levels; readonly samples: Samples } | null = null
  let lookedAt: Frame = firstFrame - 1
  let interpolation = NO_TRAVEL
  let frameCount = 0
  return {
    add(frame) {
      const levels = levelsOf(quarterStops(frame))
      motes ??= countMotes(levels[0]!)
      const moved = last && shiftBetween(last.levels, levels)
      const isCut = moved !== null && cutDetector.isCut(moved.left)
      if (isCut) cuts.push(firstFrame + frameCount)
      motes.add(levels, isCut ? null : moved)
      travelling.add(firstFrame + frameCount, levels, isCut ? null : moved)
      interpolation =
        isCut || !moved ? { ...NO_TRAVEL, maxCells: interpolation.maxCells } : travelled(interpolation, moved)
      last = { levels, samples: frame }
      frameCount++
      if (isCut) lines.cut()
      if (isCut || (frameCount - 1) % LINES_EVERY === 0) lookForLines()
    },
    finish() {
      if (!motes) throw new RangeError('a clip must have a frame')
      if (lookedAt < firstFrame + frameCount - 1) lookForLines()
      return {
        frameCount,
        cuts,
        maxCells: interpolation.maxCells,
        motes: motes.finish(),
        lines: lines.finish(),
        travelling: travelling.finish(),
      }
    },
  }

  function lookForLines(): void {
    const { levels, samples } = last!
    lookedAt = firstFrame + frameCount - 1
    lines.look(lookedAt, samples, levels[0]!, { x: interpolation.x[0], y: interpolation.y[0] })
  }
}

/** A survey from its parts. */
export function joinParts(
  shape: Size,
  firstFrame: Frame,
  still: StillPart,
  { frameCount, cuts, maxCells, ...moving }: MovingPart,
  carrier: CarrierPart,
): Survey {
  const { rest } = still
  const always = { firstFrame, lastFrame: firstFrame + frameCount - 1 }
  const sharp = maxCells * CELL_PX >= MARKS_FROM_PX ? still.marks : []
  const resting = withStaying(sharp, moving)
  // Parts of a mark that stays may seem to travel for a while; and where one that travels rests, it is seen as one that stays.
  const travelling = moving.travelling.filter(
    (one) => one.keys.length > 1 && resting.every((mark) => shareOn(one, mark) < STAYS),
  )
  const marks = resting.filter((mark) => travelling.every((one) => shareOn(one, mark) === 0))
  // What lies on a mark is the mark's, and goes with it.
  const isApart = ({ x, y }: { readonly x: number; readonly y: number }) =>
    marks.every((mark) => !liesOn(mark, x, y))
  const found = rest === 'rests' ? [...moving.lines.alone, ...moving.lines.resting] : moving.lines.alone
  const damage = carrierFinds(carrier, shape, always)
  const isOfCarrier = (line: ThinLine) => damage.some((find) => liesAlong(find, line))
  const lines = found.filter((line) => !travelling.some((mark) => goesWith(mark, line)) && !isOfCarrier(line))
  const finds: Find[] = [
    ...damage,
    ...still.pixels
      .filter((pixel) => isApart(pixel) && !damage.some((find) => liesWithin(find, pixel)))
      .map((found) => ({ ...found, ...always, id: idOf('px', found.x, found.y) })),
    ...motesApart(moving.motes, marks).map((found) => ({
      ...found,
      ...always,
      id: idOf('mote', found.x, found.y),
    })),
    ...marks.map((found) => ({ ...found, ...always, id: idOf('mark', found.x, found.y) })),
    ...travelling.map((found) => ({ ...found, ...always, id: idOf('mark', found.x, found.y) })),
    ...lines.map((found) => ({ ...found, id: `${idOf('line', found.x, found.y)}-${found.firstFrame}` })),
  ]
  return {
    format: SURVEY_FORMAT,
    version: SURVEY_VERSION,
    plate: { width: shape.width, height: shape.height, firstFrame, frameCount },
    rest,
    // A flash comes and goes with a step as great as a cut's.
    cuts: cuts.filter(
      (cut) => !carrier.flashes.some((flash) => cut === flash.firstFrame || cut === flash.lastFrame + 1),
    ),
    flashes: [...carrier.flashes],
    flickerStops: carrier.flickerStops,
    finds: finds
      .map((find) => ({ ...find, crop: cropOf(find, shape) }))
      .sort((a, b) => b.sure - a.sure || a.y - b.y || a.x - b.x),
  }
}

/** All parts at once. */
export function createSurvey(
  shape: ClipShape,
  firstFrame: Frame,
): Surveyor<{ readonly survey: Survey; readonly clip: ClipStatistics }> {
  const [still, moving] = [surveyStill(shape), surveyMoving(shape, firstFrame)]
  const carrier = surveyCarrier(firstFrame)
  return {
    add(frame) {
      still.add(frame)
      moving.add(frame)
      carrier.add(frame)
    },
    finish() {
      const { clip, ...found } = still.finish()
      return { survey: joinParts(shape, firstFrame, found.still, moving.finish(), carrier.finish()), clip }
    },
  }
}

/**
 * Motes that are not on a mark. What is compared with a bright mark looks dark: of motes that only one side has shown, those that lie
 * along a mark are left out.
 */
function motesApart(seen: readonly SeenMote[], marks: readonly StillMark[]): Mote[] {
  const liesAlong = ({ x, y }: Mote) =>
    marks.some(
      (mark) =>
        Math.abs(y - mark.y) < mark.heightPx / 2 + ALONG_PX ||
        Math.abs(x - mark.x) < mark.widthPx / 2 + ALONG_PX,
    )
  return seen
    .filter(
      ({ mote, isOneSided }) =>
        marks.every((mark) => !liesOn(mark, mote.x, mote.y)) && !(isOneSided && liesAlong(mote)),
    )
    .map(({ mote }) => mote)
}

const BESIDE_PX = 8
const ALONG_PX = 20

const liesOn = (mark: Pick<StillMark, 'x' | 'y' | 'widthPx' | 'heightPx'>, x: number, y: number): boolean =>
  Math.abs(x - mark.x) < mark.widthPx / 2 + BESIDE_PX && Math.abs(y - mark.y) < mark.heightPx / 2 + BESIDE_PX

/** Of a mark no larger a share is motes: what is, is a group of them. */
const MOSTLY_MOTES = 0.15

/** Marks that stay, with those that only the way of the picture behind them has told. */
function withStaying(
  still: readonly StillMark[],
  { travelling, motes }: Pick<MovingPart, 'travelling' | 'motes'>,
): StillMark[] {
  const isOfMotes = (one: TravellingMark) => {
    let area = 0
    for (const { mote } of motes)
      if (liesOn(one, mote.x, mote.y)) area += Math.PI * mote.radiusXPx * mote.radiusYPx
    return area > MOSTLY_MOTES * one.widthPx * one.heightPx
  }
  const others = travelling.filter(
    (one) => one.keys.length === 1 && !isOfMotes(one) && still.every((mark) => !liesOn(mark, one.x, one.y)),
  )
  return [
    ...still,
    ...others.map(({ x, y, widthPx, heightPx, opacity, sure, why }) => ({
      kind: 'mark' as const,
      x,
      y,
      // Told on cells, it may go on for as much.
      widthPx: widthPx + 2 * CELL_PX,
      heightPx: heightPx + 2 * CELL_PX,
      opacity,
      sure,
      why,
    })),
  ]
}

/** So much of the time at one place, a mark stays there. */
const STAYS = 0.6

/** Share of the keyed frames of a mark that travels on which its middle lies on one that stays. */
function shareOn(travelling: TravellingMark, mark: StillMark): number {
  const [first, last] = [travelling.keys[0]!.frame, travelling.keys.at(-1)!.frame]
  let on = 0
  for (let frame = first; frame <= last; frame++) {
    const { x, y } = placeOn({ ...travelling, id: 'mark' }, frame)
    if (liesOn(mark, x, y)) on++
  }
  return on / (last - first + 1)
}

/** Whether a line is a stroke of a mark that travels: on most of its keys it lies on it. */
function goesWith(mark: TravellingMark, { keys }: ThinLine): boolean {
  const find: Find = { ...mark, id: 'mark' }
  const on = keys.filter(({ frame, points }) => {
    const { x, y } = placeOn(find, frame)
    return points.every((point) => liesOn({ ...mark, x, y }, point.x, point.y))
  })
  return 2 * on.length > keys.length
}

const ON_LINE_PX = 4

/** Whether a thin line is a scratch that is known as one: all of it lies along it. */
function liesAlong(find: Find, { keys }: ThinLine): boolean {
  if (find.kind !== 'line') return false
  return keys.every(({ frame, points }) => {
    const key = find.keys.find((one) => one.frame >= frame) ?? find.keys.at(-1)!
    return points.every(({ x }) => Math.abs(x - key.points[0]!.x) < ON_LINE_PX)
  })
}

/** Whether a bad pixel is one of a bad column or row. */
const liesWithin = (find: Find, { x, y }: BadPixel): boolean =>
  isWholeLine(find) &&
  ((find as Extract<Find, { kind: 'pixel' }>).class === 'column'
    ? Math.abs(x - find.x) < ON_LINE_PX
    : Math.abs(y - find.y) < ON_LINE_PX)

/** Places are told apart by whole px. */
const idOf = (what: string, x: number, y: number): string => `${what}-${Math.floor(x)}-${Math.floor(y)}`

/** A picture that goes less far as a whole leaves things of its own sharp in its mean: nothing tells them from marks. */
const MARKS_FROM_PX = 48

/** Where the picture as a whole is and has been since the last cut, cells; and how far it ever went. */
interface Travel {
  readonly x: readonly [now: number, min: number, max: number]
  readonly y: readonly [now: number, min: number, max: number]
  readonly maxCells: number
}
const NO_TRAVEL: Travel = { x: [0, 0, 0], y: [0, 0, 0], maxCells: 0 }

function travelled({ x, y, maxCells }: Travel, moved: { readonly x: number; readonly y: number }): Travel {
  const go = ([now, min, max]: Travel['x'], by: number): Travel['x'] => [
    now + by,
    Math.min(min, now + by),
    Math.max(max, now + by),
  ]
  const [nextX, nextY] = [go(x, moved.x), go(y, moved.y)]
  return { x: nextX, y: nextY, maxCells: Math.max(maxCells, nextX[2] - nextX[1], nextY[2] - nextY[1]) }
}
