/** Drives a cling through frames, then smooths what it found over time. */
import type { PathPoint } from '../../geometry/pathCurve'
import { medianOf } from '../../image/median'
import { solveSymmetric, addEquation } from '../../geometry/linear'
import type { Frame } from '../../time'
import type { NoLine } from './firstLine'
import { WaysOverTime } from './overTime'
import { BRIDGED_SURE, readAhead, type PictureSource, type TrackedFrame } from '../runTrack'
import type { Rect } from '../../image/rect'
import type { Samples } from '../../image/samples'
import { ClingTracker, type ClingSettings, type ClungFrame } from './clingTracker'

export interface ClingRequest {
  readonly points: readonly PathPoint[]
  readonly settings: ClingSettings & { readonly bridgeFrames: number }
  readonly startFrame: Frame
  /** Frames to go through, in order, without the start frame. */
  readonly frames: readonly Frame[]
}

export interface ClingOutcome {
  /** x, y, width of each point, one after the other; rising order of frames, the start frame among them. */
  readonly frames: readonly TrackedFrame[]
  readonly end: {
    readonly reason: 'finished' | 'stopped' | NoLine | 'lost' | 'left-picture'
    readonly frame: Frame
  }
}

/**
 * Fits the path on every frame asked for.
 *
 * @param onFrame Told of each frame as it is fitted, before smoothing over time.
 * @returns What was held; a line that does not come back within `bridgeFrames` ends it at the last good frame.
 */
export async function runCling(
  { points, settings, startFrame, frames }: ClingRequest,
  source: PictureSource,
  context: { shouldStop(): boolean; onFrame?(frame: TrackedFrame): void },
): Promise<ClingOutcome> {
  const tracker = new ClingTracker(points, settings)
  const done: TrackedFrame[] = []
  let end: ClingOutcome['end'] = { reason: 'finished', frame: frames.at(-1) ?? startFrame }
  const covered: Frame[] = []
  const all = [startFrame, ...frames]
  for (const [at, frame] of all.entries()) {
    if (context.shouldStop()) {
      end = { reason: 'stopped', frame }
      break
    }
    const rect = tracker.window(source.plate)
    if (rect) readAhead(source, all, at, [rect])
    const samples = rect && (await source.readRect(frame, rect))
    if (!samples) {
      end = { reason: 'left-picture', frame }
      break
    }
    const found =
      done.length === 0
        ? tracker.begin(samples, rect, source.plate)
        : await advanced(tracker, samples, rect, source, frame)
    if (!found) return { frames: [], end: { reason: tracker.noLine ?? 'no-line', frame } }
    if (!found.isHeld) {
      covered.push(frame)
      if (covered.length <= settings.bridgeFrames) continue
      end = { reason: 'lost', frame: covered[0]! }
      covered.length = 0
      break
    }
    const here = {
      frame,
      sure: found.sure,
      values: found.points.flatMap(({ x, y, widthPx }) => [x, y, widthPx]),
    }
    const last = done.at(-1)
    for (const missed of covered.splice(0)) {
      const f = (missed - last!.frame) / (frame - last!.frame)
      report({
        frame: missed,
        sure: BRIDGED_SURE,
        values: last!.values.map((value, i) => value + f * (here.values[i]! - value)),
      })
    }
    report(here)
  }
  if (covered.length > 0 && end.reason === 'finished') end = { reason: 'lost', frame: covered[0]! }
  const isUnsure = end.reason === 'lost' || done.some(({ sure }) => sure < SOLVED_BELOW_SURE)
  if (isUnsure && end.reason !== 'stopped' && frames.length > 1) {
    const solved = await solvedOverTime({ points, settings, startFrame, frames }, source, context)
    if (solved && isBetter(solved.frames, done)) return solved
  }
  return { frames: smoothOverTime(done.sort((a, b) => a.frame - b.frame)), end }

  function report(tracked: TrackedFrame): void {
    done.push(tracked)
    context.onFrame?.(tracked)
  }
}

/** A single frame less sure than this, and all frames are looked at together. */
const SOLVED_BELOW_SURE = 0.9

