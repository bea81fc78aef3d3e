/**
 * Drives a tracker through frames: reads what it asks for, hands on what it sees, bridges short gaps.
 */
import type { Rect, Size } from '../image/rect'
import type { Samples } from '../image/samples'
import type { FrameRect } from '../shot/clip'
import type { Frame } from '../time'
import { PlanarTracker } from './planarTracker'
import { PointTracker } from './pointTracker'
import type { TrackSettings } from './settings'
import { SpreadTracker } from './spreadTracker'
import { SurfaceTracker } from './surfaceTracker'
import type { Observation, Tracker, TrackState } from './tracker'
import { openWindow, type FrameWindow } from './window'

export const trackKinds = ['point', 'pair', 'planar', 'spread', 'surface'] as const
export type TrackKind = (typeof trackKinds)[number]

export interface TrackRequest {
  readonly kind: TrackKind
  /** On the start frame, x, y pairs: one point, two points, places of a surface, or the outline of an area. */
  readonly seed: readonly number[]
  /** Of many points: these, x, y pairs, instead of new ones. */
  readonly points?: readonly number[]
  /** Of places of a surface, those that are out of sight on the start frame. */
  readonly hidden?: readonly boolean[]
  /** Polygons on the start frame that are left out of an area. */
  readonly holdouts?: readonly (readonly number[])[]
  readonly settings: TrackSettings
  readonly startFrame: Frame
  /** The frames to go through, in order, without the start frame. */
  readonly frames: readonly Frame[]
}

export interface PictureSource {
  readonly plate: Size
  readRect(frame: Frame, rect: Rect): Promise<Samples>
  /** Says what will be read soon, so that it can be brought together from far. */
  prefetch?(wanted: readonly FrameRect[]): void
}

/** Frames that are brought together ahead of what follows something through them. */
const AHEAD_FRAMES = 8

/** Has the same place of the next frames brought, some at a time: nothing waits for each of them in turn. */
export function readAhead(
  source: PictureSource,
  frames: readonly Frame[],
  at: number,
  rects: readonly Rect[],
): void {
  if (at % AHEAD_FRAMES !== 0) return
  const soon = frames.slice(at + 1, at + 1 + 2 * AHEAD_FRAMES)
  source.prefetch?.(soon.flatMap((frame) => rects.map((rect) => ({ frame, rect }))))
}

export interface TrackedFrame {
  readonly frame: Frame
  readonly sure: number
  readonly values: readonly number[]
}

export interface TrackOutcome {
  /** Rising order of frames, the start frame among them. */
  readonly frames: readonly TrackedFrame[]
  /** The corners that a planar or many-point motion is told by, on the start frame. */
  readonly corners: readonly number[]
  /** Where the points of a spread began. */
  readonly starts: readonly number[]
  readonly end: {
    readonly reason: 'finished' | 'stopped' | 'nothing-to-hold' | Exclude<TrackState, 'held' | 'covered'>
    readonly frame: Frame
  }
}

/** How sure a bridged frame can be at most: nobody saw it. */
export const BRIDGED_SURE = 0.2

/**
 * Tracks through the frames asked for.
 *
 * @param onFrame  Told of every frame as it is done; a bridged stretch comes when its far end is found.
 * @returns What was held. A lost subject ends the track at the last frame that was sure; nothing is guessed.
 */
