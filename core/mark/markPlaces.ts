/** Where a mark lies on the frames of its mend. It is only shifted: neither its size nor its picture changes. */
import { boundsOfPolygon, insidePolygon } from '../geometry/polygon'
import { growRect, intersectRects, rectAround, type Rect } from '../image/rect'
import type { MarkPicture } from '../image/markPicture'
import { maximumOf, type Samples } from '../image/samples'
import { boxSums } from '../image/windows'
import type { Frame } from '../time'

/** The frame, and how far the mark is shifted there from where it lies on the frame of reference, px. */
export interface MarkPlace {
  readonly frame: Frame
  readonly dx: number
  readonly dy: number
}

/** Drawn so much too small it would still be looked at whole, px. */
const BESIDE_PX = 4

/** The places of a mark on the frame of reference: its grid. Pixels of it that may belong to the mark are 1. */
export interface MarkGrid {
  readonly rect: Rect
  readonly mask: Uint8Array
  readonly known?: KnownMark
}

/** What is known already of a mark that rests: where it is told well it is taken off other frames, so that those show the ground there too. */
export interface KnownMark {
  /** Of the grid; nothing where it is not told well. */
  readonly picture: MarkPicture
  /** 1 where other frames show no ground all the same. */
  readonly hides: Uint8Array
}

/** What hides the ground on frames from which it is gathered. */
export const hidingGrid = ({ rect, mask, known }: MarkGrid): MarkGrid => ({
  rect,
  mask: known?.hides ?? mask,
})

/** Under more of a mark little is left of what other frames would show. */
export const MAX_TAKEN_OFF = 0.6

/** A crop of a frame without what is known of the mark there, in place of the plate's own samples. */
export function withoutKnown(samples: Samples, crop: Rect, { rect, known }: MarkGrid): Samples {
  const shared = known && intersectRects(rect, crop)
  if (!shared) return samples
  const { channels } = samples
  const { opacity, added, channels: colours } = known.picture
  const data = samples.data.slice()
  const max = maximumOf(samples.data)
  for (let row = shared.row; row < shared.row + shared.height; row++) {
    let at = (row - rect.row) * rect.width + shared.col - rect.col
    let to = ((row - crop.row) * crop.width + shared.col - crop.col) * channels
    for (let col = 0; col < shared.width; col++, at++, to += channels) {
      if (opacity[at] === 0) continue
      const gain = 1 / (1 - opacity[at]!)
      for (let c = 0; c < Math.min(channels, colours); c++) {
        const under = (data[to + c]! - max * added[at * colours + c]!) * gain
        data[to + c] = Math.round(Math.min(max, Math.max(0, under)))
      }
    }
  }
  return { ...samples, data }
}

/** All that was drawn round, in one or several outlines, and a little beside. @param polygons  x, y pairs in px. */
export function gridOfOutlines(polygons: readonly (readonly number[])[]): MarkGrid {
  const bounds = polygons.map(boundsOfPolygon)
  const [left, top] = [Math.min(...bounds.map((one) => one.left)), Math.min(...bounds.map((one) => one.top))]
  const right = Math.max(...bounds.map((one) => one.right))
  const bottom = Math.max(...bounds.map((one) => one.bottom))
  const rect = growRect(rectAround(left, top, right, bottom), BESIDE_PX)
  const mask = new Uint8Array(rect.width * rect.height)
  for (let row = 0, at = 0; row < rect.height; row++) {
    for (let col = 0; col < rect.width; col++, at++)
      mask[at] = polygons.some((one) => insidePolygon(one, rect.col + col + 0.5, rect.row + row + 0.5))
        ? 1
        : 0
  }
  return { rect, mask: widened(mask, rect, 1) }
}

/** Only what was found to belong to the mark, and so many px around. */
export function gridOfOpacity(
  rect: Rect,
  opacity: Float32Array,
  minOpacity: number,
  aroundPx: number,
): MarkGrid {
  const mask = new Uint8Array(opacity.length)
  for (let at = 0; at < mask.length; at++) mask[at] = opacity[at]! > minOpacity ? 1 : 0
  return { rect, mask: widened(mask, rect, aroundPx) }
}

function widened(mask: Uint8Array, { width, height }: Rect, byPx: number): Uint8Array {
  const near = boxSums(Float32Array.from(mask), width, height, byPx)
  return Uint8Array.from(near, (count) => (count > 0.5 ? 1 : 0))
}

/** Whether the mark may lie on a place of a frame. */
export function isMarkedAt({ rect, mask }: MarkGrid, { dx, dy }: MarkPlace, x: number, y: number): boolean {
  const [col, row] = [Math.floor(x - dx) - rect.col, Math.floor(y - dy) - rect.row]
  return col >= 0 && row >= 0 && col < rect.width && row < rect.height && mask[row * rect.width + col] === 1
}

/** The pixels of a rectangle on which the mark may lie on a frame, as a mask; null where it lies elsewhere. */
export function markedIn(grid: MarkGrid, place: MarkPlace, into: Rect): Uint8Array | null {
  const out = new Uint8Array(into.width * into.height)
  let isAny = false
  const { rect } = grid
  const top = Math.max(0, Math.floor(rect.row + place.dy) - into.row)
  const left = Math.max(0, Math.floor(rect.col + place.dx) - into.col)
  const bottom = Math.min(into.height, Math.ceil(rect.row + rect.height + place.dy) - into.row + 1)
  const right = Math.min(into.width, Math.ceil(rect.col + rect.width + place.dx) - into.col + 1)
  for (let row = top; row < bottom; row++) {
    const from = Math.floor(into.row + row + 0.5 - place.dy) - rect.row
    if (from < 0 || from >= rect.height) continue
    for (let col = left; col < right; col++) {
      const at = Math.floor(into.col + col + 0.5 - place.dx) - rect.col
      if (at < 0 || at >= rect.width || grid.mask[from * rect.width + at] !== 1) continue
      out[row * into.width + col] = 1
      isAny = true
    }
  }
  return isAny ? out : null
}
