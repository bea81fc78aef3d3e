/** Made-up clips for the survey: a busy painting that a camera goes over, with grain, so that every defect laid on it is known. */
import { pow } from '../kernels/exact'
import { createSamples, type Samples } from '../image/samples'

const { abs, sqrt } = Math // looked up once: they run for every sample

export interface Painting {
  readonly width: number
  readonly height: number
  /** RGB, 0 to 1. */
  readonly data: Float32Array
}

/** Discs of all sizes over grey. @param random  Numbers from 0 to 1. */
export function paintDiscs(width: number, height: number, discs: number, random: () => number): Painting {
  const out = new Float32Array(width * height * 3).fill(0.32)
  for (let i = 0; i < discs; i++) {
    const [x, y, r, v, hue] = [
      random() * width,
      random() * height,
      2 + 14 * random(),
      random() - 0.5,
      random(),
    ]
    for (let row = Math.max(0, Math.floor(y - r)); row < Math.min(height, y + r); row++) {
      for (let col = Math.max(0, Math.floor(x - r)); col < Math.min(width, x + r); col++) {
        if ((col - x) * (col - x) + (row - y) * (row - y) > r * r) continue
        for (let c = 0; c < 3; c++) out[(row * width + col) * 3 + c]! += 0.3 * v * (0.5 + abs(hue - c / 3))
      }
    }
  }
  return { width, height, data: out.map((value) => (value < 0.06 ? 0.06 : value > 0.95 ? 0.95 : value)) }
}

/** Numbers of deviation 1: many enough that a clip can begin elsewhere in them on every frame. */
export const noiseOf = (random: () => number): Float32Array =>
  Float32Array.from({ length: 99_991 }, () => (random() + random() + random() + random() - 2) * sqrt(3))

export interface ClipFrame {
  readonly width: number
  readonly height: number
  /** Of the painting lies at the frame's corner: px across, whole px down. */
  readonly x: number
  readonly row: number
  /** Deviation of the grain in code values of 8 bits. */
  readonly grain: number
  /** Where in the noise this frame begins. */
  readonly noiseFrom: number
}

/** What code values become where a share of the light comes through: one factor for each pixel. @param through  At a pixel's centre. */
export function gainMap(
  width: number,
  height: number,
  through: (x: number, y: number) => number,
): Float32Array {
  const out = new Float32Array(width * height)
  for (let row = 0; row < height; row++) {
    for (let col = 0; col < width; col++) {
      const share = through(col + 0.5, row + 0.5)
      out[row * width + col] = share === 1 ? 1 : pow(share, 1 / ENCODING)
    }
  }
  return out
}

/** The slope of sRGB's curve about a third of its range, in logarithms. */
const ENCODING = 2.05

/**
 * A frame of a camera over a painting.
 * @param gains  See `gainMap`. @param after  Changes code values before they are rounded.
 */
export function clipFrame(
  painting: Painting,
  noise: Float32Array,
  { width, height, x, row, grain, noiseFrom }: ClipFrame,
  gains: Float32Array | null = null,
  after: (values: Float32Array) => void = () => undefined,
): Samples {
  const samples = createSamples(width, height, 3, 8)
  const values = new Float32Array(width * height * 3)
  const [whole, part] = [Math.floor(x), x - Math.floor(x)]
  for (let line = 0; line < height; line++) {
    const from = ((row + line) * painting.width + whole) * 3
    paintRow(
      values,
      line * width * 3,
      painting.data,
      from,
      width * 3,
      part,
      noise,
      noiseFrom + line * width * 3,
      grain,
    )
  }
  if (gains) for (let i = 0; i < values.length; i++) values[i]! *= gains[(i / 3) | 0]!
  after(values)
  const { data } = samples
  for (let i = 0; i < values.length; i++)
    data[i] = values[i]! < 0 ? 0 : values[i]! > 255 ? 255 : values[i]! + 0.5
  return samples
}

function paintRow(
  values: Float32Array,
  to: number,
  painting: Float32Array,
  from: number,
  count: number,
  part: number,
  noise: Float32Array,
  noiseFrom: number,
  grain: number,
): void {
  for (let i = 0, n = noiseFrom % noise.length; i < count; i++, n = n + 1 === noise.length ? 0 : n + 1) {
    values[to + i] =
      255 * (painting[from + i]! * (1 - part) + painting[from + i + 3]! * part) + grain * noise[n]!
  }
}
