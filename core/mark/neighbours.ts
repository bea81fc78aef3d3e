/** What the places around each place of a mark tell of it. */
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import type { MarkPicture } from '../image/markPicture'
import { createRaster } from '../image/raster'

/** An opacity below this is none. */
export const MIN_OPACITY = 0.004
/** Averaged over this distance, px. */
const NEAR_SIGMA_PX = 2.5
/** How much say the colour of all places has beside those near, as so many certain and opaque ones. */
const USUAL_SAY = 0.01
/** Fewer certain places near tell no opacity. */
const MIN_NEAR = 1e-3
/** Of opacities: nothing certain is near. */
export const UNKNOWN = -1

/** What lies around each place on the average, of what changes the ground the same way. */
export interface Neighbours {
  readonly colours: Float32Array
  readonly opacities: Float32Array
}

/**
 * What darkens and what brightens are different parts of a mark, a letter and its shadow, and know nothing of each other. Where nothing
 * is near, what darkens is black, and what brightens has the colour of all that does.
 */
export function neighboursOf(
  { width, height, channels, added, opacity }: MarkPicture,
  { brightens, certainty }: { readonly brightens: Int8Array; readonly certainty: Float32Array },
  isReal: (at: number) => boolean,
): Neighbours {
  const colours = new Float32Array(opacity.length * channels)
  const opacities = new Float32Array(opacity.length)
  const taps = gaussianTaps(NEAR_SIGMA_PX)
  for (const sign of [-1, 1]) {
    // Colour by how opaque it is; opacity by how many are near.
    const planes = channels + 3
    const sums = createRaster(width, height, planes)
    const all = new Float64Array(planes)
    for (let at = 0; at < opacity.length; at++) {
      const share = opacity[at]!
      if (share < MIN_OPACITY || brightens[at] !== sign || !isReal(at)) continue
      const weight = certainty[at]! * certainty[at]!
      for (let c = 0; c < channels; c++)
        sums.data[at * planes + c] = weight * added[at * channels + c]! * share
      sums.data[at * planes + channels] = weight * share * share
      sums.data[at * planes + channels + 1] = weight * share
      sums.data[at * planes + channels + 2] = weight
      for (let p = 0; p < planes; p++) all[p]! += sums.data[at * planes + p]!
    }
    const { data } = convolveSeparable(sums, taps, taps)
    for (let at = 0; at < opacity.length; at++) {
      if (brightens[at] !== sign) continue
      const begin = at * planes
      // Of all that does the same, as far as what is certain near is little.
      const usual = all[channels]! > 0 ? USUAL_SAY / all[channels]! : 0
      const total = data[begin + channels]! + usual * all[channels]!
      for (let c = 0; c < channels; c++) {
        const sum = data[begin + c]! + usual * all[c]!
        colours[at * channels + c] = total > 0 ? Math.min(1, Math.max(0, sum / total)) : sign > 0 ? 1 : 0
      }
      const certain = data[begin + channels + 2]!
      opacities[at] = certain > MIN_NEAR ? data[begin + channels + 1]! / certain : UNKNOWN
    }
  }
  return { colours, opacities }
}
