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
  // Line by line, and written out: this runs over every sample of every frame of a version.
  const [reds, greens, blues] = [new Uint32Array(cols), new Uint32Array(cols), new Uint32Array(cols)]
  const [second, third, cell] = [channels, 2 * channels, COARSE_PX * channels]
  for (let row = 0; row < rows; row++) {
    reds.fill(0)
    greens.fill(0)
    blues.fill(0)
    const top = row * COARSE_PX * down
    for (let line = top; line < top + COARSE_PX * down; line += down) {
      for (let col = 0, at = line; col < cols; col++, at += cell) {
        reds[col]! += data[at]! + data[at + second]! + data[at + third]!
        const g = at + green
        greens[col]! += data[g]! + data[g + second]! + data[g + third]!
        const b = at + blue
        blues[col]! += data[b]! + data[b + second]! + data[b + third]!
      }
    }
    let to = row * cols * COARSE_VALUES
    for (let col = 0, at = top + green; col < cols; col++, at += cell, to += COARSE_VALUES) {
      values[to] = reds[col]! * ofMean
      values[to + 1] = greens[col]! * ofMean
      values[to + 2] = blues[col]! * ofMean
      // The size of the difference around the middle sample: a cell has one such place that lies in it whole.
      const middle = at + down
      const low = middle + down
      const above = data[at]! - 2 * data[at + second]! + data[at + third]!
      const here = data[middle]! - 2 * data[middle + second]! + data[middle + third]!
      const below = data[low]! - 2 * data[low + second]! + data[low + third]!
      const fine = Math.abs(above - 2 * here + below) * scale
      values[to + 3] = fine < FULL ? fine : FULL
    }
  }
  return { cols, rows, values }
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
