/** Whether a line still shows where it was taken out. */
import type { PathCurve } from '../geometry/pathCurve'
import type { Raster } from '../image/raster'
import type { Rect, Size } from '../image/rect'
import { ACROSS_PX, ALONG_PX, placeAlong, straighten, type Straightened } from '../motion/cling/ruler'

export interface LineResidue {
  /** How far the middle of the path stands out from its sides where it does most, against the most beside it: 1 is usual. */
  readonly ratio: number
  /** Where it stands out most, px of the picture. */
  readonly x: number
  readonly y: number
}

/** From this ratio on the line is probably seen. Common practice, no source: chosen on untouched plate. */
export const LINE_SHOWS_FROM = 1.5

const WINDOW_PX = 32
const GRAIN_FLOOR = 0.004 // about one 8-bit step: less is not seen

/**
 * Measures a mended picture along a path.
 *
 * In windows along the path the mean of the middle is compared with the mean of both sides; the same is done
 * a path's width further out on either side, where nothing was changed. Line-shaped detail of the picture itself
 * therefore does not count.
 *
 * @param outerPx From the drawn edge to where coverage ends. @returns null for a path that is hardly in the picture.
 */
export function measureLineResidue(picture: Raster, rect: Rect, size: Size, curve: PathCurve, outerPx: number): LineResidue | null {
  const half = Math.max(...curve.widths) / 2
  const side = half + Math.max(outerPx, 0)
  const apart = 2 * side + 8
  const ruler = straighten(picture, rect, size, curve, apart + side + 6, 0)
  const windows = Math.max(1, Math.floor((ruler.arcs.length * ALONG_PX) / WINDOW_PX))
  const rowsEach = Math.floor(ruler.arcs.length / windows)
  const beside: number[] = []
  let worst = { value: -1, row: 0 }
  for (let window = 0; window < windows; window++) {
    const begin = window * rowsEach
    const end = Math.min(begin + rowsEach, ruler.arcs.length)
    if (ruler.isSeen[begin] === 0 || ruler.isSeen[end - 1] === 0) continue
    const here = standOut(ruler, begin, end, 0, half, side)
    for (const off of [-apart, apart]) beside.push(standOut(ruler, begin, end, off, half, side))
    if (here > worst.value) worst = { value: here, row: (begin + end) >> 1 }
  }
  if (worst.value < 0) return null
  const usual = Math.max(...beside)
  const { x, y } = placeAlong(curve, ruler.arcs[worst.row]!)
  return { ratio: worst.value / Math.max(usual, GRAIN_FLOOR), x, y }
}

/** Difference of the middle and the mean of both sides, the largest channel's. */
function standOut({ raster, middle }: Straightened, begin: number, end: number, offPx: number, half: number, side: number): number {
  let most = 0
  for (let channel = 0; channel < Math.min(raster.channels, 3); channel++) {
    const centre = bandMean(raster, begin, end, middle + (offPx - half * 0.7) / ACROSS_PX, middle + (offPx + half * 0.7) / ACROSS_PX, channel)
    const left = bandMean(raster, begin, end, middle + (offPx - side - 4) / ACROSS_PX, middle + (offPx - side) / ACROSS_PX, channel)
    const right = bandMean(raster, begin, end, middle + (offPx + side) / ACROSS_PX, middle + (offPx + side + 4) / ACROSS_PX, channel)
    most = Math.max(most, Math.abs(centre - (left + right) / 2))
  }
  return most
}

function bandMean({ width, channels, data }: Raster, begin: number, end: number, from: number, to: number, channel: number): number {
  const first = Math.max(0, Math.round(from))
  const last = Math.min(width - 1, Math.round(to))
  let sum = 0
  for (let row = begin; row < end; row++) for (let col = first; col <= last; col++) sum += data[(row * width + col) * channels + channel]!
  return sum / Math.max(1, (end - begin) * (last - first + 1))
}
