/** Generated footage with exact truth, for tests and bench: a textured wall that moves, and what befalls it. */
import { grainAt } from '../core/finish/grain'
import { apply, compose, invert, translationBy, type Matrix3 } from '../core/geometry/transform'
import type { PictureSource } from '../core/motion/runTrack'
import { createSamples, sampleFromFloat, type Samples } from '../core/image/samples'
import type { Rect } from '../core/image/rect'
import { cos, sin } from '../core/kernels/exact'

export interface SceneFrame {
  /** Where the wall's own coordinates lie in the frame. */
  readonly frameFromWall: Matrix3
  readonly gain?: number
  readonly blurPx?: number
  readonly grain?: number
  /** Something else in front: covers where it gives a value. */
  readonly cover?: (x: number, y: number) => number | null
  readonly seed?: number
}

// A table, since the cosine is asked for once for every wave and pixel, and test runners make it slow.
const STEPS = 4096
const TURN = 2 * Math.PI
const FAR_TURNS = 1e4 * TURN // keeps angles above 0
const STEPS_PER_RADIAN = STEPS / TURN
const TABLE = Float64Array.from({ length: STEPS + 2 }, (_, i) => Math.cos((2 * Math.PI * i) / STEPS))
function cosine(angle: number): number {
  const at = (angle + FAR_TURNS) * STEPS_PER_RADIAN
  const whole = at | 0
  const i = whole & (STEPS - 1)
  return TABLE[i]! + (at - whole) * (TABLE[i + 1]! - TABLE[i]!)
}

const WAVES = Array.from({ length: 28 }, (_, i) => {
  const pick = (k: number) => 0.5 + grainAt(4711, k, i, 0, 0) / 7
  const length = 7 * Math.pow(10, pick(1)) // 7 to 70 px
  const turn = 2 * Math.PI * pick(2)
  return {
    x: (2 * Math.PI * cos(turn)) / length,
    y: (2 * Math.PI * sin(turn)) / length,
    phase: 40 * pick(3),
    size: 0.03 + 0.04 * pick(4),
    length,
  }
})

/** The wall's own brightness: known everywhere, so a moved wall is exact. Blur is exact too. */
function wallAt(x: number, y: number, sizes: readonly number[]): number {
  let sum = 0.42
  for (let i = 0; i < WAVES.length; i++) {
    const wave = WAVES[i]!
    if (sizes[i]! > 0) sum += sizes[i]! * cosine(wave.x * x + wave.y * y + wave.phase)
  }
  return sum
}

/** What a Gaussian blur leaves of each wave. */
const sizesOf = (blurPx: number): number[] =>
  WAVES.map(({ size, length }) => size * Math.exp(-0.5 * ((TURN * blurPx) / length) ** 2))

/** One rectangle of a frame; the same pixels whatever the rectangle. */
export function renderScene(
  rect: Rect,
  { frameFromWall, gain = 1, blurPx = 0, grain = 0.006, cover, seed = 1 }: SceneFrame,
): Samples {
  const samples = createSamples(rect.width, rect.height, 3, 8)
  const wallFromFrame = invert(frameFromWall)!
  const sizes = sizesOf(blurPx)
  for (let row = rect.row, at = 0; row < rect.row + rect.height; row++) {
    for (let col = rect.col; col < rect.col + rect.width; col++) {
      const covered = cover?.(col + 0.5, row + 0.5) ?? null
      const wall = apply(wallFromFrame, col + 0.5, row + 0.5)
      const value = covered ?? gain * wallAt(wall.x, wall.y, sizes)
      for (let channel = 0; channel < 3; channel++, at++)
        samples.data[at] = sampleFromFloat(value + grain * grainAt(99, seed, col, row, channel), 255)
    }
  }
  return samples
}

export interface WallMotion {
  /** Where the wall is on the frame of index i. */
  readonly motion: (i: number) => Matrix3
  readonly gain?: (i: number) => number
  readonly blurPx?: (i: number) => number
  readonly cover?: (i: number) => SceneFrame['cover']
}

/** The wall as a source of frames from 1 on; only what is read is drawn. */
export function movingWall(
  { motion, gain, blurPx, cover }: WallMotion,
  size = { width: 240, height: 180 },
): PictureSource {
  return {
    plate: size,
    readRect: async (frame, rect) => {
      const i = frame - 1
      return renderScene(rect, {
        frameFromWall: motion(i),
        gain: gain?.(i),
        blurPx: blurPx?.(i),
        cover: cover?.(i),
        seed: frame,
      })
    },
  }
}

export const turnedAbout = (x: number, y: number, m: Matrix3): Matrix3 =>
  compose(translationBy(x, y), compose(m, translationBy(-x, -y)))
