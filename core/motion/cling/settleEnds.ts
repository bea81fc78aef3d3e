/** Where a line stops inside the picture, settled for all frames together once the line itself is known on them. */
import { createPathCurve } from '../../geometry/pathCurve'
import type { Frame } from '../../time'
import type { PictureSource, TrackedFrame } from '../runTrack'
import { cutCurve, pointsOf, trackedPoints } from './clingCurves'
import type { ClingTracker } from './clingTracker'
import { endsOverTime } from './endsOverTime'
import type { ArcCandidate } from './lineEnds'
import { valuesOf, type SolveContext } from './solveStretch'

/** Looks that are brought together ahead. */
const AHEAD = 8

/** Of a frame, where each end that stops inside the picture may be. */
export type EndCandidates = readonly (readonly ArcCandidate[])[]
export type SeenEnds = ReadonlyMap<Frame, EndCandidates>

/**
 * Looks at the ends on one frame after the other.
 * @param tracker  Begun, back on its first frame. @param held  Frames on which the line is held, in the order in which they were gone.
 * @returns null when it was stopped.
 */
export async function seeEnds(
  tracker: ClingTracker,
  held: readonly TrackedFrame[],
  source: PictureSource,
  context: SolveContext,
): Promise<SeenEnds | null> {
  const seen = new Map<Frame, EndCandidates>()
  if (tracker.seenEnds.length === 0) return seen
  const wanted = held.flatMap(({ frame, values }) => {
    const points = trackedPoints(values)
    const looks = tracker.seenEnds.flatMap((end) => {
      const rect = tracker.endWindow(points, end, source.plate)
      return rect ? [{ frame, end, points, rect }] : []
    })
    return looks.length === tracker.seenEnds.length ? looks : []
  })
  for (const [at, { frame, end, points, rect }] of wanted.entries()) {
    if (context.shouldStop()) return null
    if (at % AHEAD === 0) source.prefetch?.(wanted.slice(at + 1, at + 1 + 2 * AHEAD))
    const samples = await source.readRect(frame, rect)
    const candidates = tracker.endCandidates(points, end, samples, rect, source.plate)
    seen.set(frame, [...(seen.get(frame) ?? []), candidates])
  }
  return seen
}

/** All frames in rising order with their ends settled; those on which none was looked at stay as they are. */
export function settledEnds(
  tracker: ClingTracker,
  frames: readonly TrackedFrame[],
  seen: SeenEnds,
): TrackedFrame[] {
  const told = frames.filter((one) => seen.has(one.frame))
  const arcs = new Map<Frame, [number | null, number | null]>(told.map((one) => [one.frame, [null, null]]))
  tracker.seenEnds.forEach((end, k) => {
    const candidates = told.map((one) => seen.get(one.frame)![k]!)
    const taken = endsOverTime(candidates)
    told.forEach((one, at) => (arcs.get(one.frame)![end] = candidates[at]![taken[at]!]!.arcPx))
  })
  return frames.map((one) => {
    const own = arcs.get(one.frame)
    if (!own) return one
    const curve = createPathCurve(trackedPoints(one.values))
    return { ...one, values: valuesOf(pointsOf(cutCurve(curve, own[0] ?? 0, own[1] ?? curve.lengthPx))) }
  })
}
