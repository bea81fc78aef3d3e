/**
 * LM_060, "The market": the camera goes sideways past market stalls; two marks were laid over the finished picture, one that rests in a corner
 * and one that travels along three legs and rests between. Positions are px of the frame.
 */
import { sin } from '../../core/kernels/exact'

export const LM_060 = {
  name: 'LM_060',
  title: 'The market',
  width: 1280,
  height: 720,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 48,
  seed: 20260406,
  /** Deviation of the film grain in 8-bit code values. */
  grainLevel8: 2,
  /** Deviation of the grain's own blur: how coarse it is. */
  grainCoarsePx: 0.5,
} as const

const TAU = 2 * Math.PI

export interface Place {
  readonly x: number
  readonly y: number
}

export interface Moment {
  readonly frame: number
  /** Px by which the wall and the stalls before it have moved from where they were painted. */
  readonly layers: { readonly wall: Place; readonly stalls: Place }
  /** Upper left corners of the marks. */
  readonly marks: { readonly still: Place; readonly travelling: Place }
}

/** How much faster the stalls go than the wall behind them. */
const STALL_RATE = 1.5

export const STILL_MARK = { x: 934, y: 604, width: 300, height: 84, opacity: 0.42 } as const
export const TRAVELLING_MARK = { width: 220, height: 72, opacity: 0.5 } as const

/** Frames on which the second mark begins and ends its legs, and where: it rests in between. */
export const STOPS = [
  { frame: 1001, x: 90, y: 72 },
  { frame: 1006, x: 90, y: 72 },
  { frame: 1018, x: 640.5, y: 118.25 },
  { frame: 1024, x: 640.5, y: 118.25 },
  { frame: 1034, x: 322.75, y: 430.5 },
  { frame: 1039, x: 322.75, y: 430.5 },
  { frame: 1048, x: 760.25, y: 390 },
] as const

function travelledTo(frame: number): Place {
  const after = STOPS.findIndex((stop) => stop.frame >= frame)
  const [a, b] = [STOPS[Math.max(0, after - 1)]!, STOPS[Math.max(0, after)]!]
  const share = b.frame > a.frame ? (frame - a.frame) / (b.frame - a.frame) : 0
  return { x: a.x + share * (b.x - a.x), y: a.y + share * (b.y - a.y) }
}

export function momentAt(frame: number): Moment {
  const t = (frame - LM_060.firstFrame) / (LM_060.frameCount - 1)
  const goneX = 240 * (t - 0.5)
  const shake = { x: 0.6 * sin(TAU * 2.7 * t), y: 0.7 * sin(TAU * 2.2 * t + 0.6) }
  return {
    frame,
    layers: {
      wall: { x: -goneX + shake.x, y: shake.y },
      stalls: { x: -STALL_RATE * goneX + shake.x, y: shake.y },
    },
    marks: { still: { x: STILL_MARK.x, y: STILL_MARK.y }, travelling: travelledTo(frame) },
  }
}
