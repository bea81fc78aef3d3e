/**
 * The rim of a gathered area: plate that is known on this frame as well as on the others. Where both agree, what was
 * gathered beside it can be trusted; where they do not, one of them shows something else there.
 */
import type { Raster } from '../image/raster'

/** Pixels of the rim, in rising order, and for each the ones around it: those from `starts` on, up to the next start. */
export interface Rim {
  readonly pixels: Int32Array
  readonly starts: Int32Array
  readonly around: Int32Array
}

/** What is shown at the rim's places: by one frame, or by several together. */
export interface Shown {
  /** Channels interleaved. */
  readonly values: Float32Array
  /** The share of one frame's grain variance that is in it; 0 or below where nothing is shown. */
  readonly kept: Float32Array
}

export interface ComparedRim {
  /** For each pixel the one of what is shown that it is said to belong to, unless only others agree with the plate. */
  readonly best: Uint8Array
  /** 1 where none agrees, 0 where one does; NOT_SHOWN where nothing is shown. */
  readonly differs: Uint8Array
}

export const NOT_SHOWN = 2

const WINDOW_PX = 2 // to each side
/** A single sample counts for so many variances at most: one speck of grain is no other thing. */
const MAX_OFF = 16
/** Mean squared difference, in variances, from which on it is something else: joints that lie a fraction of a pixel off stay below. */
const DIFFERS_FROM = 5
/** What a place is said to belong to may differ from it so much more than something else does. */
const FAVOUR = 0.6
/** Rounding, in the plate's scale. */
const MIN_DEVIATION = 1 / 255

export function openRim(
  pixels: Int32Array,
  { width, height }: { readonly width: number; readonly height: number },
): Rim {
  const indexOf = new Int32Array(width * height).fill(-1)
  pixels.forEach((pixel, k) => (indexOf[pixel] = k))
  const starts = new Int32Array(pixels.length + 1)
  const around: number[] = []
  pixels.forEach((pixel, k) => {
    const [col, row] = [pixel % width, (pixel / width) | 0]
    for (let dy = -WINDOW_PX; dy <= WINDOW_PX; dy++) {
      for (let dx = -WINDOW_PX; dx <= WINDOW_PX; dx++) {
        if (col + dx < 0 || col + dx >= width || row + dy < 0 || row + dy >= height) continue
        const other = indexOf[pixel + dy * width + dx]!
        if (other >= 0) around.push(other)
      }
    }
    starts[k + 1] = around.length
  })
  return { pixels, starts, around: Int32Array.from(around) }
}

/**
 * @param from  Where the rim's values begin in what is shown. @param deviations  Of one frame's grain, for each channel.
 * @param told  For each pixel, the one of what is shown that it is said to belong to, if that is known.
 */
export function compareRim(
  { pixels, starts, around }: Rim,
  { channels, data }: Raster,
  shown: readonly Shown[],
  from: number,
  deviations: readonly number[],
  told: Uint8Array | null = null,
): ComparedRim {
  const count = pixels.length
  const scales = deviations.map((deviation) => 1 / Math.max(MIN_DEVIATION, deviation))
  const min = new Float32Array(count).fill(Infinity)
  const best = new Uint8Array(count)
  const offs = new Float32Array(count)
  shown.forEach(({ values, kept }, index) => {
    for (let k = 0; k < count; k++) {
      const left = kept[from + k]!
      let off = left > 0 ? 0 : -1
      for (let c = 0; c < channels && left > 0; c++) {
        const difference =
          (data[pixels[k]! * channels + c]! - values[(from + k) * channels + c]!) * scales[c]!
        off += Math.min(MAX_OFF, (difference * difference) / (1 + left))
      }
      offs[k] = off
    }
    for (let k = 0; k < count; k++) {
      if (offs[k]! < 0) continue
      let [sum, known] = [0, 0]
      for (let at = starts[k]!; at < starts[k + 1]!; at++) {
        const off = offs[around[at]!]!
        if (off < 0) continue
        sum += off
        known++
      }
      // What it is said to be is not doubted because something else looks a little more alike.
      const mean = (sum / (known * channels)) * (told?.[k] === index ? FAVOUR : 1)
      if (mean < min[k]!) [min[k], best[k]] = [mean, index]
    }
  })
  return {
    best,
    differs: Uint8Array.from(min, (off) => (off === Infinity ? NOT_SHOWN : off > DIFFERS_FROM ? 1 : 0)),
  }
}
