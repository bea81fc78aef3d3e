/**
 * LM_050, "The lamplighter": a clay head in close-up turns to one side and back; half way the lamp flares and stays brighter and warmer.
 * The head is an ellipsoid whose surface is painted on a flat chart (u, v): the stereographic projection from its back, on which
 * the face's middle is (0, 0) and what looks straight to a side lies at distance 1. Positions are px of the frame.
 */
import { cos, exp, sin } from '../../core/kernels/exact'

export const LM_050 = {
  name: 'LM_050',
  title: 'The lamplighter',
  width: 1280,
  height: 720,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 48,
  seed: 20260405,
  grainLevel8: 1.6,
  grainCoarsePx: 0.5,
} as const

/** Half its axes in px: across, down, and towards the camera. */
export const HEAD = { x: 640, y: 360, across: 212, down: 276, towards: 228 } as const

/** The frame on which the lamp begins to flare, and from which on it burns evenly again. */
export const FLARE = { from: 1023, until: 1031 } as const

/** What is wrong with the skin: spots on the chart, darker or lighter, by their gains of linear red, green and blue. */
export const BLEMISHES = [
  { u: -0.3, v: 0.14, radiusPx: 7, gains: [0.66, 0.5, 0.48] },
  { u: 0.27, v: 0.23, radiusPx: 6, gains: [0.6, 0.52, 0.5] },
  { u: 0.36, v: 0.06, radiusPx: 8, gains: [0.85, 0.52, 0.5] },
  { u: -0.21, v: 0.36, radiusPx: 5, gains: [0.55, 0.46, 0.44] },
  { u: 0.15, v: -0.33, radiusPx: 7, gains: [0.84, 0.55, 0.54] },
  { u: -0.2, v: -0.34, radiusPx: 6, gains: [1.32, 1.36, 1.4] },
  { u: 0.13, v: 0.48, radiusPx: 6, gains: [0.62, 0.5, 0.5] },
  { u: -0.42, v: -0.02, radiusPx: 5, gains: [1.3, 1.34, 1.36] },
  // On the side of the head: out of sight while it is turned away.
  { u: 0.84, v: 0.1, radiusPx: 9, gains: [0.58, 0.48, 0.47] },
] as const

export interface Moment {
  readonly frame: number
  readonly head: { readonly x: number; readonly y: number; readonly turnRad: number }
  /** Gains of the lamp's linear red, green and blue. */
  readonly lamp: readonly [number, number, number]
  readonly blemishes: readonly {
    readonly x: number
    readonly y: number
    readonly radiusPx: number
    /** The cosine of how far its surface is turned away; below 0 it is out of sight. */
    readonly facing: number
  }[]
}

const TURN_RAD = (16 * Math.PI) / 180
const LAMP = [1, 0.86, 0.68] as const
const LAMP_AFTER = [1.36, 1.02, 0.66] as const

export function momentAt(frame: number): Moment {
  const at = frame - LM_050.firstFrame
  const t = at / (LM_050.frameCount - 1)
  const head = {
    x: HEAD.x + 7 * sin(2 * Math.PI * t + 0.6),
    y: HEAD.y + 3 * sin(3.2 * t) + 1.2 * sin(0.5 * at),
    turnRad: -TURN_RAD * cos(2 * Math.PI * t),
  }
  const burnt = Math.min(1, Math.max(0, (frame - FLARE.from) / (FLARE.until - FLARE.from)))
  const flare = 0.5 * exp(-(((burnt - 0.4) / 0.22) ** 2)) * Number(burnt > 0 && burnt < 1)
  const after = burnt * burnt * (3 - 2 * burnt)
  const lamp = LAMP.map((gain, c) => gain + after * (LAMP_AFTER[c]! - gain) + flare * LAMP_AFTER[c]!)
  const blemishes = BLEMISHES.map(({ u, v, radiusPx }) => ({ ...placeOnHead(head, u, v), radiusPx }))
  return { frame, head, lamp: lamp as [number, number, number], blemishes }
}

/** Where a place of the chart is seen, and the cosine of how far its surface is turned away. */
export function placeOnHead(
  { x, y, turnRad }: Moment['head'],
  u: number,
  v: number,
): { x: number; y: number; facing: number } {
  const round = 1 + u * u + v * v
  const [px, py, pz] = [(2 * u) / round, (2 * v) / round, (2 - round) / round]
  const [c, s] = [cos(turnRad), sin(turnRad)]
  const normal = [px / HEAD.across, py / HEAD.down, pz / HEAD.towards] as const
  const long = Math.sqrt(normal[0] ** 2 + normal[1] ** 2 + normal[2] ** 2)
  return {
    x: x + HEAD.across * px * c + HEAD.towards * pz * s,
    y: y + HEAD.down * py,
    facing: (normal[2] * c - normal[0] * s) / long,
  }
}
