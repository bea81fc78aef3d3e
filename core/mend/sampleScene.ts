/** Made-up scenes whose every frame is known exactly; for tests and bench. */
import { cos, sin } from '../kernels/exact'
import type { Raster } from '../image/raster'
import { createRaster } from '../image/raster'
import { cropSamples, createSamples, type Samples } from '../image/samples'
import type { FrameSource } from './frameSource'

const WAVES = 5

/** Pitch along x and y, phase and share of each wave. */
const waves = new Map<number, Float64Array>()

function wavesOf(seed: number): Float64Array {
  let known = waves.get(seed)
  if (!known) {
    known = new Float64Array(4 * WAVES)
    for (let k = 0; k < WAVES; k++) {
      const turn = 0.7 + k * 1.9 + seed
      const pitch = 0.13 + 0.09 * k
      known.set([pitch * cos(turn), pitch * sin(turn), 1.3 * k + 2 * seed, 0.09 / (1 + 0.3 * k)], 4 * k)
    }
    waves.set(seed, known)
  }
  return known
}

/** A smooth, busy texture anywhere in the plane, 0 to 1: sums of waves that no shift repeats. */
export function wavesAt(x: number, y: number, channel: number, seed: number): number {
  const known = wavesOf(seed)
  let sum = 0.5
  for (let k = 0; k < 4 * WAVES; k += 4)
    sum += known[k + 3]! * sin(known[k]! * x + known[k + 1]! * y + known[k + 2]! + channel)
  return sum
}

export interface SceneFrame {
  /** The background at a place, 0 to 1. */
  background(x: number, y: number, channel: number): number
  /** Whether the thing hides a place. */
  isHidden(x: number, y: number): boolean
}

/** Frames of 8 bits with grain. */
export function sceneSource(
  size: { readonly width: number; readonly height: number },
  frameOf: (frame: number) => SceneFrame,
  grain: (frame: number, index: number) => number = () => 0,
): FrameSource & { reads: number } {
  const kept = new Map<number, Samples>()
  const paint = (frame: number): Samples => {
    const samples = createSamples(size.width, size.height, 3, 8)
    const { background, isHidden } = frameOf(frame)
    let i = 0
    for (let y = 0.5; y < size.height; y++) {
      for (let x = 0.5; x < size.width; x++) {
        const isOut = isHidden(x, y)
        for (let c = 0; c < 3; c++, i++) {
          const value = 255 * (isOut ? 0.1 : background(x, y, c)) + grain(frame, i)
          samples.data[i] = value <= 0 ? 0 : value >= 255 ? 255 : value + 0.5
        }
      }
    }
    return samples
  }
  return {
    reads: 0,
    plate: { ...size, channels: 3, bitDepth: 8 },
    async readRect(frame, rect) {
      this.reads++
      let whole = kept.get(frame)
      if (!whole) kept.set(frame, (whole = paint(frame)))
      return cropSamples(whole, rect)
    },
    readMatte: async () => null,
    readStill: async () => null,
  }
}

/** A crop in floats. */
export async function rasterOf(
  source: FrameSource,
  frame: number,
  rect: Parameters<FrameSource['readRect']>[1],
): Promise<Raster> {
  const samples = await source.readRect(frame, rect)
  const raster = createRaster(samples.width, samples.height, samples.channels)
  for (let i = 0; i < raster.data.length; i++) raster.data[i] = samples.data[i]! / 255
  return raster
}

/** R. Keys' interpolating cubic, a = −1/2, written out plainly; null where its footprint leaves the raster. */
export function keysCubic(
  { width, height, channels, data }: Raster,
  x: number,
  y: number,
): { values: number[]; kept: number } | null {
  const [u, v] = [x - 0.5, y - 0.5]
  const [left, top] = [Math.floor(u), Math.floor(v)]
  if (left < 1 || top < 1 || left + 2 >= width || top + 2 >= height) return null
  const kernel = (t: number): number => {
    const d = Math.abs(t)
    return d < 1 ? (1.5 * d - 2.5) * d * d + 1 : d < 2 ? ((-0.5 * d + 2.5) * d - 4) * d + 2 : 0
  }
  const values = new Array<number>(channels).fill(0)
  let [keptX, keptY] = [0, 0]
  for (let k = -1; k <= 2; k++) {
    keptX += kernel(u - left - k) * kernel(u - left - k)
    keptY += kernel(v - top - k) * kernel(v - top - k)
  }
  for (let row = top - 1; row <= top + 2; row++) {
    for (let col = left - 1; col <= left + 2; col++) {
      const weight = kernel(u - col) * kernel(v - row)
      for (let c = 0; c < channels; c++) values[c]! += weight * data[(row * width + col) * channels + c]!
    }
  }
  return { values, kept: keptX * keptY }
}
