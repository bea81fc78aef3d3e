/**
 * Film grain, made anew.
 *
 * Grain is a function of (seed, frame, col, row, channel) and its coarseness, and nothing else, so crops, tiles and
 * threads agree, and every frame has its own.
 */
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createRaster } from '../image/raster'
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

/**
 * Grain of deviation 1 at some pixels of a rectangle.
 *
 * @param pixels    Indices inside the rectangle. @param coarsePx  Deviation of the blur that makes it coarse, px.
 * @returns Channels interleaved, one group for each pixel.
 * Cost: a hash for each sample; coarse grain also for those around, and a convolution of the rectangle.
 */
export function grainOver(
  seed: number,
  frame: number,
  rect: Rect,
  pixels: Int32Array,
  channels: number,
  coarsePx: number,
): Float32Array {
  const taps = coarsePx < FINEST_PX ? null : coarseTaps(coarsePx)
  const reach = taps ? (taps.length - 1) / 2 : 0
  const [width, height] = [rect.width + 2 * reach, rect.height + 2 * reach]
  const isMade = new Uint8Array(width * height)
  // Where most of the rectangle is wanted, all of it is made.
  if (pixels.length > 0.4 * rect.width * rect.height) isMade.fill(1)
  else
    for (const pixel of pixels) {
      const first = ((pixel / rect.width) | 0) * width + (pixel % rect.width)
      for (let dy = 0; dy <= 2 * reach; dy++)
        isMade.fill(1, first + dy * width, first + dy * width + 2 * reach + 1)
    }
  const white = createRaster(width, height, channels)
  withKernelMemory(white.data.byteLength + isMade.length + 4096, (scope) => {
    const made = scope.take(white.data.length).fill(0)
    kernels().grainWhite(
      seed,
      frame,
      rect.col - reach,
      rect.row - reach,
      width,
      height,
      channels,
      scope.pointerTo(isMade),
      made.byteOffset,
    )
    white.data.set(made)
  })
  const grain = taps ? convolveSeparable(white, taps, taps).data : white.data
  const out = new Float32Array(pixels.length * channels)
  for (let i = 0; i < pixels.length; i++) {
    const at = (((pixels[i]! / rect.width) | 0) + reach) * width + (pixels[i]! % rect.width) + reach
    for (let c = 0; c < channels; c++) out[i * channels + c] = grain[at * channels + c]!
  }
  return out
}
