/**
 * LM_040, "The town at night": the camera pans over roofs and sky. It turns on the spot, so near and far go by alike; dust on its sensor
 * and bad pixels stay where they are. Positions are px of the frame.
 */
import { sin } from '../../core/kernels/exact'

/** Dust close to the sensor, out of focus: it takes light away and adds none. */
export interface Mote {
  readonly x: number
  readonly y: number
  /** Half the axes, to where nothing is left of it; the first one turned against the horizontal. */
  readonly radiusXPx: number
  readonly radiusYPx: number
  readonly turnRad: number
  /** Share of the light that its middle takes. */
  readonly depth: number
}

export type PixelFault = 'dead' | 'hot' | 'stuck-red' | 'stuck-green' | 'stuck-blue' | 'cluster'

export interface FaultyPixel {
  readonly fault: PixelFault
  /** The pixel itself, counted from 0; of a cluster the middle one of its 3 × 3. */
  readonly col: number
  readonly row: number
}

const MOTES: readonly Mote[] = [
  { x: 212.4, y: 146.8, radiusXPx: 25, radiusYPx: 23, turnRad: 0.3, depth: 0.42 },
  { x: 468.7, y: 262.3, radiusXPx: 19, radiusYPx: 16, turnRad: 1.1, depth: 0.36 },
  { x: 702.2, y: 118.6, radiusXPx: 16, radiusYPx: 15, turnRad: 0, depth: 0.33 },
  { x: 884.9, y: 402.5, radiusXPx: 26, radiusYPx: 22, turnRad: -0.5, depth: 0.4 },
  { x: 1108.3, y: 214.1, radiusXPx: 22, radiusYPx: 18, turnRad: 0.8, depth: 0.38 },
  { x: 366.6, y: 498.4, radiusXPx: 24, radiusYPx: 20, turnRad: 0.2, depth: 0.44 },
]

const PIXELS: readonly FaultyPixel[] = [
  { fault: 'dead', col: 610, row: 88 },
  { fault: 'dead', col: 1003, row: 171 },
  { fault: 'dead', col: 148, row: 305 },
  { fault: 'hot', col: 902, row: 128 },
  { fault: 'hot', col: 77, row: 412 },
  { fault: 'hot', col: 553, row: 590 },
  { fault: 'hot', col: 1190, row: 655 },
  { fault: 'stuck-red', col: 318, row: 214 },
  { fault: 'stuck-green', col: 1104, row: 330 },
  { fault: 'stuck-blue', col: 731, row: 548 },
  { fault: 'cluster', col: 240, row: 560 },
]

export const LM_040 = {
  name: 'LM_040',
  title: 'The town at night',
  width: 1280,
  height: 720,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 48,
  seed: 20260404,
  /** Deviation of the film grain in 8-bit code values. */
  grainLevel8: 1.7,
  motes: MOTES,
  pixels: PIXELS,
} as const

/** How far the pan goes in all. */
export const PAN_PX = 400
const SHUTTER = 0.5 // of the frame's time: 180°, common practice
export const SMEAR_PX = (SHUTTER * PAN_PX) / (LM_040.frameCount - 1)

export interface Moment {
  readonly frame: number
  /** What of the painting lies at the frame's corner. */
  readonly camera: { readonly x: number; readonly y: number }
}

export function momentAt(frame: number): Moment {
  const t = (frame - LM_040.firstFrame) / (LM_040.frameCount - 1)
  // A hand's shake on top of an even pan.
  return {
    frame,
    camera: { x: PAN_PX * t + 1.6 * sin(29 * t + 0.5), y: 2.4 * sin(17 * t) + 1.1 * sin(41 * t + 1.3) },
  }
}

/** Share of the light that a mote lets through, 1 from its rim on. */
export function throughMote(
  { x, y, radiusXPx, radiusYPx, turnRad, depth }: Mote,
  atX: number,
  atY: number,
): number {
  const [c, s] = [sin(turnRad + Math.PI / 2), sin(turnRad)]
  const along = ((atX - x) * c + (atY - y) * s) / radiusXPx
  const across = ((atY - y) * c - (atX - x) * s) / radiusYPx
  const inside = 1 - along * along - across * across
  return inside <= 0 ? 1 : 1 - depth * inside * inside
}
