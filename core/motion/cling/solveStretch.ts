/**
 * A stretch of frames on which a line is not surely held, looked at together: everywhere it may be on each, and the way through
 * them (`overTime.ts`). From the last frames that are sure until what was found one by one is sure again, and the same.
 */
import type { PathPoint } from '../../geometry/pathCurve'
import type { Rect } from '../../image/rect'
import type { Samples } from '../../image/samples'
import type { Frame } from '../../time'
import { BRIDGED_SURE, type PictureSource, type TrackedFrame } from '../runTrack'
import { isNear, trackedPoints } from './clingCurves'
import type { ClingTracker } from './clingTracker'
import type { EndPlaces } from './lineEnds'
import { WaysOverTime } from './overTime'

/** A frame less sure than this is looked at together with others. */
const SURE_FROM = 0.9
/** So many sure frames in a row that are the same both ways end a stretch. */
const AGREEING = 4

export interface SolveContext {
  shouldStop(): boolean
  onProgress?(done: number, total: number): void
}

/** How a line was followed one way: the frames of the way, and what was found on them; missing where it was not held. */
export interface FollowedWay {
  readonly way: readonly Frame[]
  readonly found: ReadonlyMap<Frame, TrackedFrame>
}

/**
 * Solves all stretches that are not sure, one after the other.
 * @param tracker  Begun, on its first frame. @param start  What it found there.
 * @returns What is held better than before; null when it was stopped.
 */
export async function solveStretches(
  tracker: ClingTracker,
  start: TrackedFrame,
  { way, found }: FollowedWay,
  source: PictureSource,
  context: SolveContext,
): Promise<Map<Frame, TrackedFrame> | null> {
  const out = new Map(found)
  const isSure = (frame: Frame): boolean => (out.get(frame)?.sure ?? 0) >= SURE_FROM
  // Frames are only passed to get to those that are not sure.
  const last = way.findLastIndex((frame) => !isSure(frame))
  for (let at = 0; at <= last; at++) {
    if (context.shouldStop()) return null
    context.onProgress?.(at, way.length)
    if (isSure(way[at]!)) {
      const points = pointsOf(out.get(way[at]!)!)
      const seen = await read(source, way[at]!, tracker.window(source.plate, points))
      if (seen) tracker.pass(seen.samples, seen.rect, source.plate)
      continue
    }
    const known = (back: number) =>
      at >= back ? out.get(way[at - back]!) : at === back - 1 ? start : undefined
    const [one, before] = [known(1), known(2)]
    if (!one) return out // nothing leads here
    const solved = await solveFrom(
      tracker,
      at,
      { last: one, before: before ?? null },
      { way, found: out },
      source,
      context,
    )
    if (!solved) return null
    if (solved.length === 0) return out // it has left the picture
    const stretch = way.slice(at, at + solved.length)
    if (sureSum(solved) > sureSum(stretch.flatMap((frame) => out.get(frame) ?? [])))
      for (const one of solved) out.set(one.frame, one)
    at += solved.length - 1
  }
  return out
}

const sureSum = (frames: readonly TrackedFrame[]): number => frames.reduce((sum, { sure }) => sum + sure, 0)

/** From one frame on, until it agrees with what was found before; null when it was stopped. */
async function solveFrom(
  tracker: ClingTracker,
  from: number,
  { last, before }: { readonly last: TrackedFrame; readonly before: TrackedFrame | null },
  { way, found }: FollowedWay,
  source: PictureSource,
  context: SolveContext,
): Promise<TrackedFrame[] | null> {
  const ways = new WaysOverTime(pointsOf(last), before && pointsOf(before))
  const ends: EndPlaces[] = []
  let agreeing = 0
  for (let at = from; at < way.length && agreeing < AGREEING; at++) {
    if (context.shouldStop()) return null
    context.onProgress?.(at, way.length)
    const { leads } = ways
    const seen = await read(source, way[at]!, tracker.farWindow(source.plate, leads[0]))
    if (!seen) break
    const candidates = tracker.candidates(seen.samples, seen.rect, source.plate, leads)
    ways.add(candidates.places)
    ends.push(candidates.ends)
    const one = found.get(way[at]!)
    const isSame = one !== undefined && one.sure >= SURE_FROM && isNear(pointsOf(one), ways.leads[0]!)
    agreeing = isSame ? agreeing + 1 : 0
  }
  const out: TrackedFrame[] = []
  for (const [i, { points, quality }] of ways.best().entries()) {
    if (context.shouldStop()) return null
    const frame = way[from + i]!
    const seen = quality > 0 ? await read(source, frame, tracker.window(source.plate, points)) : null
    const settled = seen && tracker.settle(seen.samples, seen.rect, source.plate, points, ends[i]!)
    const sure = settled?.isHeld ? settled.sure : Math.min(BRIDGED_SURE, quality)
    out.push({ frame, sure, values: valuesOf(settled?.points ?? points) })
  }
  return out
}

const read = async (
  source: PictureSource,
  frame: Frame,
  rect: Rect | null,
): Promise<{ readonly rect: Rect; readonly samples: Samples } | null> =>
  rect && { rect, samples: await source.readRect(frame, rect) }

/** x, y, width of each point, one after the other. */
export const valuesOf = (points: readonly PathPoint[]): number[] =>
  points.flatMap(({ x, y, widthPx }) => [x, y, widthPx])

const pointsOf = ({ values }: TrackedFrame): PathPoint[] => trackedPoints(values)
