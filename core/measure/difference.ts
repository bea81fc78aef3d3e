/** How far two pictures are apart. Values are in the pictures' own scale; the peak is stated. */
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createRaster, extractChannel, type Matte, type Raster } from '../image/raster'

/**
 * Mean squared difference over all channels.
 * @param matte  Weights of the pixels; all equal where it is left out.
 * @returns NaN when no pixel counts. @throws RangeError when the sizes differ.
 */
export function measureMeanSquare(a: Raster, b: Raster, matte?: Matte): number {
  requireSameShape(a, b)
  let sum = 0
  let weights = 0
  for (let pixel = 0, i = 0; i < a.data.length; pixel++) {
    const weight = matte ? matte.data[pixel]! : 1
    for (let channel = 0; channel < a.channels; channel++, i++) {
      const difference = a.data[i]! - b.data[i]!
      sum += weight * difference * difference
    }
    weights += weight * a.channels
  }
  return sum / weights
}

/** Peak signal to noise ratio in dB, 10 log10(peak² / mean square); infinite for equal pictures. */
export function measurePsnr(a: Raster, b: Raster, matte?: Matte, peak = 1): number {
  return psnrOf(measureMeanSquare(a, b, matte), peak)
}

// Numbers for people, not pixels: the last bit of the logarithm may differ between engines.
// eslint-disable-next-line no-restricted-properties
export const psnrOf = (meanSquare: number, peak = 1): number => 10 * Math.log10((peak * peak) / meanSquare)

/**
 * Structural similarity of two one-channel pictures, −1 to 1, averaged over every whole window.
 *
 * Window: 11 × 11 Gaussian of 1.5 px; k1 = 0.01, k2 = 0.03.
 * Source: Wang, Bovik, Sheikh, Simoncelli, "Image quality assessment: from error visibility to
 * structural similarity", IEEE Trans. Image Processing 13(4), 2004. Checked against ssim.js.
 */
export function measureSsim(a: Raster, b: Raster, peak = 1): number {
  requireSameShape(a, b)
  if (a.channels !== 1) {
    let sum = 0
    for (let channel = 0; channel < a.channels; channel++) {
      sum += measureSsim(
        { channels: 1, ...extractChannel(a, channel) },
        { channels: 1, ...extractChannel(b, channel) },
        peak,
      )
    }
    return sum / a.channels
  }
  const radius = 5
  if (a.width <= 2 * radius || a.height <= 2 * radius)
    throw new RangeError('structural similarity needs pictures of at least 11 × 11 px')
  const taps = gaussianTaps(1.5)
  const blur = (raster: Raster) => convolveSeparable(raster, taps, taps)
  const meanA = blur(a).data
  const meanB = blur(b).data
  const squareA = blur(product(a, a)).data
  const squareB = blur(product(b, b)).data
  const both = blur(product(a, b)).data
  const c1 = 0.0001 * peak * peak
  const c2 = 0.0009 * peak * peak
  let sum = 0
  let count = 0
  for (let row = radius; row < a.height - radius; row++) {
    for (let col = radius; col < a.width - radius; col++) {
      const i = row * a.width + col
      const mA = meanA[i]!
      const mB = meanB[i]!
      const vA = squareA[i]! - mA * mA
      const vB = squareB[i]! - mB * mB
      const cov = both[i]! - mA * mB
      sum += ((2 * mA * mB + c1) * (2 * cov + c2)) / ((mA * mA + mB * mB + c1) * (vA + vB + c2))
      count++
    }
  }
  return sum / count
}

function product(a: Raster, b: Raster): Raster {
  const out = createRaster(a.width, a.height, 1)
  for (let i = 0; i < out.data.length; i++) out.data[i] = a.data[i]! * b.data[i]!
  return out
}

function requireSameShape(a: Raster, b: Raster): void {
  if (a.width !== b.width || a.height !== b.height || a.channels !== b.channels) {
    throw new RangeError(
      `both pictures must have one shape. Received ${a.width} × ${a.height} × ${a.channels} and ${b.width} × ${b.height} × ${b.channels}`,
    )
  }
}
