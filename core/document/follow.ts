/** From a stored track to the work of following it, and back: what is asked of a tracker, and what its answer becomes. */
import { estimateMotion } from '../geometry/estimate'
import { apply } from '../geometry/transform'
import type { PathPoint } from '../geometry/pathCurve'
import type { ClingOutcome, ClingRequest } from '../motion/cling/runCling'
import { cornersThrough } from '../motion/planarTracker'
import { DEFAULT_TRACK_SETTINGS, type TrackSettings } from '../motion/settings'
import { fitSpread } from '../motion/spreadTracker'
import type { TrackedFrame, TrackOutcome, TrackRequest } from '../motion/runTrack'
import type { Frame, FrameRange } from '../time'
import {
  hasRowAt,
  placesOf,
  rowOf,
  trackMotionAt,
  trackSureAt,
  trackValuesAt,
  withRows,
  type Track,
  type TrackKind,
} from './tracks'

export type Direction = 'forward' | 'backward'

const CORNERS = 8

/** A track that has been placed but not followed yet. */
export const newTrack = (
  id: string,
  kind: TrackKind,
  name: string,
  frame: Frame,
  seed: readonly number[],
  settings: TrackSettings = DEFAULT_TRACK_SETTINGS,
): Track => ({
  id,
  kind,
  name,
  referenceFrame: frame,
  settings,
  seed: [...seed],
  smoothFrames: 0,
  frames: [],
})

/** The frames from a start to the end of a range, in the order in which they are followed. */
export function framesFrom(frame: Frame, direction: Direction, range: FrameRange, max = Infinity): Frame[] {
  const step = direction === 'forward' ? 1 : -1
  const frames: Frame[] = []
  for (
    let at = frame + step;
    at >= range.firstFrame && at <= range.lastFrame && frames.length < max;
    at += step
  )
    frames.push(at)
  return frames
}

/**
 * What to ask a tracker for, starting on any frame: where the track has got to is where it goes on from.
 * @param holdouts Polygons on the start frame that are left out. @throws RangeError for a cling, see `clingRequest`, for a thing, see `findThing`, and for a face, see `findFaces`.
 */
export function trackRequest(
  track: Track,
  frame: Frame,
  frames: readonly Frame[],
  holdouts: readonly (readonly number[])[] = [],
): TrackRequest {
  const { kind, settings, seed } = track
  if (kind === 'cling' || kind === 'thing' || kind === 'face')
    throw new RangeError(`a ${kind} is not followed by a tracker. Received ${track.name}`)
  const base = { settings, startFrame: frame, frames, holdouts }
  const values = trackValuesAt(track, frame)
  if (!values) return { ...base, kind, seed }
  if (kind === 'surface')
    return {
      ...base,
      kind,
      seed: placesOf(values),
      hidden: placesOf(values).flatMap((_, i) => (i % 2 === 0 ? [values[(3 * i) / 2 + 2] === 0] : [])),
    }
  if (kind === 'point' || kind === 'pair') return { ...base, kind, seed: values }
  const motion = trackMotionAt(track, frame)
  const outline = motion ? cornersThrough(motion, seed) : seed
  if (kind === 'planar') return { ...base, kind, seed: outline }
  const starts = spreadStarts(track)
  const points = motion ? cornersThrough(motion, starts) : starts
  // A point that is held right now is where it is; the others are where the model says.
  for (let i = 0; i < points.length / 2; i++) {
    if (values[CORNERS + 3 * i + 2]! > 0)
      [points[2 * i], points[2 * i + 1]] = [values[CORNERS + 3 * i]!, values[CORNERS + 3 * i + 1]!]
  }
  return { ...base, kind, seed: outline, points }
}

/** Where the many points lay on the reference frame. */
function spreadStarts(track: Track): number[] {
  const values = trackValuesAt({ ...track, smoothFrames: 0 }, track.referenceFrame) ?? []
  const starts: number[] = []
  for (let i = CORNERS; i + 2 < values.length; i += 3) starts.push(values[i]!, values[i + 1]!)
  return starts
}

