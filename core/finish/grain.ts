/**
 * Film grain, made anew.
 *
 * Grain is a function of (seed, frame, col, row, channel) and its coarseness, and nothing else, so crops, tiles and
 * threads agree, and every frame has its own.
 */
import { gaussianTaps } from '../image/convolve'
import type { Rect } from '../image/rect'
import { kernels } from '../kernels/module'
import { withKernelMemory } from '../kernels/memory'

const { imul } = Math // looked up once: it runs several times for every sample
const SQRT_3 = Math.sqrt(3)

/**
 * One value of grain with mean 0 and deviation 1: the sum of four uniform numbers, which is within
 * 0.01 of the normal distribution and never beyond ±3.5.
 */
export function grainAt(seed: number, frame: number, col: number, row: number, channel: number): number {
  const place = mix(
    mix(mix(seed ^ imul(frame, 0x9e3779b1)) + imul(row, 0x85ebca6b)) + imul(col, 0xc2b2ae35) + channel,
  )
  const more = mix(place ^ 0x68bc21eb)
  const sum = (place & 0xffff) + (place >>> 16) + (more & 0xffff) + (more >>> 16)
  return (sum / 65535 - 2) * SQRT_3
}

/** A 32-bit mixing function: multiply and shift until every input bit reaches every output bit. */
function mix(value: number): number {
  let h = value | 0
  h = imul(h ^ (h >>> 16), 0x7feb352d)
  h = imul(h ^ (h >>> 15), 0x846ca68b)
  return h ^ (h >>> 16)
}

/** A seed from a name, so that two mends never share their grain. FNV-1a, 32 bits. */
export function seedFromText(text: string): number {
  let h = 0x811c9dc5
  for (let i = 0; i < text.length; i++) h = imul(h ^ text.charCodeAt(i), 0x01000193)
  return h | 0
}

/** Below this grain is as good as white, px. */
export const FINEST_PX = 0.25

/** Weights that make white grain coarse and keep its deviation: a Gaussian whose squares sum to 1. */
export function coarseTaps(coarsePx: number): Float32Array {
  const taps = gaussianTaps(coarsePx)
  const length = Math.sqrt(taps.reduce((sum, tap) => sum + tap * tap, 0))
  return taps.map((tap) => tap / length)
}

/** Coarse grain is made for so many rows at once, as wide as what is wanted in them. */
const ROWS_AT_ONCE = 8

/**
 * Grain of deviation 1 at some pixels of a rectangle.
 *
 * @param pixels    Indices inside the rectangle, in reading order. @param coarsePx  Deviation of the blur that makes it coarse, px.
 * @returns Channels interleaved, one group for each pixel.
 * Cost: a hash for each sample; coarse grain also for those around, and a convolution.
 */
export function grainOver(
  seed: number,
  frame: number,
  rect: Rect,
  pixels: Int32Array,
  channels: number,
  coarsePx: number,
): Float32Array {
  if (coarsePx >= FINEST_PX) return coarseGrain(seed, frame, rect, pixels, channels, coarseTaps(coarsePx))
  return withKernelMemory(pixels.length * 4 * (1 + channels) + 4096, (scope) => {
    const made = scope.floats(pixels.length * channels)
    const at = scope.pointerTo(pixels)
    // prettier-ignore
    kernels().grainAtPixels(
      seed, frame, rect.col, rect.row, rect.width, at, pixels.length, channels, made.byteOffset,
    )
    return made.slice()
  })
}

function coarseGrain(
  seed: number,
  frame: number,
  rect: Rect,
  pixels: Int32Array,
  channels: number,
  taps: Float32Array,
): Float32Array {
  const reach = (taps.length - 1) / 2
  const size = (rect.width + 2 * reach) * (ROWS_AT_ONCE + 2 * reach) * channels
  const out = new Float32Array(pixels.length * channels)
  withKernelMemory(12 * size + taps.byteLength + 4096, (scope) => {
    const [white, between, grain] = [scope.floats(size), scope.floats(size), scope.floats(size)]
    const weights = scope.pointerTo(taps)
    const { grainWhite, convolveRows, convolveColumns } = kernels()
    for (let begin = 0; begin < pixels.length;) {
      const band = bandFrom(pixels, begin, rect.width)
      const [left, top] = [band.left - reach, band.top - reach]
      const [width, height] = [band.right - band.left + 1 + 2 * reach, ROWS_AT_ONCE + 2 * reach]
      grainWhite(seed, frame, rect.col + left, rect.row + top, width, height, channels, white.byteOffset)
      convolveRows(white.byteOffset, between.byteOffset, width, height, channels, weights, reach)
      convolveColumns(between.byteOffset, grain.byteOffset, width, height, channels, weights, reach)
      for (let entry = begin; entry < band.end; entry++) {
        const row = (pixels[entry]! / rect.width) | 0
        const from = ((row - top) * width + pixels[entry]! - row * rect.width - left) * channels
        for (let c = 0; c < channels; c++) out[entry * channels + c] = grain[from + c]!
      }
      begin = band.end
    }
  })
  return out
}

/** The next few rows that hold wanted pixels, and between which columns these lie. */
function bandFrom(pixels: Int32Array, begin: number, width: number) {
  const top = (pixels[begin]! / width) | 0
  let [left, right, end] = [width, 0, begin]
  for (; end < pixels.length; end++) {
    const row = (pixels[end]! / width) | 0
    if (row >= top + ROWS_AT_ONCE) break
    const col = pixels[end]! - row * width
    if (col < left) left = col
    if (col > right) right = col
  }
  return { top, left, right, end }
}
