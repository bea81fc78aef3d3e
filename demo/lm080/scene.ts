/**
 * LM_080, "The bollard": the camera goes sideways along the arcade with a little hand shake; a bollard near it hides
 * one part of wall, columns and floor after the other. Positions are px of the frame.
 */
import { sin } from '../../core/kernels/exact'
import { COLUMN_FOOT, EYE_LEVEL, WALL_FOOT } from '../arcade/paint'

export const LM_080 = {
  name: 'LM_080',
  title: 'The bollard',
  width: 1280,
  height: 720,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 48,
  seed: 20260408,
  /** Deviation of the film grain in 8-bit code values. */
  grainLevel8: 2,
  /** Deviation of the grain's own blur: how coarse it is. */
  grainCoarsePx: 0.5,
} as const

const TAU = 2 * Math.PI
const phaseOf = (frame: number) => (frame - LM_080.firstFrame) / (LM_080.frameCount - 1)

/** Px that something at the wall's foot goes for one px at the eye's distance of one: nearer is lower, and faster. */
const rateAt = (footY: number): number => (footY - EYE_LEVEL) / (WALL_FOOT - EYE_LEVEL)

export const BOLLARD_FOOT = 694
export const RATES = { wall: 1, columns: rateAt(COLUMN_FOOT), bollard: rateAt(BOLLARD_FOOT) } as const
/** How fast each row of the floor goes against the wall's foot: 1 there. */
export const floorRateAt = (y: number): number => rateAt(y)

export interface Place {
  readonly x: number
  readonly y: number
}

export interface Moment {
  readonly frame: number
  /** Px by which the wall has gone to the left, and by which everything is shaken. */
  readonly camera: { readonly goneX: number; readonly shake: Place }
  /** Px by which each layer has moved from where it was painted. */
  readonly layers: { readonly wall: Place; readonly columns: Place }
  readonly bollard: Place & { readonly outline: readonly number[] }
}

/** Of the bollard's layer: its size and where its foot stands in it. */
export const BOLLARD = { width: 150, height: 330, foot: { x: 75, y: 300 } } as const

export function momentAt(frame: number): Moment {
  const t = phaseOf(frame)
  const goneX = 190 * (t - 0.5) + 6 * sin(TAU * t)
  const shake = {
    x: 0.8 * sin(TAU * 3.1 * t + 0.4) + 0.5 * sin(TAU * 7.3 * t),
    y: 0.9 * sin(TAU * 2.6 * t + 1.1) + 0.4 * sin(TAU * 6.7 * t + 2),
  }
  const gone = (rate: number): Place => ({ x: -rate * goneX + shake.x, y: shake.y })
  const bollard = gone(RATES.bollard)
  const [x, y] = [660 + bollard.x, BOLLARD_FOOT + bollard.y]
  const at = (dx: number, dy: number) => [x + dx, y + dy]
  const outline = [
    ...[
      at(-22, -276),
      at(22, -276),
      at(38, -258),
      at(42, -214),
      at(36, -196),
      at(40, -20),
      at(56, -8),
      at(56, 16),
    ],
    ...[at(-56, 16), at(-56, -8), at(-40, -20), at(-36, -196), at(-42, -214), at(-38, -258)],
  ].flat()
  return {
    frame,
    camera: { goneX, shake },
    layers: { wall: gone(1), columns: gone(RATES.columns) },
    bollard: { x, y, outline },
  }
}
