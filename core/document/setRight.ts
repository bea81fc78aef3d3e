/** A clung path that was set right by hand on one frame: what was found around it takes over what is there. */
import { createPathCurve, nearestOnPath, type PathPoint } from '../geometry/pathCurve'
import { pointsOf, trackedPoints } from '../motion/cling/clingCurves'
import type { ClingOutcome } from '../motion/cling/runCling'
import { JOINED_FRAMES, offLinePx } from '../motion/cling/sameAgain'
import { valuesOf } from '../motion/cling/solveStretch'
import type { TrackedFrame } from '../motion/runTrack'
import type { Frame, FrameRange } from '../time'
import type { Geometry, PathArea } from './areas'
import { geometryAt } from './keyedGeometry'
import { withGeometryAt, withOnlyGeometry } from './keys'
import {
  alongLine,
  clingCurveAt,
  hasRowAt,
  rowOf,
  trackSureAt,
  trackValuesAt,
  withRows,
  type Track,
  type Tracks,
} from './tracks'

/** Over so many frames what was set by hand goes over into what was found beside it. */
const HAND_FRAMES = 4
/** A frame whose line lies so far off where it was has changed, px. */
const CHANGED_PX = 0.3

export interface SetRight {
  readonly track: Track
  /** From the first to the last frame whose line lies elsewhere now. */
  readonly changed: FrameRange
}

/** The rows of a cling as frames, for what is followed anew to compare itself with. */
export const trackedFrames = ({ frames }: Track): TrackedFrame[] =>
  frames.map(([frame, sure, ...values]) => ({ frame, sure, values }))

/**
 * The cling with what was found around a frame: there it lies where the hand has put it; beside that, where the line was found, as
 * far as that is surer than what was known or until it comes to the same again.
 *
 * @param hand  The path as it was set. @param outcome  What `runCling` has found from there, given what was known.
 */
export function setRight(
  track: Track,
  frame: Frame,
  hand: readonly PathPoint[],
  outcome: ClingOutcome,
): SetRight {
  const found = outcome.frames.find((one) => one.frame === frame)
  const own = found ? trackedPoints(found.values) : pointsOf(createPathCurve(hand))
  const placed = pointsOf(createPathCurve(hand)).map((point, i) => ({ ...point, widthPx: own[i]!.widthPx }))
  const byHand = placed.map((point, i) => ({ x: point.x - own[i]!.x, y: point.y - own[i]!.y }))
  const beside = ofUse(track, frame, outcome).map((one) => {
    const share = Math.max(0, 1 - Math.abs(one.frame - frame) / HAND_FRAMES)
    const values = trackedPoints(one.values).map((point, i) => ({
      ...point,
      x: point.x + share * byHand[i]!.x,
      y: point.y + share * byHand[i]!.y,
    }))
    return joined(track, { ...one, values: valuesOf(values) }, outcome)
  })
  const all = [...beside, { frame, sure: 1, values: valuesOf(placed) }].sort((a, b) => a.frame - b.frame)
  const changed = [frame, ...all.filter((row) => hasMoved(track, row)).map((row) => row.frame)]
  return {
    track: withRows(track, all.map(rowOf)),
    changed: { firstFrame: Math.min(...changed), lastFrame: Math.max(...changed) },
  }
}

/** Each way up to the last frame on which what was found is at least as sure as what was known, or to where both are the same. */
function ofUse(track: Track, frame: Frame, { frames, ends }: ClingOutcome): TrackedFrame[] {
  const isOfUse = (one: TrackedFrame): boolean => one.sure >= trackSureAt(track, one.frame)
  const oneWay = (way: -1 | 1): TrackedFrame[] => {
    const found = frames
      .filter((one) => way * (one.frame - frame) > 0)
      .sort((a, b) => way * (a.frame - b.frame))
    const isSame = ends.some((end) => end.reason === 'same' && way * (end.frame - frame) > 0)
    return isSame ? found : found.slice(0, found.findLastIndex(isOfUse) + 1)
  }
  return [...oneWay(-1), ...oneWay(1)]
}

/** Near where a way came to the same again, over into what was known. */
function joined(track: Track, one: TrackedFrame, { ends }: ClingOutcome): TrackedFrame {
  const end = ends.find((way) => way.reason === 'same' && Math.abs(way.frame - one.frame) < JOINED_FRAMES)
  const known =
    end && hasRowAt(track, one.frame) ? trackValuesAt({ ...track, smoothFrames: 0 }, one.frame) : null
  if (!end || !known || known.length !== one.values.length) return one
  const share = 1 - Math.abs(end.frame - one.frame) / JOINED_FRAMES
  return { ...one, values: one.values.map((value, i) => value + share * (known[i]! - value)) }
}

function hasMoved(track: Track, row: TrackedFrame): boolean {
  const known = trackValuesAt({ ...track, smoothFrames: 0 }, row.frame)
  if (!known || !hasRowAt(track, row.frame)) return true
  return offLinePx({ ...row, values: known }, row) > CHANGED_PX
}

/**
 * The path that follows such a cling. It looks on the frame as it was set; where other keys tell its shape, they do so alone and keep how
 * they lay to the line.
 *
 * @param before  The tracks as they were. @param track  The cling as it is now.
 */
export function setRightArea(area: PathArea, before: Tracks, track: Track, frame: Frame): PathArea {
  const after: Tracks = new Map(before).set(track.id, track)
  const asSeen = area.keys.map((key) => ({ frame: key.frame, geometry: geometryAt(area, before, key.frame) }))
  const hand = geometryAt(area, before, frame)
  const others = asSeen
    .filter((key) => key.frame !== frame)
    .map((key) => ({ ...key, geometry: carriedOver(key.geometry, before.get(track.id)!, track, key.frame) }))
  const [first = { frame, geometry: hand }, ...more] = others
  const only = withOnlyGeometry(area, after, first.frame, first.geometry)
  const keyed = more.reduce((now, key) => withGeometryAt(now, after, key.frame, key.geometry), only)
  const isThere = offPx(geometryAt(keyed, after, frame), hand) < THERE_PX
  return (isThere ? keyed : withGeometryAt(keyed, after, frame, hand)) as PathArea
}

/** Nearer than this a path is where it was set, px. */
const THERE_PX = 0.1

/** How far points of a path lie off another: along it they may slide. */
function offPx(a: Geometry, b: Geometry): number {
  if (a.shape !== 'path' || b.shape !== 'path') return Infinity
  const curve = createPathCurve(a.points)
  return b.points.reduce((most, { x, y }) => Math.max(most, nearestOnPath(curve, x, y).distancePx), 0)
}

/** A path that keeps how it lies to a line, which has moved. */
function carriedOver(geometry: Geometry, from: Track, to: Track, frame: Frame): Geometry {
  const [a, b] = [clingCurveAt(from, frame), clingCurveAt(to, frame)]
  if (geometry.shape !== 'path' || !a || !b) return geometry
  return { ...geometry, points: geometry.points.map((point) => alongLine(point, a, b)) }
}
