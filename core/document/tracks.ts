/** Tracks: how something in the shot moves. They belong to the shot and can drive several mends. */
import { z } from 'zod'
import {
  createPathCurve,
  nearestOnPath,
  pathPointAt,
  type PathCurve,
  type PathPoint,
} from '../geometry/pathCurve'
import { estimateMotion } from '../geometry/estimate'
import { surfaceMotion } from '../geometry/surface'
import { translationBy, type Matrix3, type Place } from '../geometry/transform'
import { trackedPoints } from '../motion/cling/clingCurves'
import { smoothOverTime } from '../motion/cling/smoothOverTime'
import { headMotion } from '../face/headMotion'
import type { TrackedFrame } from '../motion/runTrack'
import { trackSettingsSchema } from '../motion/settings'
import { PLACE_NUMBERS } from '../motion/surfaceTracker'
import type { Frame } from '../time'
import { frameSchema, idSchema } from './basics'

export const trackKindSchema = z.enum([
  'point',
  'pair',
  'planar',
  'spread',
  'surface',
  'face',
  'cling',
  'thing',
])
export type TrackKind = z.output<typeof trackKindSchema>

/** On one frame: its number, how sure, then places. */
export const trackRowSchema = z.tuple([frameSchema, z.number().min(0).max(1)], z.number())
export const MOST_ROWS = 1_000_000

/** A track whose rows are not yet looked at together. */
export const looseTrackSchema = z.strictObject({
  id: idSchema,
  kind: trackKindSchema.meta({
    description:
      'One point; two points; a plane; many points; places of a surface that bends; the places of a face; a path that clings to a line; or the thing that an object’s outline goes with',
  }),
  name: z.string().trim().min(1).max(80),
  referenceFrame: frameSchema.meta({
    description: 'Where it was begun: what follows it was placed as of this frame',
  }),
  settings: trackSettingsSchema,
  seed: z.array(z.number()).max(4000).meta({
    description:
      'On the reference frame, x, y pairs: the point, the two points, the places, the outline; of many points where they began',
  }),
  smoothFrames: z
    .int()
    .min(0)
    .max(24)
    .meta({ description: 'Smoothing over this many frames to either side when it is read; 0 for none' }),
  frames: z.array(trackRowSchema).max(MOST_ROWS).meta({
    description:
      'frame, how sure (0 to 1), then the numbers: x, y for each point; four corners for planes; corners, then x, y, weight of each of many points; x, y and 1 or 0 for seen or not of each place of a surface; x, y of each place of a face; x, y, width of each point of a cling',
  }),
})

/** What is wrong with rows beside each other: which, and why. */
export function rowFaults(
  rows: readonly (readonly number[])[],
): { readonly row: number; readonly message: string }[] {
  return rows.flatMap((row, i) => [
    ...(i > 0 && row[0]! <= rows[i - 1]![0]! ? [{ row: i, message: 'frames must rise' }] : []),
    ...(row.length === rows[0]!.length
      ? []
      : [{ row: i, message: 'every frame must have as many numbers as the first' }]),
  ])
}

export const trackSchema = looseTrackSchema.superRefine(({ frames }, context) => {
  for (const { row, message } of rowFaults(frames))
    context.addIssue({ code: 'custom', path: ['frames', row], message })
})
export type Track = z.output<typeof trackSchema>
export type TrackRow = Track['frames'][number]
export type Tracks = ReadonlyMap<string, Track>

export const tracksById = (tracks: readonly Track[]): Tracks =>
  new Map(tracks.map((track) => [track.id, track]))

/** Below this a frame is worth a look. */
export const UNSURE_BELOW = 0.5

export const PLACE_DIGITS = 1000 // numbers are kept to a thousandth of a px
export const compact = (value: number): number => Math.round(value * PLACE_DIGITS) / PLACE_DIGITS

export const rowOf = ({ frame, sure, values }: TrackedFrame): TrackRow => [
  frame,
  Math.round(sure * 100) / 100,
  ...values.map(compact),
]

