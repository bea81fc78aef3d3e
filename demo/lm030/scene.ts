/**
 * LM_030, "The square from above": the camera rises over cobbles and a fountain. The soft shadow of the crane that carries it sweeps
 * over the ground and leaves the picture before the middle of the shot. Positions are px of the frame.
 */
import { cos, sin } from '../../core/kernels/exact'
import { compose, translationBy, type Matrix3 } from '../../core/geometry/transform'

export const LM_030 = {
  name: 'LM_030',
  title: 'The square from above',
  width: 1280,
  height: 720,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 48,
  seed: 20260403,
  /** Deviation of the film grain in 8-bit code values, at middle brightness; less in the dark and in the bright. */
  grainLevel8: 2.2,
  /** Deviation of the grain's own blur: how coarse it is. */
  grainCoarsePx: 0.5,
} as const

export const SQUARE = { width: 1640, height: 960 } as const

/** Share of the direct light's red, green and blue that is missing where the shadow is full: the sky still lights it. */
export const MISSING = [0.6, 0.55, 0.46] as const

export interface Place {
  readonly x: number
  readonly y: number
}

export interface Moment {
  readonly frame: number
  /** Takes a position in the frame to the position of the painted square that it shows. */
  readonly squareFromFrame: Matrix3
  /** The arm from its root to its head, how wide it is there, and how softly its edge runs; the head is a disc. */
  readonly shadow: {
    readonly root: Place
    readonly head: Place
    readonly rootPx: number
    readonly headPx: number
    readonly discPx: number
    readonly softPx: number
  }
  /** An outline round all of the shadow; x, y pairs. */
  readonly outline: readonly number[]
}

/** The last frame on which any of the shadow lies in the picture. */
export const LAST_SHADED = 1022

export function momentAt(frame: number): Moment {
  const t = (frame - LM_030.firstFrame) / (LM_030.frameCount - 1)
  const scale = 0.92 + 0.16 * t
  const turn = 0.02 - 0.05 * t
  const [a, b] = [scale * cos(turn), scale * sin(turn)]
  const [midX, midY] = [LM_030.width / 2, LM_030.height / 2]
  const around: Matrix3 = [a, -b, 0, b, a, 0, 0, 0, 1]
  const drift = { x: 24 * t + 0.8 * sin(14 * t), y: -18 * t + 0.7 * cos(11 * t) }
  const squareFromFrame = compose(
    translationBy(SQUARE.width / 2 + drift.x, SQUARE.height / 2 + drift.y),
    compose(around, translationBy(-midX, -midY)),
  )
  const swept = frame - LM_030.firstFrame
  const head = { x: 720 - 30 * swept - 0.35 * swept * swept, y: 430 - 5 * swept + 6 * sin(0.25 * swept) }
  const root = { x: head.x - 420, y: head.y - 620 }
  const shadow = { root, head, rootPx: 58, headPx: 34, discPx: 74, softPx: 13 }
  return { frame, squareFromFrame, shadow, outline: outlineOf(shadow) }
}

const BEYOND_PX = 12

function outlineOf({ root, head, rootPx, headPx, discPx, softPx }: Moment['shadow']): number[] {
  const far = softPx + BEYOND_PX
  const [dx, dy] = [head.x - root.x, head.y - root.y]
  const length = Math.sqrt(dx * dx + dy * dy)
  const [alongX, alongY] = [dx / length, dy / length]
  const round = Array.from({ length: 9 }, (_, i) => {
    // From beside the arm round the head to the arm's other side.
    const [c, s] = [
      cos(-0.7 * Math.PI + (1.4 * Math.PI * i) / 8),
      sin(-0.7 * Math.PI + (1.4 * Math.PI * i) / 8),
    ]
    const reach = discPx + far
    return [head.x + reach * (c * alongX - s * alongY), head.y + reach * (c * alongY + s * alongX)]
  })
  const side = (at: Place, width: number, sign: number) => [
    at.x - sign * width * alongY,
    at.y + sign * width * alongX,
  ]
  return [
    side(root, rootPx + far, -1),
    side(head, headPx + 2 * far, -1).map((one, i) => one - 110 * [alongX, alongY][i]!),
    ...round,
    side(head, headPx + 2 * far, 1).map((one, i) => one - 110 * [alongX, alongY][i]!),
    side(root, rootPx + far, 1),
  ].flat()
}

/** How strong the shadow is at a place, 0 to 1. */
export function strengthAt(
  { root, head, rootPx, headPx, discPx, softPx }: Moment['shadow'],
  x: number,
  y: number,
): number {
  const [dx, dy] = [head.x - root.x, head.y - root.y]
  const share = Math.min(1, Math.max(0, ((x - root.x) * dx + (y - root.y) * dy) / (dx * dx + dy * dy)))
  const [offX, offY] = [x - root.x - share * dx, y - root.y - share * dy]
  const arm = Math.sqrt(offX * offX + offY * offY) - (rootPx + share * (headPx - rootPx))
  const disc = Math.sqrt((x - head.x) * (x - head.x) + (y - head.y) * (y - head.y)) - discPx
  const inside = 0.5 - Math.min(arm, disc) / (2 * softPx)
  const at = Math.min(1, Math.max(0, inside))
  return at * at * (3 - 2 * at)
}
