/** Frames beside one as they lie along the motion: what a place of it looks like there. */
import { medianOf } from '../../image/median'
import { BLOCK_PX, type BlockMotion } from './blockMotion'
import { LIGHT_MAX, type Light } from './light'
import type { Ranges } from './ranges'

/** Another frame as it lies along the motion: its values, and the range of each one's neighbours. */
export interface Beside {
  /** −1 where it lies outside. */
  readonly values: Int16Array
  readonly low: Int16Array
  readonly high: Int16Array
}

/** A frame laid over another by the motion of its blocks, in the other's light. @param ranges  Of the frame that is laid over. */
export function besideOf(here: Light, there: Light, ranges: Ranges, motion: BlockMotion): Beside {
  const { width, height } = here
  const size = width * height
  const out: { readonly values: Int16Array; readonly low: Int16Array; readonly high: Int16Array } = {
    values: new Int16Array(size).fill(-1),
    low: new Int16Array(size),
    high: new Int16Array(size).fill(LIGHT_MAX),
  }
  const { low, high } = ranges
  const { data } = there
  const blockRows = Math.ceil(height / BLOCK_PX)
  for (let block = 0; block < motion.cols * blockRows; block++) {
    const [dx, dy] = [motion.dx[block]!, motion.dy[block]!]
    const [col, row] = [(block % motion.cols) * BLOCK_PX, Math.floor(block / motion.cols) * BLOCK_PX]
    const first = Math.max(col, -dx)
    const past = Math.min(col + BLOCK_PX, width, width - dx)
    if (first >= past) continue
    for (let y = Math.max(row, -dy); y < Math.min(row + BLOCK_PX, height, height - dy); y++) {
      const away = dy * width + dx
      for (let at = y * width + first; at < y * width + past; at++) {
        out.values[at] = data[at + away]!
        out.low[at] = low[at + away]!
        out.high[at] = high[at + away]!
      }
    }
  }
  relight(here, out)
  return out
}

/** Light may change from frame to frame, and not everywhere alike: tiles of so many px are brought to that of the frame. */
const TILE_PX = 64
const TILE_STEP = 3

function relight({ width, height, data }: Light, { values, low, high }: Beside): void {
  const offsets: number[] = []
  for (let top = 0; top < height; top += TILE_PX) {
    for (let left = 0; left < width; left += TILE_PX) {
      const [right, bottom] = [Math.min(left + TILE_PX, width), Math.min(top + TILE_PX, height)]
      offsets.length = 0
      for (let row = top; row < bottom; row += TILE_STEP)
        for (let at = row * width + left; at < row * width + right; at += TILE_STEP)
          if (values[at]! >= 0) offsets.push(data[at]! - values[at]!)
      const by = offsets.length === 0 ? 0 : Math.round(medianOf(offsets))
      if (by === 0) continue
      for (let row = top; row < bottom; row++) {
        for (let at = row * width + left; at < row * width + right; at++) {
          if (values[at]! < 0) continue
          values[at] = Math.max(0, values[at]! + by)
          low[at]! += by
          high[at]! += by
        }
      }
    }
  }
}
