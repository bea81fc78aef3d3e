/** What was found, smooth over time: one frame that went astray is pulled back to the course of its neighbours. */
import { addEquation, solveSymmetric } from '../../geometry/linear'
import { medianOf } from '../../image/median'
import type { Frame } from '../../time'
import type { TrackedFrame } from '../runTrack'

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