/** The way through all frames at once; null when it was stopped or holds no more. */
async function solvedOverTime(
  { points, settings, startFrame, frames }: ClingRequest,
  source: PictureSource,
  context: { shouldStop(): boolean },
): Promise<ClingOutcome | null> {
  const read = async (frame: Frame, rect: Rect | null) =>
    rect && { rect, samples: await source.readRect(frame, rect) }
  const tracker = new ClingTracker(points, settings)
  const first = await read(startFrame, tracker.window(source.plate))
  const begun = first && tracker.begin(first.samples, first.rect, source.plate)
  if (!begun) return null
  const ways = new WaysOverTime(begun.points)
  const reached: Frame[] = []
  for (const frame of frames) {
    if (context.shouldStop()) return null
    const { leads } = ways
    const seen = await read(frame, tracker.farWindow(source.plate, leads[0]))
    if (!seen) break
    ways.add(tracker.candidates(seen.samples, seen.rect, source.plate, leads))
    reached.push(frame)
  }
  const done: TrackedFrame[] = [{ frame: startFrame, sure: begun.sure, values: valuesOf(begun.points) }]
  const way = ways.best()
  const measurer = new ClingTracker(points, settings)
  measurer.begin(first.samples, first.rect, source.plate)
  for (const [i, frame] of reached.entries()) {
    if (context.shouldStop()) return null
    const { points: there, quality } = way[i]!
    const seen = quality > 0 ? await read(frame, measurer.window(source.plate, there)) : null
    const found = seen && measurer.settle(seen.samples, seen.rect, source.plate, there)
    done.push({
      frame,
      sure: found?.isHeld ? found.sure : Math.min(BRIDGED_SURE, quality),
      values: valuesOf(found?.points ?? there),
    })
  }
  return endedWhereLost(done, settings.bridgeFrames, startFrame, frames)
}

/** Whether more of the line is held, or as much and more surely. */
function isBetter(solved: readonly TrackedFrame[], done: readonly TrackedFrame[]): boolean {
  const sures = (all: readonly TrackedFrame[]) => all.reduce((sum, { sure }) => sum + sure, 0)
  return sures(solved) > sures(done)
}

/** A line that is not seen for longer than it is bridged is lost from there on. */
function endedWhereLost(
  done: readonly TrackedFrame[],
  bridgeFrames: number,
  startFrame: Frame,
  frames: readonly Frame[],
): ClingOutcome {
  const seen = done.findLastIndex(({ sure }) => sure > BRIDGED_SURE)
  const missed = frames.length - seen
  const isLost = missed > bridgeFrames || (missed > 0 && done.length <= frames.length)
  const kept = isLost ? done.slice(0, seen + 1) : done
  const end = isLost
    ? { reason: 'lost' as const, frame: frames[seen] ?? startFrame }
    : { reason: 'finished' as const, frame: frames.at(-1) ?? startFrame }
  return { frames: smoothOverTime([...kept].sort((a, b) => a.frame - b.frame)), end }
}

const valuesOf = (points: readonly PathPoint[]): number[] =>
  points.flatMap(({ x, y, widthPx }) => [x, y, widthPx])

/** Less sure, the line is looked for far around too. */
const FAR_BELOW_SURE = 0.6

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

const REACH_FRAMES = 3
const OUTLIER_PX = 0.6 // a number this far from its neighbours' course has little say

/**
 * Every number drawn to the parabola through its neighbours in time; one frame that went astray is pulled back.
 * Source: A. Savitzky, M. Golay, "Smoothing and differentiation of data", 1964, with weights against outliers.
 */
export function smoothOverTime(frames: readonly TrackedFrame[], reachFrames = REACH_FRAMES): TrackedFrame[] {
  return frames.map((here, index) => {
    const near = frames.slice(Math.max(0, index - reachFrames), index + reachFrames + 1)
    if (near.length < 5) return here
    return { ...here, values: here.values.map((_, i) => courseAt(near, here.frame, i, reachFrames)) }
  })
}

function courseAt(near: readonly TrackedFrame[], frame: Frame, i: number, reachFrames: number): number {
  const base = near.map((one) => {
    const t = (one.frame - frame) / (reachFrames + 1)
    return Math.max(0.05, one.sure) * (1 - t * t)
  })
  let weights = base
  let value = 0
  let offs: number[] = []
  for (let round = 0; round < 3; round++) {
    const upper = new Float64Array(6)
    const right = new Float64Array(3)
    near.forEach((one, k) => {
      const t = (one.frame - frame) / reachFrames
      addEquation(upper, right, [1, t, t * t], one.values[i]!, weights[k]!)
    })
    const solved = solveSymmetric(upper, right)
    if (!solved) return near.find((one) => one.frame === frame)!.values[i]!
    value = solved[0]!
    offs = near.map((one) => {
      const t = (one.frame - frame) / reachFrames
      return Math.abs(one.values[i]! - solved[0]! - solved[1]! * t - solved[2]! * t * t) / OUTLIER_PX
    })
    weights = base.map((weight, k) => weight / (1 + offs[k]! * offs[k]!))
  }
  // What swings faster than a parabola bends is no outlier: where most are off the course, it has little say.
  const usual = medianOf(offs)
  const own = near.find((one) => one.frame === frame)!.values[i]!
  return own + (value - own) / (1 + usual * usual * usual * usual)
}
