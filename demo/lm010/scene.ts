/**
 * LM_010, "Moth over the roofs": how camera, moth and threads move. Pure description; positions are px
 * of the frame, frames count from 1001.
 */
import { cos, sin } from '../../core/kernels/exact'
import { MOTH } from './paint'

export const LM_010 = {
  name: 'LM_010',
  title: 'Moth over the roofs',
  width: 1280,
  height: 720,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  frameCount: 48,
  seed: 20260401,
  /** Deviation of the film grain in 8-bit code values. */
  grainLevel8: 1.7,
} as const

export interface ThreadPoint {
  readonly x: number
  readonly y: number
  readonly widthPx: number
}

/** One thread on one frame: its centreline from above the frame to the wing tip. */
export interface Thread {
  readonly name: 'left' | 'right'
  readonly points: readonly ThreadPoint[]
  /** Where it touches the wing: the exact end of the centreline. */
  readonly contact: { readonly x: number; readonly y: number }
}

export interface Moment {
  readonly frame: number
  /** How far the camera has drifted; each layer follows by its own share. */
  readonly camera: { readonly x: number; readonly y: number }
  readonly moth: { readonly x: number; readonly y: number; readonly turnRad: number; readonly scale: number }
  readonly threads: readonly Thread[]
}

const TAU = 2 * Math.PI
const THREAD_POINTS = 49

export function momentAt(frame: number): Moment {
  const t = (frame - LM_010.firstFrame) / (LM_010.frameCount - 1)
  const camera = { x: 34 * t, y: -9 * t + 1.5 * sin(TAU * 0.8 * t) }
  const swing = sin(TAU * 0.8 * t + 0.4)
  const moth = {
    x: 655 + 20 * swing - 12 * t,
    y: 500 + 5 * sin(TAU * 0.7 * t + 1.2),
    turnRad: 0.06 * sin(TAU * 0.8 * t + 0.1),
    scale: 0.92,
  }
  const left = mothPoint(moth, MOTH.leftTip)
  const right = mothPoint(moth, MOTH.rightTip)
  const sagPx = 30 + 7 * sin(TAU * 0.7 * t)
  return {
    frame,
    camera,
    moth,
    threads: [
      { name: 'left', contact: left, points: thread({ x: 566 - 6 * t, y: -40 }, left, 0, 4.4, 5.6) },
      { name: 'right', contact: right, points: thread({ x: 742 - 10 * t, y: -40 }, right, sagPx, 8.6, 6.4) },
    ],
  }
}

/** A point of the painted moth as it lies in the frame. */
export function mothPoint(
  moth: Moment['moth'],
  point: { readonly x: number; readonly y: number },
): { x: number; y: number } {
  const dx = (point.x - MOTH.centre.x) * moth.scale
  const dy = (point.y - MOTH.centre.y) * moth.scale
  return {
    x: moth.x + dx * cos(moth.turnRad) - dy * sin(moth.turnRad),
    y: moth.y + dx * sin(moth.turnRad) + dy * cos(moth.turnRad),
  }
}

function thread(
  from: { readonly x: number; readonly y: number },
  to: { readonly x: number; readonly y: number },
  sagPx: number,
  widthFrom: number,
  widthTo: number,
): ThreadPoint[] {
  return Array.from({ length: THREAD_POINTS }, (_, i) => {
    const f = i / (THREAD_POINTS - 1)
    return {
      x: from.x + f * (to.x - from.x) + 4 * sagPx * f * (1 - f),
      y: from.y + f * (to.y - from.y),
      widthPx: widthFrom + f * (widthTo - widthFrom),
    }
  })
}