export async function runTrack(
  request: TrackRequest,
  source: PictureSource,
  context: { shouldStop(): boolean; onFrame?(frame: TrackedFrame): void },
): Promise<TrackOutcome> {
  const { kind, seed, settings, startFrame, frames } = request
  const trackers = createTrackers(request)
  const open = async (tracker: Tracker, frame: Frame): Promise<FrameWindow[]> => {
    const opened: FrameWindow[] = []
    for (const rect of tracker.windows(source.plate)) {
      opened.push(
        openWindow(await source.readRect(frame, rect), rect, source.plate, settings, tracker.levels),
      )
    }
    return opened
  }
  for (const tracker of trackers) {
    if (!tracker.begin(await open(tracker, startFrame))) {
      return { frames: [], corners: [], starts: [], end: { reason: 'nothing-to-hold', frame: startFrame } }
    }
  }
  const [first] = trackers
  const corners = first instanceof PlanarTracker || first instanceof SpreadTracker ? first.corners : []
  const starts = first instanceof SpreadTracker ? [...first.starts] : []
  const begun =
    kind === 'planar'
      ? corners
      : kind === 'spread'
        ? [...corners, ...withWeights(starts)]
        : kind === 'surface'
          ? withWeights(seed, request.hidden)
          : [...seed]
  const done: TrackedFrame[] = [{ frame: startFrame, sure: 1, values: begun }]
  const covered: Frame[] = []
  let end: TrackOutcome['end'] = { reason: 'finished', frame: frames.at(-1) ?? startFrame }
  for (const [at, frame] of frames.entries()) {
    if (context.shouldStop()) {
      end = { reason: 'stopped', frame }
      break
    }
    const looked = trackers.flatMap((tracker) => tracker.windows(source.plate))
    readAhead(source, frames, at, looked)
    const seen = joined(
      await Promise.all(trackers.map(async (tracker) => tracker.advance(await open(tracker, frame)))),
    )
    if (seen.state === 'covered') {
      covered.push(frame)
      continue
    }
    if (seen.state !== 'held') {
      end = { reason: seen.state, frame: covered[0] ?? frame }
      covered.length = 0
      break
    }
    const last = done[done.length - 1]!
    const here = { frame, sure: seen.sure, values: seen.values }
    for (const missed of covered.splice(0)) report(between(last, here, missed))
    report(here)
  }
  // A cover-up that never ended is a loss, told from its first frame.
  if (covered.length > 0) end = { reason: end.reason === 'stopped' ? 'stopped' : 'lost', frame: covered[0]! }
  return { frames: done.sort((a, b) => a.frame - b.frame), corners, starts, end }

  function report(tracked: TrackedFrame): void {
    done.push(tracked)
    context.onFrame?.(tracked)
  }
}

function createTrackers({ kind, seed, settings, points, hidden, holdouts = [] }: TrackRequest): Tracker[] {
  switch (kind) {
    case 'point':
    case 'pair': {
      const count = kind === 'point' ? 1 : 2
      if (seed.length !== 2 * count)
        throw new RangeError(
          `seed must hold ${count} x, y pairs for a ${kind}. Received ${seed.length} numbers`,
        )
      return Array.from(
        { length: count },
        (_, i) => new PointTracker(seed[2 * i]!, seed[2 * i + 1]!, settings),
      )
    }
    case 'surface':
      if (seed.length < 2) throw new RangeError('seed must hold at least one x, y pair of a surface')
      return [new SurfaceTracker(seed, settings, hidden)]
    case 'planar':
    case 'spread':
      if (seed.length < 6)
        throw new RangeError(`seed must outline an area with at least 3 points. Received ${seed.length / 2}`)
      return [
        kind === 'planar'
          ? new PlanarTracker(seed, settings, holdouts)
          : new SpreadTracker(seed, settings, holdouts, points),
      ]
  }
}

/** Two points are as good as the worse of them. */
function joined(seen: readonly Observation[]): Observation {
  if (seen.length === 1) return seen[0]!
  const worst =
    seen.find((one) => one.state === 'left-picture') ??
    seen.find((one) => one.state === 'lost') ??
    seen.find((one) => one.state === 'covered')
  return {
    state: worst?.state ?? 'held',
    values: seen.flatMap((one) => one.values),
    sure: Math.min(...seen.map((one) => one.sure)),
  }
}

/** A frame that nobody saw, on the straight way from one that was seen to another. */
export function between(a: TrackedFrame, b: TrackedFrame, frame: Frame): TrackedFrame {
  const f = (frame - a.frame) / (b.frame - a.frame)
  return {
    frame,
    sure: Math.min(a.sure, b.sure, BRIDGED_SURE),
    values: a.values.map((value, i) => value + f * (b.values[i]! - value)),
  }
}

const withWeights = (starts: readonly number[], hidden: readonly boolean[] = []): number[] => {
  const out: number[] = []
  for (let i = 0; i < starts.length; i += 2) out.push(starts[i]!, starts[i + 1]!, hidden[i / 2] ? 0 : 1)
  return out
}
