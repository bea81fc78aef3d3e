/** Drives a cling through frames, then smooths what it found over time. */
import type { PathPoint } from '../../geometry/pathCurve'
import { solveSymmetric, addEquation } from '../../geometry/linear'
import type { Frame } from '../../time'
import { BRIDGED_SURE, readAhead, type PictureSource, type TrackedFrame } from '../runTrack'
import { ClingTracker, type ClingSettings } from './clingTracker'

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
    readonly reason: 'finished' | 'stopped' | 'nothing-to-hold' | 'lost' | 'left-picture'
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
        : tracker.advance(samples, rect, source.plate)
    if (!found) return { frames: [], end: { reason: 'nothing-to-hold', frame } }
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
  return { frames: smoothOverTime(done.sort((a, b) => a.frame - b.frame)), end }

  function report(tracked: TrackedFrame): void {
    done.push(tracked)
    context.onFrame?.(tracked)
  }
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
    weights = base.map((weight, k) => {
      const t = (near[k]!.frame - frame) / reachFrames
      const off = (near[k]!.values[i]! - solved[0]! - solved[1]! * t - solved[2]! * t * t) / OUTLIER_PX
      return weight / (1 + off * off)
    })
  }
  return value
}
