/**
 * LM_070, "The stagehand": a locked camera before an arcade whose lamps flicker; somebody from the crew walks
 * through. Positions are px of the frame.
 */
import { sin } from '../../core/kernels/exact'
import { createRandom } from '../random'

export const LM_070 = {
  name: 'LM_070',
  title: 'The stagehand',
  width: 1280,
  height: 720,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 48,
  seed: 20260407,
  /** Deviation of the film grain in 8-bit code values. */
  grainLevel8: 2,
  /** Deviation of the grain's own blur: how coarse it is. */
  grainCoarsePx: 0.5,
} as const

/** Two lamps hang from the arches; what they give falls off with distance. */
export const LAMPS = [
  { x: 392, y: 96, reachPx: 330 },
  { x: 1016, y: 96, reachPx: 330 },
] as const

export interface Moment {
  readonly frame: number
  /** What the lamps give on this frame: 1 is usual. */
  readonly lamp: number
  readonly figure: Figure
}

export interface Figure {
  /** Middle of the hips, and the ground under the feet. */
  readonly x: number
  readonly groundY: number
  /** Where in the walk: legs and arms swing with its sine. */
  readonly swing: number
  /** Px that it goes on during the shutter. */
  readonly blurPx: number
  /** Around all of it, arms, feet and shadow; x, y pairs, clockwise from the left of the hat. */
  readonly outline: readonly number[]
}

const GROUND_Y = 622
const SHUTTER = 0.5 // of the frame's time: 180°, common practice
const TAU = 2 * Math.PI

const phaseOf = (frame: number) => (frame - LM_070.firstFrame) / (LM_070.frameCount - 1)

/** It strides in, slows down in the middle as if to look, and strides out. */
export const xAt = (frame: number): number => {
  const t = phaseOf(frame)
  return -90 + 1460 * (t + (0.6 / TAU) * sin(TAU * t))
}

/** Smooth breathing and a quick flutter, never out of the film's range. */
export function lampAt(frame: number): number {
  const t = phaseOf(frame)
  const flutter = createRandom(LM_070.seed + frame)() - 0.5
  return 1 + 0.16 * sin(TAU * 2.3 * t + 0.8) + 0.22 * flutter
}

export function momentAt(frame: number): Moment {
  const x = xAt(frame)
  const swing = sin(x / 27)
  const blurPx = SHUTTER * (xAt(frame + 0.5) - xAt(frame - 0.5))
  const stride = 18 + 52 * Math.abs(swing)
  const reach = 34 + 40 * Math.abs(swing)
  const soft = blurPx / 2 + 4
  const at = (dx: number, dy: number) => [x + dx + (dx < 0 ? -soft : soft), GROUND_Y + dy]
  const outline = [
    ...[
      at(-30, -352),
      at(30, -352),
      at(32, -302),
      at(50, -286),
      at(reach, -158),
      at(48, -110),
      at(stride + 24, -24),
      at(stride + 34, 14),
    ],
    ...[
      at(-stride - 34, 14),
      at(-stride - 24, -24),
      at(-48, -110),
      at(-reach, -158),
      at(-50, -286),
      at(-32, -302),
    ],
  ].flat()
  return { frame, lamp: lampAt(frame), figure: { x, groundY: GROUND_Y, swing, blurPx, outline } }
}
