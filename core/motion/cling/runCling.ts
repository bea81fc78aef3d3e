/** Drives a cling through frames, one way or both, and smooths what it found over time. */
import type { PathPoint } from '../../geometry/pathCurve'
import type { Rect } from '../../image/rect'
import type { Samples } from '../../image/samples'
import type { Frame } from '../../time'
import { between, BRIDGED_SURE, readAhead, type PictureSource, type TrackedFrame } from '../runTrack'
import { ClingTracker, type ClingSettings } from './clingTracker'
import type { ClungFrame } from './clung'
import type { NoLine } from './firstLine'
import { seeEnds, settledEnds, type EndCandidates } from './settleEnds'
import { SameAgain } from './sameAgain'
import { smoothOverTime } from './smoothOverTime'
import { solveStretches, valuesOf, type FollowedWay, type SolveContext } from './solveStretch'

export interface ClingRequest {
  readonly points: readonly PathPoint[]
  readonly settings: ClingSettings & { readonly bridgeFrames: number }
  readonly startFrame: Frame
  /** The frames of one way or of both, each in the order in which it is gone, without the start frame. */
  readonly ways: readonly (readonly Frame[])[]
  /** Where the line was found before: a way ends where it comes to the same again. */
  readonly known?: readonly TrackedFrame[]
}

export interface ClingEnd {
  readonly reason: 'finished' | 'stopped' | NoLine | 'lost' | 'left-picture' | 'same'
  readonly frame: Frame
}

export interface ClingOutcome {
  /** x, y, width of each point, one after the other; rising order of frames, the start frame among them. */
  readonly frames: readonly TrackedFrame[]
  /** How each way ended; one alone where there is no line. */
  readonly ends: readonly ClingEnd[]
}

/** `onFrame` is told of each frame as it is fitted; `onProgress` of a second look at frames that are not sure. */
export interface ClingContext extends SolveContext {
  onFrame?(frame: TrackedFrame): void
}

/** Less sure, the line is looked for far around too. */
const FAR_BELOW_SURE = 0.6

/**
 * Fits the path on every frame asked for.
 * @returns What was held; a line that does not come back within `bridgeFrames` ends its way at the last good frame.
 */
export async function runCling(
  { points, settings, startFrame, ways, known = [] }: ClingRequest,
  source: PictureSource,
  context: ClingContext,
): Promise<ClingOutcome> {
  const tracker = new ClingTracker(points, settings)
  const rect = tracker.window(source.plate)
  if (!rect) return { frames: [], ends: [{ reason: 'left-picture', frame: startFrame }] }
  const samples = await source.readRect(startFrame, rect)
  const begun = tracker.begin(samples, rect, source.plate)
  if (typeof begun === 'string') return { frames: [], ends: [{ reason: begun, frame: startFrame }] }
  const start = { frame: startFrame, sure: begun.sure, values: valuesOf(begun.points) }
  context.onFrame?.(start)
  const frames: TrackedFrame[] = [start]
  const ends: ClingEnd[] = []
  const seen = new Map<Frame, EndCandidates>()
  for (const way of ways) {
    tracker.restart(samples, rect, source.plate)
    const followed = await followWay(
      tracker,
      start,
      way,
      { bridgeFrames: settings.bridgeFrames, known },
      source,
      context,
    )
    tracker.restart(samples, rect, source.plate)
    // Stopped, what was held by then is kept.
    const solved = followed.isStopped ? null : await solveStretches(tracker, start, followed, source, context)
    const { held, lostAt } = heldOf(followed.way, solved ?? followed.found, settings.bridgeFrames)
    frames.push(...held)
    if (!followed.isStopped) {
      tracker.restart(samples, rect, source.plate)
      for (const [frame, at] of (await seeEnds(tracker, [start, ...held], source, context)) ?? [])
        seen.set(frame, at)
    }
    const last = held.at(-1)?.frame ?? startFrame
    if (followed.isStopped || (solved === null && context.shouldStop()))
      ends.push({ reason: 'stopped', frame: last })
    else if (followed.isSame) ends.push({ reason: 'same', frame: last })
    else if (lostAt !== null) ends.push({ reason: 'lost', frame: lostAt })
    else if (followed.way.length < way.length)
      ends.push({ reason: 'left-picture', frame: way[followed.way.length]! })
    else ends.push({ reason: 'finished', frame: last })
  }
  const inOrder = frames.sort((a, b) => a.frame - b.frame)
  return { frames: smoothOverTime(settledEnds(tracker, inOrder, seen)), ends }
}

interface Followed extends FollowedWay {
  readonly isStopped?: boolean
  readonly isSame?: boolean
}

/** One frame after the other, until it leaves the picture, is gone for longer than it is bridged, is where it was known to be, or was stopped. */
async function followWay(
  tracker: ClingTracker,
  start: TrackedFrame,
  way: readonly Frame[],
  { bridgeFrames, known }: { readonly bridgeFrames: number; readonly known: readonly TrackedFrame[] },
  source: PictureSource,
  context: ClingContext,
): Promise<Followed> {
  const sameAgain = new SameAgain(known)
  const found = new Map<Frame, TrackedFrame>()
  let last = start
  let covered: Frame[] = []
  for (const [at, frame] of way.entries()) {
    if (context.shouldStop()) return { way: way.slice(0, at), found, isStopped: true }
    const rect = tracker.window(source.plate)
    if (!rect) return { way: way.slice(0, at), found }
    readAhead(source, way, at, [rect])
    const seen = await advanced(tracker, await source.readRect(frame, rect), rect, source, frame)
    if (!seen.isHeld) {
      covered.push(frame)
      if (covered.length > bridgeFrames) break
      continue
    }
    const here = { frame, sure: seen.sure, values: valuesOf(seen.points) }
    for (const one of [...covered.map((missed) => between(last, here, missed)), here]) {
      found.set(one.frame, one)
      context.onFrame?.(one)
    }
    covered = []
    last = here
    if (sameAgain.add(here)) return { way: way.slice(0, at + 1), found, isSame: true }
  }
  return { way, found }
}

async function advanced(
  tracker: ClingTracker,
  samples: Samples,
  rect: Rect,
  source: PictureSource,
  frame: Frame,
): Promise<ClungFrame> {
  const found = tracker.advance(samples, rect, source.plate)
  const far = found.sure < FAR_BELOW_SURE ? tracker.farWindow(source.plate) : null
  if (!far) return found
  return tracker.searchFar(await source.readRect(frame, far), far, source.plate, found) ?? found
}

/** What is held of a way, in its order; what is not seen any more at its end, or for longer than it is bridged, is lost. */
function heldOf(
  way: readonly Frame[],
  found: ReadonlyMap<Frame, TrackedFrame>,
  bridgeFrames: number,
): { readonly held: readonly TrackedFrame[]; readonly lostAt: Frame | null } {
  const held: TrackedFrame[] = []
  let unseen: Frame[] = []
  for (const frame of way) {
    const one = found.get(frame)
    if (one && one.sure > BRIDGED_SURE) {
      held.push(...unseen.flatMap((missed) => found.get(missed) ?? []), one)
      unseen = []
    } else if (unseen.push(frame) > bridgeFrames) break
  }
  return { held, lostAt: unseen[0] ?? null }
}
