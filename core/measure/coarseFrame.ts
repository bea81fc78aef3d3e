/**
 * A finished frame in cells: mean colours, and how much fine structure there is. Small enough that the frames around one can be
 * kept while a shot goes by.
 */
import type { Rect } from '../image/rect'
import { eachPiece } from '../image/runs'
import { maximumOf, type Samples } from '../image/samples'

/** Side of a cell, px. Grain averages out in it; three of them are a spot that eyes see: 9 px. */
export const COARSE_PX = 3
/** Values of a cell: three colours, fine structure. */
export const COARSE_VALUES = 4
const FULL = 65535

export interface CoarseFrame {
  readonly cols: number
  readonly rows: number
  /** Reading order; colours and the size of fine structure, 0 to 65535 for 0 to 1. */
  readonly values: Uint16Array
}

/**
 * Fine structure is the mean size of second differences of second differences: grain, without the edges that lie level or upright.
 * Source of it: J. Immerkær, "Fast noise variance estimation", Computer Vision and Image Understanding 64(2), 1996.
 *
 * Cells are whole: what is left over at the right and lower edge is in none. Cost: two passes.
 */
export function coarseFrame({ width, height, channels, data }: Samples): CoarseFrame {
  const [cols, rows] = [Math.floor(width / COARSE_PX), Math.floor(height / COARSE_PX)]
  const values = new Uint16Array(cols * rows * COARSE_VALUES)
  const scale = FULL / maximumOf(data)
  const ofMean = scale / (COARSE_PX * COARSE_PX)
  const [green, blue] = channels >= 3 ? [1, 2] : [0, 0]
  const down = width * channels
  for (let row = 0, to = 0; row < rows; row++) {
    for (let col = 0; col < cols; col++, to += COARSE_VALUES) {
      let [r, g, b] = [0, 0, 0]
      for (let y = 0; y < COARSE_PX; y++) {
        let at = (row * COARSE_PX + y) * down + col * COARSE_PX * channels
        for (let x = 0; x < COARSE_PX; x++, at += channels) {
          r += data[at]!
          g += data[at + green]!
          b += data[at + blue]!
        }
      }
      values[to] = r * ofMean
      values[to + 1] = g * ofMean
      values[to + 2] = b * ofMean
      values[to + 3] = Math.min(
        FULL,
        fineIn(
          data,
          (row * COARSE_PX + 1) * down + (col * COARSE_PX + 1) * channels + green,
          down,
          channels,
        ) * scale,
      )
    }
  }
  return { cols, rows, values }
}

/** The size of the difference around one sample: a cell has one such place that lies in it whole. */
function fineIn(data: Samples['data'], at: number, down: number, across: number): number {
  const [up, low] = [at - down, at + down]
  const above = data[up - across]! - 2 * data[up]! + data[up + across]!
  const here = data[at - across]! - 2 * data[at]! + data[at + across]!
  const below = data[low - across]! - 2 * data[low]! + data[low + across]!
  return Math.abs(above - 2 * here + below)
}

/** Sets the cells that any pixel of runs of a rectangle lies in. */
export function markCellsInto(
  cells: Uint8Array,
  { cols, rows }: Pick<CoarseFrame, 'cols' | 'rows'>,
  runs: Int32Array,
  at: Rect,
): void {
  eachPiece(runs, at, (row, begin, end) => {
    const down = Math.floor(row / COARSE_PX)
    if (down < 0 || down >= rows || end <= 0) return
    const first = Math.min(cols, Math.max(0, Math.floor(begin / COARSE_PX)))
    cells.fill(1, down * cols + first, down * cols + Math.min(cols, Math.ceil(end / COARSE_PX)))
  })
}
