/** LM_090: the square, all around; the camera stands on its tripod, which was slid along a little. */
import { cos, sin } from '../../core/kernels/exact'
import type { ShotDescription } from '../shot'

export const LM_090 = {
  name: 'LM_090',
  title: 'The square, all around',
  width: 1024,
  height: 512,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 24,
  seed: 9090,
  isAllRound: true,
  /** Code values. */
  grainLevel8: 1.8,
} as const satisfies ShotDescription & { readonly grainLevel8: number }

/** Metres. The camera looks around from so high above the paving. */
export const EYE_M = 1.6
/** Of the walls around the square, seen from its middle. */
export const WALL_M = 13
export const WALL_HEIGHT_M = 6.5
/** Side of a paving stone. */
export const STONE_M = 0.62

/** A leg of the tripod from its head to the ground, beside the camera; metres, with its radius. */
export interface Leg {
  readonly from: readonly [right: number, up: number, ahead: number]
  readonly to: readonly [right: number, up: number, ahead: number]
  readonly radius: number
}

const SPREAD_M = 0.55

export const TRIPOD: readonly Leg[] = [
  ...[20, 140, 260].map((turnDeg): Leg => {
    const turn = (turnDeg * Math.PI) / 180
    return {
      from: [0.03 * sin(turn), -0.28, 0.03 * cos(turn)],
      to: [SPREAD_M * sin(turn), -EYE_M, SPREAD_M * cos(turn)],
      radius: 0.017,
    }
  }),
  // The head, right below the camera.
  { from: [0, -0.34, 0], to: [0, -0.24, 0], radius: 0.034 },
]

/** Where the camera stands, metres to the right and ahead of where it began. */
export interface Moment {
  readonly right: number
  readonly ahead: number
}

export function momentAt(frame: number): Moment {
  const share = (frame - LM_090.firstFrame) / (LM_090.frameCount - 1)
  return { right: 1.3 * share, ahead: 0.35 * sin(Math.PI * share) }
}
