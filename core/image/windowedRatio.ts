/** One factor for each place by least squares over a Gaussian window: Σ w p / Σ w q. */
import { convolveSeparable, gaussianTaps } from './convolve'
import { createRaster } from './raster'
import type { Size } from './rect'

/** How much say a prior keeps, in pixels. */
const PRIOR_PX = 0.05

/**
 * @param products, squares  Of each place the two sums, squares not below 0. @param say  How much each place counts, 0 to 1.
 * @param pixels   Index `row * width + col` of each place. @param sigmaPx  Deviation of the window, above 0.
 * @param prior    What a place without anything around it that tells gets; null: NaN there.
 */
export function windowedRatio(
  products: Float32Array,
  squares: Float32Array,
  say: Float32Array,
  pixels: Int32Array,
  { width, height }: Size,
  sigmaPx: number,
  prior: Float32Array | null,
): Float32Array<ArrayBuffer> {
  const map = createRaster(width, height, 2)
  let mean = 0
  for (let k = 0; k < pixels.length; k++) {
    map.data[pixels[k]! * 2] = say[k]! * products[k]!
    map.data[pixels[k]! * 2 + 1] = say[k]! * squares[k]!
    mean += squares[k]! / pixels.length
  }
  const taps = gaussianTaps(sigmaPx)
  const sums = convolveSeparable(map, taps, taps).data
  // The windows' weights sum to 1: one pixel in the middle has this share of them.
  const priorSay = prior ? (PRIOR_PX * mean) / (2 * Math.PI * sigmaPx * sigmaPx) : 0
  const ratios = new Float32Array(pixels.length)
  for (let k = 0; k < pixels.length; k++) {
    const at = pixels[k]! * 2
    ratios[k] = (sums[at]! + priorSay * (prior ? prior[k]! : 0)) / (sums[at + 1]! + priorSay)
  }
  return ratios
}

/** The say of a place that is off by so many of the deviations from which on it has half a say. */
export const sayOf = (off: number): number => 1 / (1 + off * off * off * off)
