/** How the brightness of a part of a picture is spread: for looking only. */
import type { ScreenPicture } from './viewTransform'

export const LUMA_STEPS = 256

/**
 * Luma of each pixel of a row, in whole code values. Source: ITU-R BT.709-6, item 3.2.
 * In whole numbers of 1/65536, rounded: the same everywhere, and grey stays what it is.
 */
const lumaAt = (data: Uint8ClampedArray, at: number): number =>
  (13933 * data[at]! + 46871 * data[at + 1]! + 4732 * data[at + 2]! + 32768) >> 16

/** How many pixels have each luma. Cost: one pass. */
export function lumaHistogram({ data }: Pick<ScreenPicture, 'data'>): Uint32Array {
  const counts = new Uint32Array(LUMA_STEPS)
  for (let at = 0; at < data.length; at += 4) counts[lumaAt(data, at)]!++
  return counts
}

/**
 * How many pixels have each luma in each of some columns, from left to right.
 * @param columns  No more than the picture is wide.
 * @returns Column by column, `LUMA_STEPS` counts each, the darkest first. Cost: one pass.
 */
export function lumaWaveform({ width, height, data }: ScreenPicture, columns: number): Uint32Array {
  if (!(columns >= 1 && columns <= width))
    throw new RangeError(`columns must be 1 to ${width}. Received ${columns}`)
  const counts = new Uint32Array(columns * LUMA_STEPS)
  for (let row = 0, at = 0; row < height; row++) {
    for (let col = 0; col < width; col++, at += 4) {
      counts[Math.floor((col * columns) / width) * LUMA_STEPS + lumaAt(data, at)]!++
    }
  }
  return counts
}
