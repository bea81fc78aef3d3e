/**
 * Skin split: its form, that is light and shade as the head gives them; blotches, wider than a pore and no form; what is left are pores with all that is finer.
 * What is not skin has no say in any of them, so that neither hair nor lips are spread over it.
 */
import { brightnessOf } from '../colour/ycc'
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { guidedMean } from '../image/guided'
import { createRaster, type Raster } from '../image/raster'

export interface BandWidths {
  /** Blotches are at most about so wide, px. */
  readonly radiusPx: number
  /** Pores are at most about so wide, px. */
  readonly poresPx: number
  /** Steps of brightness from about this on are form. */
  readonly formStep: number
}

/** What is wider than pores is `form + blotches`; what the picture has beyond them are pores. Colours only, channels interleaved. */
export interface SkinBands {
  readonly form: Float32Array
  readonly blotches: Float32Array
}

export const COLOURS = 3
/** A pore as wide as so many deviations of a blur is taken out by it. */
const PORE_DEVIATIONS = 2.5
/** Less of a window is not told by it. */
const MIN_SKIN = 1e-3

/** @param matte  For each pixel, how far it is skin, 0 to 1. */
export function splitSkin(
  { width, height, channels, data }: Raster,
  matte: Float32Array,
  { radiusPx, poresPx, formStep }: BandWidths,
): SkinBands {
  const size = width * height
  const weighted = createRaster(width, height, COLOURS + 1)
  for (let at = 0; at < size; at++) {
    for (let c = 0; c < COLOURS; c++)
      weighted.data[at * (COLOURS + 1) + c] = matte[at]! * data[at * channels + c]!
    weighted.data[at * (COLOURS + 1) + COLOURS] = matte[at]!
  }
  const taps = gaussianTaps(Math.max(0.4, poresPx / PORE_DEVIATIONS))
  const smooth = convolveSeparable(weighted, taps, taps).data
  const middle = new Float32Array(size * COLOURS)
  const guide = new Float32Array(size)
  for (let at = 0; at < size; at++) {
    const share = smooth[at * (COLOURS + 1) + COLOURS]!
    for (let c = 0; c < COLOURS; c++)
      middle[at * COLOURS + c] =
        share > MIN_SKIN ? smooth[at * (COLOURS + 1) + c]! / share : data[at * channels + c]!
    guide[at] = brightnessOf(middle[at * COLOURS]!, middle[at * COLOURS + 1]!, middle[at * COLOURS + 2]!)
  }
  const [form, blotches] = [new Float32Array(size * COLOURS), middle]
  const channel = new Float32Array(size)
  const input = { guide, width, height, radiusPx: Math.max(1, Math.round(radiusPx)), edgeDeviation: formStep }
  for (let c = 0; c < COLOURS; c++) {
    for (let at = 0; at < size; at++) channel[at] = middle[at * COLOURS + c]!
    const flat = guidedMean(input, channel, matte, MIN_SKIN)
    for (let at = 0; at < size; at++) {
      const mean = flat[at]!
      form[at * COLOURS + c] = mean < Infinity ? mean : channel[at]!
      blotches[at * COLOURS + c]! -= form[at * COLOURS + c]!
    }
  }
  return { form, blotches }
}
