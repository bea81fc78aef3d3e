/** A simulated camera body: the one that LM_040 was shot with. Asked to, it shoots with its lens covered, bad pixels and all. */
import { createPlane } from '../core/image/raster'
import { grainAt } from '../core/finish/grain'
import { addFaults } from './lm040/faults'
import { LM_040 } from './lm040/scene'

export const CAMERA = {
  name: 'Lamplighter A',
  /** The day of its lens-cap clip, and what else it has shot. */
  madeOn: '2026-11-03',
  shot: 'LM_040',
  width: LM_040.width,
  height: LM_040.height,
  pixels: LM_040.pixels,
  seed: 20261103,
  /** What a covered sensor still says, in 8-bit code values: its offset, what one side glows more, and its noise. */
  darkLevel8: 2.2,
  glow8: 0.9,
  noise8: 1.1,
} as const

/** One frame with the lens covered: 8-bit RGB. */
export function shootCovered(frame: number): Uint8Array {
  const { width, height, seed, darkLevel8, glow8, noise8 } = CAMERA
  const picture = new Uint8Array(width * height * 3)
  for (let row = 0, i = 0; row < height; row++) {
    for (let col = 0; col < width; col++) {
      const dark = darkLevel8 + (glow8 * col) / width + 0.5
      for (let c = 0; c < 3; c++, i++) {
        const value = dark + noise8 * grainAt(seed, frame, col, row, c)
        picture[i] = value < 0 ? 0 : value
      }
    }
  }
  addFaults(picture, createPlane(width, height), CAMERA.pixels)
  return picture
}
