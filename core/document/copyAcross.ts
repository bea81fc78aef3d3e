/** Mends of one shot copied into another: as they are where both show the same, scaled with the picture, shifted with the frames. */
import { z } from 'zod'
import { similarity, type Matrix3 } from '../geometry/transform'
import type { Size } from '../image/rect'
import type { Frame, FrameRange } from '../time'
import { isStroke, type Area, type KeyedArea, type StrokeArea } from './areas'
import { freeName, stackIndexAfterLast, together } from './commands'
import { movedArea } from './areaCommands'
import type { MendEdit, MendRecords } from './edits'
import { geometryAt, movedBy } from './keyedGeometry'
import { isSeries } from './kinds'
import { withOnlyGeometry } from './keys'
import { fillForShot } from './recipes'
import type { Mend, MendRecord } from './mend'
import type { Span } from './span'
import type { Stroke } from './stroke'
import { shiftAt } from './sourceKeys'
import type { Source } from './source'
import type { Tracks } from './tracks'

export interface ShotPlate extends Size, FrameRange {}

interface CopiedMends {
  /** Null where nothing could be copied. */
  readonly edit: MendEdit | null
  /** What was left out, and why, in words. */
  readonly leftOut: readonly string[]
}

export const copyCommandSchema = z.strictObject({
  mendIds: z.array(z.string().min(1).max(64)).min(1).max(1000),
  shotIds: z.array(z.string().min(1).max(80)).min(1).max(1000),
})
export type CopyCommand = z.output<typeof copyCommandSchema>

/** A shot that mends can be copied to. */
export interface CopyTarget extends ShotPlate {
  readonly id: string
  readonly name: string
  /** How much larger its picture is; null where it has another shape: then nothing can be copied there. */
  readonly scale: number | null
}

/** From one plate to another: px and frames. */
interface Way {
  readonly from: ShotPlate
  readonly to: ShotPlate
  readonly scale: number
  readonly place: Matrix3
  readonly frames: number
}

/** By how many px the heights of two plates may differ that count as of one shape. */
const SAME_SHAPE_PX = 1

/** How much larger the other picture is; null where it has another shape. */
export function scaleBetween(from: Size, to: Size): number | null {
  const scale = to.width / from.width
  return Math.abs(from.height * scale - to.height) <= SAME_SHAPE_PX ? scale : null
}

/**
 * One edit that adds copies of mends to another shot. Tracks stay behind: what followed one rests as it lay on its first frame. Dust and
 * pixels that the other shot mends already are not covered twice.
 *
 * @param mends  In the order of their stack, with the tracks of their shot. @param newId  Makes ids of mends and areas.
 * @throws RangeError when the pictures have different shapes.
 */
export function copyAcross(
  mends: readonly Mend[],
  tracks: Tracks,
  from: ShotPlate,
  to: ShotPlate,
  present: MendRecords,
  newId: () => string,
): CopiedMends {
  const scale = scaleBetween(from, to)
  if (scale === null)
    throw new RangeError(
      `the pictures have different shapes: ${from.width} × ${from.height} and ${to.width} × ${to.height} px`,
    )
  const way: Way = {
    from,
    to,
    scale,
    place: similarity(scale, 0, 0, 0),
    frames: to.firstFrame - from.firstFrame,
  }
  const edits: MendEdit[] = []
  const leftOut: string[] = []
  let now = present
  for (const mend of mends) {
    const span = spanIn(mend.span, way)
    const areas = span ? areasIn(mend, tracks, way, span, idsOf(now), newId) : []
    if (!span || !areas.some(({ role }) => role === 'cover')) {
      leftOut.push(`${mend.name}: ${span ? reasonOf(mend) : 'its frames are not in the other shot'}`)
      continue
    }
    const after: MendRecord = {
      ...mend,
      id: newId(),
      name: freeName(now, mend.name.replace(/ \d+$/, '')),
      areas,
      fill: fillForShot(mend.fill, span.firstFrame),
      ...(mend.otherFills && {
        otherFills: mend.otherFills.map((fill) => fillForShot(fill, span.firstFrame)),
      }),
      source: mend.source && sourceIn(mend.source, mend, tracks, way),
      span,
      stackIndex: stackIndexAfterLast(now),
    }
    now = new Map([...now, [after.id, after]])
    edits.push({
      label: `Copy ${mend.name} from another shot`,
      changes: [{ id: after.id, before: null, after }],
      tracks: [],
    })
  }
  return {
    edit: edits.length > 0 ? together(edits, `Copy ${edits.length} mends from another shot`) : null,
    leftOut,
  }
}

