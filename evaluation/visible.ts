/** How visible an error is: a colour difference after what the eye does not resolve has been taken off, over a spot. */
import { brightnessOf, blueDifference, coloursOf, redDifference } from '../core/colour/ycc'
import { deltaE2000, labOf } from '../core/colour/lab'
import { srgb } from '../core/colour/transfer'
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import { createRaster, type Raster } from '../core/image/raster'
import { cropSamples, maximumOf, type Samples } from '../core/image/samples'
import type { Rect } from '../core/image/rect'

/**
 * Contrast sensitivity falls to half at about 11 cycles a degree for brightness and 4 for colours; at 60 px a degree, a picture of 1280 px seen
 * from a little more than twice its width, blurs of these deviations do the same. The cut-offs are from memory of K. Mullen, "The contrast
 * sensitivity of human colour vision to red-green and blue-yellow chromatic gratings", J. Physiology 359, 1985.
 */
const BRIGHTNESS_TAPS = gaussianTaps(1)
const COLOUR_TAPS = gaussianTaps(2.8)
/** A spot of 9 px: the mean over it is what is looked at. */
const SPOT_PX = 9
/** Just noticed: M. Mahy, L. Van Eycken, A. Oosterlinck, "Evaluation of uniform color spaces developed after the adoption of CIELAB and CIELUV", Color Research and Application 19(2), 1994. */
export const NOTICED = 2.3

/** The mean over the spot around each pixel of a rectangle, CIEDE2000. */
export function visibleErrors(made: Samples, truth: Samples, rect: Rect): Float32Array {
  const [a, b] = [seen(made, rect), seen(truth, rect)]
  const errors = createRaster(rect.width, rect.height, 1)
  for (let i = 0; i < errors.data.length; i++) {
    const lab = ({ data }: Raster) =>
      labOf(srgb.decode(data[3 * i]!), srgb.decode(data[3 * i + 1]!), srgb.decode(data[3 * i + 2]!))
    errors.data[i] = deltaE2000(lab(a), lab(b))
  }
  const box = Array.from({ length: SPOT_PX }, () => 1 / SPOT_PX)
  return convolveSeparable(errors, box, box).data
}

export const worstOf = (errors: Float32Array): number =>
  errors.reduce((worst, one) => Math.max(worst, one), 0)

/** The worst spot that a fault has made worse by what is just seen side by side. */
export const worstAdded = (errors: Float32Array, before: Float32Array): number =>
  errors.reduce((worst, one, i) => (one - before[i]! >= 1 ? Math.max(worst, one) : worst), 0)

function seen(samples: Samples, rect: Rect): Raster {
  const { data, channels } = cropSamples(samples, rect)
  const maximum = maximumOf(data)
  const size = rect.width * rect.height
  const planes = Array.from({ length: 3 }, () => createRaster(rect.width, rect.height, 1))
  for (let i = 0; i < size; i++) {
    const [r, g, b] = [0, 1, 2].map((c) => data[i * channels + c]! / maximum) as [number, number, number]
    const y = brightnessOf(r, g, b)
    planes[0]!.data[i] = y
    planes[1]!.data[i] = blueDifference(b, y)
    planes[2]!.data[i] = redDifference(r, y)
  }
  const [y, blue, red] = planes.map((plane, i) => {
    const taps = i === 0 ? BRIGHTNESS_TAPS : COLOUR_TAPS
    return convolveSeparable(plane, taps, taps).data
  }) as [Float32Array, Float32Array, Float32Array]
  const out = createRaster(rect.width, rect.height, 3)
  for (let i = 0; i < size; i++) out.data.set(coloursOf(y[i]!, blue[i]!, red[i]!), 3 * i)
  return out
}
