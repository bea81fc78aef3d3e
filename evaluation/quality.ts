/** How good a filled area is beside the truth: numbers that agree with eyes better than a mean squared error does. */
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import { createRaster, type Raster } from '../core/image/raster'
import type { Rect } from '../core/image/rect'
import { cropSamples, type Samples } from '../core/image/samples'
import { psnrOf } from '../core/measure/difference'

/** An area inside a rectangle: 1 for each pixel that counts, and for those around it. */
export interface Region {
  readonly rect: Rect
  readonly inside: Uint8Array
  readonly around: Uint8Array
}

/** @param coverage  Of the whole picture, 0 to 1. @param ringPx  How wide the surroundings are. */
export function regionOf(
  coverage: Float32Array,
  width: number,
  height: number,
  ringPx = 14,
  gapPx = 3,
): Region {
  let [left, top, right, bottom] = [width, height, -1, -1]
  for (let i = 0; i < coverage.length; i++) {
    if (coverage[i]! === 0) continue
    left = Math.min(left, i % width)
    right = Math.max(right, i % width)
    top = Math.min(top, Math.floor(i / width))
    bottom = Math.max(bottom, Math.floor(i / width))
  }
  const margin = ringPx + gapPx + 2
  const col = Math.max(0, left - margin)
  const row = Math.max(0, top - margin)
  const rect = {
    col,
    row,
    width: Math.min(width, right + margin + 1) - col,
    height: Math.min(height, bottom + margin + 1) - row,
  }
  const inside = new Uint8Array(rect.width * rect.height)
  for (let i = 0; i < inside.length; i++) {
    if (coverage[(row + Math.floor(i / rect.width)) * width + col + (i % rect.width)]! >= 0.5) inside[i] = 1
  }
  const near = grown(inside, rect.width, rect.height, gapPx + ringPx)
  const tooNear = grown(inside, rect.width, rect.height, gapPx)
  return { rect, inside, around: near.map((one, i) => (one === 1 && tooNear[i] === 0 ? 1 : 0)) }
}

function grown(mask: Uint8Array, width: number, height: number, byPx: number): Uint8Array {
  const out = mask.slice()
  for (let at = 0; at < mask.length; at++) {
    if (mask[at] === 0) continue
    const [col, row] = [at % width, Math.floor(at / width)]
    for (let y = Math.max(0, row - byPx); y <= Math.min(height - 1, row + byPx); y++) {
      out.fill(1, y * width + Math.max(0, col - byPx), y * width + Math.min(width, col + byPx + 1))
    }
  }
  return out
}

/** Brightness of a rectangle, in 8-bit code values. */
export function greyOf(samples: Samples, rect: Rect): Raster {
  const { channels, data } = cropSamples(samples, rect)
  const grey = createRaster(rect.width, rect.height, 1)
  for (let i = 0; i < grey.data.length; i++)
    grey.data[i] =
      0.2126 * data[i * channels]! + 0.7152 * data[i * channels + 1]! + 0.0722 * data[i * channels + 2]!
  return grey
}

export const minus = (a: Raster, b: Raster): Raster => ({
  ...a,
  data: a.data.map((value, i) => value - b.data[i]!),
})

const meanOver = (mask: Uint8Array, value: (i: number) => number): number => {
  let [sum, count] = [0, 0]
  for (let i = 0; i < mask.length; i++) {
    if (mask[i] === 0) continue
    sum += value(i)
    count++
  }
  return count > 0 ? sum / count : NaN
}

export function meanSquare(a: Raster, b: Raster, mask: Uint8Array): number {
  return meanOver(mask, (i) => (a.data[i]! - b.data[i]!) ** 2)
}

/** Peak signal to noise of the slopes of brightness, dB. */
export function slopePsnr(a: Raster, b: Raster, mask: Uint8Array): number {
  const difference = minus(a, b)
  const { width, height, data } = difference
  return psnrOf(
    meanOver(mask, (i) => {
      const right = i % width < width - 1 ? data[i + 1]! - data[i]! : 0
      const down = i < width * (height - 1) ? data[i + width]! - data[i]! : 0
      return (right * right + down * down) / 2
    }),
    255,
  )
}

const TAPS = gaussianTaps(1.5)
const blurred = (raster: Raster): Raster => convolveSeparable(raster, TAPS, TAPS)
const times = (a: Raster, b: Raster): Raster => ({ ...a, data: a.data.map((value, i) => value * b.data[i]!) })

/**
 * Structural similarity, mean over the area. Source: Z. Wang et al., "Image quality assessment: from error visibility to
 * structural similarity", IEEE Trans. Image Processing 13(4), 2004: Gaussian window, sigma 1.5, K1 0.01, K2 0.03.
 */
export function ssimOver(a: Raster, b: Raster, mask: Uint8Array): number {
  const [c1, c2] = [(0.01 * 255) ** 2, (0.03 * 255) ** 2]
  const [ma, mb] = [blurred(a).data, blurred(b).data]
  const [aa, bb, ab] = [blurred(times(a, a)).data, blurred(times(b, b)).data, blurred(times(a, b)).data]
  return meanOver(mask, (i) => {
    const [x, y] = [ma[i]!, mb[i]!]
    const [va, vb, cov] = [aa[i]! - x * x, bb[i]! - y * y, ab[i]! - x * y]
    return ((2 * x * y + c1) * (2 * cov + c2)) / ((x * x + y * y + c1) * (va + vb + c2))
  })
}

/** Energy of what is finer than about 3 px. */
export function fineEnergy(a: Raster, mask: Uint8Array): number {
  const high = minus(a, blurred(a))
  return meanOver(mask, (i) => high.data[i]! ** 2)
}

/** Root mean square of a raster over a mask, its mean taken off. */
export function spreadOver({ data }: Raster, mask: Uint8Array): number {
  const mean = meanOver(mask, (i) => data[i]!)
  return Math.sqrt(meanOver(mask, (i) => (data[i]! - mean) ** 2))
}

/** Correlation of horizontal neighbours over a mask. */
export function neighbourCorrelation({ width, data }: Raster, mask: Uint8Array): number {
  const mean = meanOver(mask, (i) => data[i]!)
  const energy = meanOver(mask, (i) => (data[i]! - mean) ** 2)
  const pair = meanOver(
    mask.map((one, i) => (one === 1 && i % width < width - 1 && mask[i + 1] === 1 ? 1 : 0)),
    (i) => (data[i]! - mean) * (data[i + 1]! - mean),
  )
  return pair / energy
}

/** Spread of the change from one frame to the next where grain averages out: what the eye takes for flicker. */
export function changeOver(before: Raster, after: Raster, mask: Uint8Array): number {
  const soft = blurred(minus(after, before))
  return Math.sqrt(meanOver(mask, (i) => soft.data[i]! ** 2))
}