const reasonOf = ({ areas }: Mend): string =>
  areas.every(({ role, shape }) => role === 'holdout' || shape === 'matte')
    ? 'its matte belongs to this shot'
    : 'all of its places are mended there already'

const idsOf = (records: MendRecords): ReadonlySet<string> =>
  new Set([...records.values()].flatMap(({ areas }) => areas.map(({ id }) => id)))

/** The frames where a mend is on: all of them there where it was on all the time here. */
function spanIn(span: Span, { from, to, frames }: Way): Span | null {
  if (span.firstFrame <= from.firstFrame && span.lastFrame >= from.lastFrame)
    return { ...span, firstFrame: to.firstFrame, lastFrame: to.lastFrame }
  const firstFrame = Math.max(to.firstFrame, span.firstFrame + frames)
  const lastFrame = Math.min(to.lastFrame, span.lastFrame + frames)
  return firstFrame <= lastFrame ? { ...span, firstFrame, lastFrame } : null
}

function areasIn(
  mend: Mend,
  tracks: Tracks,
  way: Way,
  span: Span,
  taken: ReadonlySet<string>,
  newId: () => string,
): Area[] {
  return mend.areas.flatMap((area) => {
    if (area.shape === 'matte') return []
    const isTaken = taken.has(area.id)
    if (isTaken && isSeries(mend.kind)) return []
    const stroke = isStroke(area) ? strokeIn(area, mend, tracks, way) : undefined
    if (stroke === null) return []
    const moved = movedArea(resting(area, tracks, mend.span), (geometry) => movedBy(way.place, geometry))
    const keys = moved.keys.map((key) => ({ ...key, frame: shifted(key.frame, way) }))
    const onTime = { ...moved, id: isTaken ? newId() : area.id, keys, ...(stroke && { stroke }) } as KeyedArea
    // One key alone is the shape itself, whatever its frame: it goes where the mend begins.
    return keys.length === 1
      ? ({ ...onTime, keys: [{ ...keys[0]!, frame: span.firstFrame }] } as KeyedArea)
      : onTime
  })
}

/** A stroke has frames and a source of its own; null where none of its frames is in the other shot. */
function strokeIn(area: StrokeArea, { span }: Mend, tracks: Tracks, way: Way): Stroke | null {
  const { stroke } = area
  const own = spanIn(stroke.span, way)
  return (
    own && {
      ...stroke,
      span: own,
      fill: fillForShot(stroke.fill, own.firstFrame),
      source: stroke.source && sourceIn(stroke.source, { areas: [area], span }, tracks, way),
    }
  )
}

/** Without its track, as it lay on the first frame of its mend. */
const resting = (area: KeyedArea, tracks: Tracks, span: FrameRange): KeyedArea =>
  area.follow
    ? withOnlyGeometry(
        { ...area, follow: null },
        tracks,
        span.firstFrame,
        geometryAt(area, tracks, span.firstFrame),
      )
    : area

function sourceIn(
  source: Source,
  { areas, span }: Pick<Mend, 'areas' | 'span'>,
  tracks: Tracks,
  way: Way,
): Source {
  const keys = source.follow
    ? [{ frame: span.firstFrame, ...shiftAt(source, areas[0]!, tracks, span.firstFrame) }]
    : source.keys
  return {
    ...source,
    follow: null,
    keys: keys.map((key) => ({
      ...key,
      frame: shifted(key.frame, way),
      dx: key.dx * way.scale,
      dy: key.dy * way.scale,
    })),
  }
}

const shifted = (frame: Frame, { frames }: Way): Frame => Math.max(0, frame + frames)
