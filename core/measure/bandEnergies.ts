/** How much structure of each size two pictures have at the same places. */
import { brightnessOf } from '../colour/ycc'
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createRaster, type Raster } from '../image/raster'
import { shrink } from '../image/shrink'

/** Deviations of brightness between two sizes, in code values of 8 bits. */
export interface BandEnergy {
  /** About how wide what is measured is, px. */
  readonly widePx: number
  readonly plate: number
  readonly result: number
}

/** The finest band lies below a blur of this deviation, px; each next one reaches twice as far. */
const FINEST = 0.7
const BANDS = 6
/** A spot is about so many deviations wide of the blur that takes it out. */
const WIDE = 2.5

/**
 * @param asked  For each pixel whether it counts. @param plate, result  Encoded, at least three channels, of the same size.
 * Cost: two blurs of each picture a band, those of wide bands at a part of the size.
 * Source: P. J. Burt, E. H. Adelson, "The Laplacian pyramid as a compact image code", IEEE Trans. Communications 31(4), 1983.
 */
export function bandEnergies(plate: Raster, result: Raster, asked: Uint8Array): BandEnergy[] {
  let pictures = [plate, result].map(brightnessIn)
  let mask: Raster = { width: plate.width, height: plate.height, channels: 1, data: Float32Array.from(asked) }
  const bands: BandEnergy[] = []
  for (let band = 0; band < BANDS; band++) {
    // Always the same blur, on pictures that are half as large each time.
    const taps = gaussianTaps(band === 0 ? FINEST : 2 * FINEST)
    const [a, b] = pictures.map((picture) => {
      const soft = convolveSeparable(picture, taps, taps)
      return { deviation: deviationOf(picture, soft, mask), soft }
    }) as [Softened, Softened]
    bands.push({ widePx: WIDE * FINEST * (1 << band), plate: a.deviation, result: b.deviation })
    pictures = [a.soft, b.soft]
    if (band === 0) continue
    pictures = pictures.map((picture) => shrink(picture, 2))
    mask = shrink(mask, 2)
  }
  return bands
}

interface Softened {
  readonly deviation: number
  readonly soft: Raster
}

function brightnessIn({ width, height, channels, data }: Raster): Raster {
  const out = createRaster(width, height, 1)
  for (let at = 0, from = 0; at < width * height; at++, from += channels)
    out.data[at] = 255 * brightnessOf(data[from]!, data[from + 1]!, data[from + 2]!)
  return out
}

/** Of what a blur takes out, where most of a pixel is asked. */
function deviationOf(picture: Raster, soft: Raster, mask: Raster): number {
  let [sum, count] = [0, 0]
  for (let at = 0; at < mask.data.length; at++) {
    if (mask.data[at]! < 0.5) continue
    const off = picture.data[at]! - soft.data[at]!
    sum += off * off
    count++
  }
  return count === 0 ? 0 : Math.sqrt(sum / count)
}