/** Index of the row of a frame, or of the last before it; −1 before the first. */
function rowBefore(track: Track, frame: Frame): number {
  let [low, high] = [-1, track.frames.length - 1]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (track.frames[middle]![0] <= frame) low = middle
    else high = middle - 1
  }
  return low
}

/** The numbers of a track on a frame: straight between rows, at rest before the first and after the last. */
export function trackValuesAt(track: Track, frame: Frame): readonly number[] | null {
  const { frames, smoothFrames } = track
  if (frames.length === 0) return null
  const at = Math.max(0, rowBefore(track, frame))
  const [row, next] = [frames[at]!, frames[Math.min(at + 1, frames.length - 1)]!]
  if (smoothFrames === 0 || row[0] !== frame) {
    if (frame <= row[0] || next[0] === row[0]) return row.slice(2)
    const f = (frame - row[0]) / (next[0] - row[0])
    return row.slice(2).map((value, i) => value + f * (next[i + 2]! - value))
  }
  const near = frames.slice(Math.max(0, at - smoothFrames), at + smoothFrames + 1).map(trackedOf)
  return smoothOverTime(near, smoothFrames).find((one) => one.frame === frame)!.values
}

const trackedOf = ([frame, sure, ...values]: TrackRow): TrackedFrame => ({ frame, sure, values: values })

/** Whether a track has seen, or bridged, a frame. */
export const hasRowAt = (track: Track, frame: Frame): boolean =>
  track.frames[rowBefore(track, frame)]?.[0] === frame

/** How sure a track is on a frame; 0 where it has none. */
export function trackSureAt(track: Track, frame: Frame): number {
  const row = track.frames[rowBefore(track, frame)]
  return row?.[0] === frame ? row[1] : 0
}

/** The corners that a plane or many points move, on the reference frame. */
const CORNER_NUMBERS = 8

/**
 * Where the track takes a place of its reference frame, as a matrix; null for a cling, which bends.
 * A frame that the track does not have moves as the nearest one that it has.
 */
export function trackMotionAt(track: Track, frame: Frame): Matrix3 | null {
  if (track.kind === 'cling') return null
  const now = trackValuesAt(track, frame)
  const then = trackValuesAt(track, track.referenceFrame)
  if (!now || !then) return null
  switch (track.kind) {
    case 'point':
    case 'thing':
      return translationBy(now[0]! - then[0]!, now[1]! - then[1]!)
    case 'pair':
      return estimateMotion('similarity', then, now)
    case 'surface':
      return (
        estimateMotion('similarity', placesOf(then), placesOf(now)) ??
        surfaceMotion(placesOf(then), placesOf(now), 0, 0)
      )
    case 'face':
      return headMotion(then, now)
    case 'planar':
    case 'spread':
      return estimateMotion('perspective', then.slice(0, CORNER_NUMBERS), now.slice(0, CORNER_NUMBERS))
  }
}

/** The middle of what a track holds on to, on its reference frame. */
export function trackMiddle(track: Track): Place {
  const values = trackValuesAt(track, track.referenceFrame) ?? track.seed
  const used = isSurface(track)
    ? surfacePlaces(track, values)
    : track.kind === 'planar' || track.kind === 'spread'
      ? values.slice(0, CORNER_NUMBERS)
      : values
  const count = used.length / 2
  let [x, y] = [0, 0]
  for (let i = 0; i < count; i++) {
    x += used[2 * i]! / count
    y += used[2 * i + 1]! / count
  }
  return { x, y }
}

/** The places of a surface without what says whether they are seen. */
export const placesOf = (values: readonly number[]): number[] =>
  values.filter((_, i) => i % PLACE_NUMBERS < 2)

/** Whether a track says how each place of a surface moves. */
export const isSurface = ({ kind }: Track): boolean => kind === 'surface' || kind === 'face'

const surfacePlaces = ({ kind }: Track, values: readonly number[]): readonly number[] =>
  kind === 'surface' ? placesOf(values) : values

/** How fast the say of a place falls with its distance: many places lie close on a face, and those around an eye alone say how it moves. */
const FALLS = { spots: 1, face: 2 }