/** The track with what was followed from `frame` on laid into it; the new part joins the old where it began. */
export function absorb(track: Track, frame: Frame, outcome: TrackOutcome): Track {
  const isFirst = track.frames.length === 0
  if (outcome.frames.length === 0) return track
  if (track.kind === 'point' || track.kind === 'pair' || track.kind === 'surface' || isFirst)
    return withRows(
      track,
      outcome.frames.map((one) => keepSure(track, one.frame, frame, rowOf(one))),
    )
  const here = trackValuesAt({ ...track, smoothFrames: 0 }, frame)!.slice(0, CORNERS)
  const rows = outcome.frames.map((one) => {
    const moved = estimateMotion('perspective', outcome.corners, one.values.slice(0, CORNERS))
    const corners = moved ? cornersThrough(moved, here) : here
    return keepSure(
      track,
      one.frame,
      frame,
      rowOf({ ...one, values: [...corners, ...one.values.slice(CORNERS)] }),
    )
  })
  return withRows(track, rows)
}

/** The frame that a run started on was as sure before as it was: starting there made it no surer. */
function keepSure(
  track: Track,
  at: Frame,
  start: Frame,
  row: Track['frames'][number],
): Track['frames'][number] {
  return at === start && hasRowAt(track, start)
    ? ([row[0], trackSureAt(track, start), ...row.slice(2)] as Track['frames'][number])
    : row
}

/** A place set by hand: sure, and where the track goes on from. Planes and many points move as a whole. */
export function withPlaceSet(track: Track, frame: Frame, values: readonly number[]): Track {
  return withRows(track, [rowOf({ frame, sure: 1, values })])
}

/** Without the rows after (or before) a frame: what comes beyond was wrong. */
export const withoutRowsBeyond = (track: Track, frame: Frame, direction: Direction): Track => ({
  ...track,
  frames: track.frames.filter(([at]) => (direction === 'forward' ? at <= frame : at >= frame)),
})

/** Many points without some of them, the motion fitted again to the others. */
export function withoutPoints(track: Track, dropped: readonly number[]): Track {
  const gone = new Set(dropped)
  const cache = (points: readonly number[]) => points.filter((_, k) => !gone.has(Math.floor(k / 3)))
  const starts = spreadStarts(track).filter((_, k) => !gone.has(Math.floor(k / 2)))
  const corners = (trackValuesAt({ ...track, smoothFrames: 0 }, track.referenceFrame) ?? []).slice(0, CORNERS)
  const frames = track.frames.map(([frame, sure, ...values]) => {
    const points = cache(values.slice(CORNERS))
    const fit = fitSpread(track.settings.model, starts, points, corners)
    return fit
      ? rowOf({ frame, sure: fit.sure, values: [...fit.corners, ...fit.points] })
      : rowOf({ frame, sure: Math.min(sure, 0.1), values: [...values.slice(0, CORNERS), ...points] })
  })
  return { ...track, frames }
}

/** The points of a many-point track on a frame: place, and whether they have a say. */
export function spreadPointsAt(
  track: Track,
  frame: Frame,
): { readonly x: number; readonly y: number; readonly weight: number }[] {
  const values = trackValuesAt({ ...track, smoothFrames: 0 }, frame) ?? []
  const points = []
  for (let i = CORNERS; i + 2 < values.length; i += 3)
    points.push({ x: values[i]!, y: values[i + 1]!, weight: values[i + 2]! })
  return points
}

/** The frames of a range on either side of one, each way in the order in which it is gone. */
export const bothWays = (frame: Frame, range: FrameRange): Frame[][] => [
  framesFrom(frame, 'forward', range),
  framesFrom(frame, 'backward', range),
]

/** What to ask a cling for, from a path as it lies on a frame. @param known  Where its line was found before: where it is the same again, it ends. */
export const clingRequest = (
  track: Track,
  points: readonly PathPoint[],
  frame: Frame,
  ways: readonly (readonly Frame[])[],
  known: readonly TrackedFrame[] = [],
): ClingRequest => ({
  points,
  known,
  settings: { searchPx: track.settings.searchPx, bridgeFrames: track.settings.bridgeFrames },
  startFrame: frame,
  ways,
})

/** Far enough for a swing, near enough not to find the neighbour. */
export const CLING_SEARCH_PX = 8

export const absorbCling = (track: Track, outcome: ClingOutcome): Track =>
  withRows(track, outcome.frames.map(rowOf))

/** A place of the reference frame, carried along by a track. */
export function carried(
  track: Track,
  frame: Frame,
  x: number,
  y: number,
): { readonly x: number; readonly y: number } {
  const motion = trackMotionAt(track, frame)
  return motion ? apply(motion, x, y) : { x, y }
}
