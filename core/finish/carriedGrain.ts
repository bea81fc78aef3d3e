/** Grain and fine texture carried over from the plate beside an area. */
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import type { Raster } from '../image/raster'
import type { EdgeField } from '../matte/edge'

const DETAIL_PX = 1.5 // what is finer than this counts as grain and fine texture

/**
 * For some entries of the field the detail of a place beside: the whole area shifted by the least way at which most of it
 * falls on known ground. Entries that do not take that of a longer way; null where no way does.
 *
 * @param known  1 for each pixel that may be taken from.
 */
export function carryGrain(
  picture: Raster,
  field: EdgeField,
  entries: Int32Array,
  known: Uint8Array,
): Float32Array | null {
  const { width, height, channels, data } = picture
  const ways = waysFor(field, entries, width)
  const reach = (entry: number, { dx, dy }: Way): number => {
    const [col, row] = [(field.pixels[entry]! % width) + dx, ((field.pixels[entry]! / width) | 0) + dy]
    if (col < 0 || row < 0 || col >= width || row >= height) return -1
    return known[row * width + col] === 1 ? row * width + col : -1
  }
  const ranked = ways
    .map((way) => ({ way, share: entries.reduce((sum, entry) => sum + (reach(entry, way) >= 0 ? 1 : 0), 0) }))
    .sort((a, b) => b.share - a.share || a.way.length - b.way.length)
    .map(({ way }) => way)
  const taps = gaussianTaps(DETAIL_PX)
  const smooth = convolveSeparable(picture, taps, taps).data
  const out = new Float32Array(entries.length * channels)
  let found = 0
  entries.forEach((entry, at) => {
    for (const way of ranked) {
      const from = reach(entry, way)
      if (from < 0) continue
      found++
      for (let c = 0; c < channels; c++)
        out[at * channels + c] = data[from * channels + c]! - smooth[from * channels + c]!
      break
    }
  })
  return found > 0 ? out : null
}

interface Way {
  readonly dx: number
  readonly dy: number
  readonly length: number
}

/** Past the area to each of eight sides, twice as far too. */
function waysFor(field: EdgeField, entries: Int32Array, width: number): Way[] {
  let [left, right, top, bottom] = [Infinity, 0, Infinity, 0]
  for (const entry of entries) {
    const [col, row] = [field.pixels[entry]! % width, (field.pixels[entry]! / width) | 0]
    left = Math.min(left, col)
    right = Math.max(right, col)
    top = Math.min(top, row)
    bottom = Math.max(bottom, row)
  }
  const [w, h] = [right - left + 4, bottom - top + 4]
  const ways: Way[] = []
  for (const times of [1, 2]) {
    for (const [x, y] of [
      [-1, 0],
      [1, 0],
      [0, -1],
      [0, 1],
      [-1, -1],
      [1, 1],
      [1, -1],
      [-1, 1],
    ] as const) {
      // prettier-ignore
      const [dx, dy] = [times * x * w, times * y * h]
      ways.push({ dx, dy, length: Math.abs(dx) + Math.abs(dy) })
    }
  }
  return ways
}