/** Where a surface takes a place of one frame, as a motion around that place. */
export function surfaceMotionBetween(track: Track, from: Frame, to: Frame, place: Place): Matrix3 | null {
  const [then, now] = [trackValuesAt(track, from), trackValuesAt(track, to)]
  if (!then || !now) return null
  const falls = track.kind === 'face' ? FALLS.face : FALLS.spots
  return surfaceMotion(surfacePlaces(track, then), surfacePlaces(track, now), place.x, place.y, falls)
}

/** What lies on a place of a surface fades over so many frames before that goes out of sight, and after it has come back. */
const FADE_FRAMES = 3
/** Further from a place than this, px, something is not that place. */
const ON_PLACE_PX = 6

/** How far what lies at a place of the reference frame is visible, 0 to 1. Anything but a surface shows all of it always. */
export function visibilityAt(track: Track, frame: Frame, { x, y }: Place): number {
  if (track.kind !== 'surface') return 1
  const then = placesOf(trackValuesAt(track, track.referenceFrame) ?? [])
  let [nearest, minSquared] = [-1, ON_PLACE_PX * ON_PLACE_PX]
  for (let i = 0; i < then.length; i += 2) {
    const away = (then[i]! - x) * (then[i]! - x) + (then[i + 1]! - y) * (then[i + 1]! - y)
    if (away < minSquared) [nearest, minSquared] = [i / 2, away]
  }
  if (nearest < 0) return 1
  let share = 1
  for (let away = 0; away < FADE_FRAMES; away++)
    for (const at of away === 0 ? [frame] : [frame - away, frame + away])
      if (hasRowAt(track, at) && seenAt(track, at, nearest) === 0) share = Math.min(share, away / FADE_FRAMES)
  return share
}

const seenAt = (track: Track, frame: Frame, place: number): number =>
  track.frames[rowBefore(track, frame)]![2 + PLACE_NUMBERS * place + 2]!

const curves = new WeakMap<Track, Map<Frame, PathCurve>>()

/** The line of a cling on a frame. */
export function clingCurveAt(track: Track, frame: Frame): PathCurve | null {
  const known = curves.get(track) ?? new Map<Frame, PathCurve>()
  curves.set(track, known)
  const ready = known.get(frame)
  if (ready) return ready
  const values = trackValuesAt(track, frame)
  if (!values) return null
  const curve = createPathCurve(trackedPoints(values))
  known.set(frame, curve)
  return curve
}

/**
 * Takes a point of the reference frame along with a cling: its share of the way along the line is kept, and
 * so is what it was off the line. Widths change as the line's does.
 */
export function clingPoint(track: Track, from: Frame, to: Frame, point: PathPoint): PathPoint {
  const [a, b] = [clingCurveAt(track, from), clingCurveAt(track, to)]
  return !a || !b || from === to ? point : alongLine(point, a, b)
}

/** A point that lies to one line as it lay to another. */
export function alongLine(point: PathPoint, a: PathCurve, b: PathCurve): PathPoint {
  const { arcPx } = nearestOnPath(a, point.x, point.y)
  const here = pathPointAt(a, arcPx)
  const there = pathPointAt(b, a.lengthPx > 0 ? (arcPx / a.lengthPx) * b.lengthPx : 0)
  return {
    x: there.x + point.x - here.x,
    y: there.y + point.y - here.y,
    widthPx: (point.widthPx * there.widthPx) / here.widthPx,
  }
}

/**
 * New rows laid over a track: frames between the two ends of the new part are replaced, those outside stay.
 * A new part that was begun from a hand-set place (`joinAt`) meets the old one there without a jump, because it
 * starts from what is there.
 */
export function withRows(track: Track, rows: readonly TrackRow[]): Track {
  if (rows.length === 0) return track
  const [first, last] = [rows[0]![0], rows.at(-1)![0]]
  const kept = track.frames.filter(([frame]) => frame < first || frame > last)
  return { ...track, frames: [...kept, ...rows].sort((a, b) => a[0] - b[0]) }
}
