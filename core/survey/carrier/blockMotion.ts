/** Where the blocks of a frame lie in another one. */
import type { Light } from './light'

/** Side of a block, px. */
export const BLOCK_PX = 16
/** Blocks of the first search, cells of 4 px. */
const COARSE_CELLS = 8
const REACH_CELLS = 6
const REFINE_PX = 2
/** What differs by more, steps of light, counts no further: a speck must not pull its block along. */
const CAP = 60

/** Of each block of a frame, row by row, by how many whole px it lies elsewhere in the other. */
export interface BlockMotion {
  readonly cols: number
  readonly dx: Int16Array
  readonly dy: Int16Array
}

/** A frame and its quarter. */
export interface Sizes {
  readonly full: Light
  readonly quarter: Light
}

/**
 * Least sums of bounded absolute differences, first on quarters around the shift of the picture as a whole, then in full size around
 * what the blocks beside have found. Source: common practice in motion estimation for video.
 * @param shift  Of the whole picture, cells of 4 px.
 */
export function blockMotion(
  from: Sizes,
  to: Sizes,
  shift: { readonly x: number; readonly y: number },
): BlockMotion {
  const coarse = searchCoarse(from.quarter, to.quarter, Math.round(shift.x), Math.round(shift.y))
  const { width, height } = from.full
  const [cols, rows] = [Math.ceil(width / BLOCK_PX), Math.ceil(height / BLOCK_PX)]
  const [dx, dy] = [new Int16Array(cols * rows), new Int16Array(cols * rows)]
  const start = { x: Math.round(4 * shift.x), y: Math.round(4 * shift.y) }
  for (let row = 0; row < rows; row++) {
    for (let col = 0; col < cols; col++) {
      const best = { x: 0, y: 0, sum: Infinity }
      const tryAt = (x: number, y: number) => {
        const sum = differenceOf(from.full, to.full, col * BLOCK_PX, row * BLOCK_PX, BLOCK_PX, x, y, best.sum)
        if (sum < best.sum) Object.assign(best, { x, y, sum })
      }
      tryAt(start.x, start.y)
      const perCoarse = (4 * COARSE_CELLS) / BLOCK_PX
      const [c, r] = [Math.floor(col / perCoarse), Math.floor(row / perCoarse)]
      for (const [i, k] of AROUND) {
        const at = clampTo(r + k, coarse.rows) * coarse.cols + clampTo(c + i, coarse.cols)
        tryAt(4 * coarse.dx[at]!, 4 * coarse.dy[at]!)
      }
      if (col > 0) tryAt(dx[row * cols + col - 1]!, dy[row * cols + col - 1]!)
      if (row > 0) tryAt(dx[(row - 1) * cols + col]!, dy[(row - 1) * cols + col]!)
      const { x, y } = best
      for (let j = -REFINE_PX; j <= REFINE_PX; j++)
        for (let i = -REFINE_PX; i <= REFINE_PX; i++) if (i !== 0 || j !== 0) tryAt(x + i, y + j)
      dx[row * cols + col] = best.x
      dy[row * cols + col] = best.y
    }
  }
  return { cols, dx, dy }
}

const AROUND = [[0, 0], [-1, 0], [1, 0], [0, -1], [0, 1]] as const // prettier-ignore
const clampTo = (at: number, count: number): number => Math.min(Math.max(at, 0), count - 1)

function searchCoarse(from: Light, to: Light, shiftX: number, shiftY: number) {
  const [cols, rows] = [Math.ceil(from.width / COARSE_CELLS), Math.ceil(from.height / COARSE_CELLS)]
  const [dx, dy] = [new Int16Array(cols * rows), new Int16Array(cols * rows)]
  for (let row = 0; row < rows; row++) {
    for (let col = 0; col < cols; col++) {
      let [x, y, least] = [shiftX, shiftY, Infinity]
      for (let j = -REACH_CELLS; j <= REACH_CELLS; j++) {
        for (let i = -REACH_CELLS; i <= REACH_CELLS; i++) {
          const [tx, ty] = [shiftX + i, shiftY + j]
          // Of places alike the one nearest to the whole picture's shift.
          const away = (i * i + j * j) * 2
          const sum =
            away + differenceOf(from, to, col * COARSE_CELLS, row * COARSE_CELLS, COARSE_CELLS, tx, ty, least - away)
          if (sum < least) [x, y, least] = [tx, ty, sum]
        }
      }
      dx[row * cols + col] = x
      dy[row * cols + col] = y
    }
  }
  return { cols, rows, dx, dy }
}

/** Sum of bounded differences of a block; what lies outside the other frame counts as a whole difference. Stops at `most`. */
function differenceOf(
  from: Light,
  to: Light,
  col: number,
  row: number,
  side: number,
  dx: number,
  dy: number,
  most: number,
): number {
  const { width, height } = from
  const [right, bottom] = [Math.min(col + side, width), Math.min(row + side, height)]
  const [a, b] = [from.data, to.data]
  // Every other row of a full-size block tells as much.
  const step = side === BLOCK_PX ? 2 : 1
  let sum = 0
  for (let y = row; y < bottom; y += step) {
    if (sum >= most) return sum
    const ty = y + dy
    if (ty < 0 || ty >= height) {
      sum += CAP * (right - col)
      continue
    }
    const [first, past] = [Math.max(col, -dx), Math.min(right, width - dx)]
    sum += CAP * (right - col - Math.max(0, past - first))
    let at = y * width + first
    let there = ty * width + first + dx
    for (let x = first; x < past; x++, at++, there++) {
      const off = a[at]! - b[there]!
      const size = off < 0 ? -off : off
      sum += size < CAP ? size : CAP
    }
  }
  return sum
}
