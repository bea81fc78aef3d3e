/** Where the blocks of a frame lie in another one. */
import type { Light } from './light'

/** Side of a block, px. */
export const BLOCK_PX = 16
/** Side of a block of the first search, cells of 4 px. */
const COARSE_CELLS = 8
/** What differs by more, steps of light, counts no further: a speck must not pull its block along. */
const CAP = 60
/** From its start a block goes downhill so many steps at most. */
const MAX_STEPS = 12
/** A coarse block that differs by more per cell, after that, is looked for all around. */
const POOR = 6
const REACH_CELLS = 6
/** A block that the shift of the whole picture leaves no more of than so many times what is usual goes with it. */
const GOOD_TIMES = 1.15

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
 * Least sums of bounded absolute differences, first on quarters from the shift of the picture as a whole, then in full size from what
 * the blocks beside have found: each time downhill from the best start (a small diamond). Source: S. Zhu and K.-K. Ma, "A new diamond
 * search algorithm for fast block-matching motion estimation", IEEE Transactions on Image Processing 9, 2000; in common use.
 * @param shift  Of the whole picture, cells of 4 px.
 */
export function blockMotion(
  from: Sizes,
  to: Sizes,
  shift: { readonly x: number; readonly y: number },
): BlockMotion {
  const coarse = new Search(from.quarter, to.quarter, COARSE_CELLS)
  coarse.eachBlock((col, row) => {
    coarse.begin(col, row, Math.round(shift.x), Math.round(shift.y))
    coarse.tryBeside(col, row)
    coarse.goDownhill()
    if (coarse.sum > POOR * COARSE_CELLS * COARSE_CELLS)
      coarse.lookAround(Math.round(shift.x), Math.round(shift.y))
  })
  const fine = new Search(from.full, to.full, BLOCK_PX)
  const perCoarse = (4 * COARSE_CELLS) / BLOCK_PX
  const [x, y] = [Math.round(4 * shift.x), Math.round(4 * shift.y)]
  const good = GOOD_TIMES * fine.usualAt(x, y)
  fine.eachBlock((col, row) => {
    fine.begin(col, row, x, y)
    if (fine.sum <= good) return
    const [c, r] = [Math.floor(col / perCoarse), Math.floor(row / perCoarse)]
    for (const [i, k] of AROUND) {
      const at = clampTo(r + k, coarse.rows) * coarse.cols + clampTo(c + i, coarse.cols)
      fine.tryAt(4 * coarse.dx[at]!, 4 * coarse.dy[at]!)
    }
    fine.tryBeside(col, row)
    fine.goDownhill()
  })
  return fine
}

const AROUND = [[0, 0], [-1, 0], [1, 0], [0, -1], [0, 1]] as const // prettier-ignore
const clampTo = (at: number, count: number): number => Math.min(Math.max(at, 0), count - 1)

/** The search of all blocks of a size; the best place of the block that is looked for so far. */
class Search implements BlockMotion {
  readonly cols: number
  readonly rows: number
  readonly dx: Int16Array
  readonly dy: Int16Array
  sum = Infinity
  #x = 0
  #y = 0
  #col = 0
  #row = 0
  readonly #from: Light
  readonly #to: Light
  readonly #side: number

  constructor(from: Light, to: Light, side: number) {
    this.#from = from
    this.#to = to
    this.#side = side
    this.cols = Math.ceil(from.width / side)
    this.rows = Math.ceil(from.height / side)
    this.dx = new Int16Array(this.cols * this.rows)
    this.dy = new Int16Array(this.cols * this.rows)
  }

  eachBlock(look: (col: number, row: number) => void): void {
    for (let row = 0; row < this.rows; row++) {
      for (let col = 0; col < this.cols; col++) {
        look(col, row)
        this.dx[row * this.cols + col] = this.#x
        this.dy[row * this.cols + col] = this.#y
      }
    }
  }

  /** What blocks differ by where a shift fits them: of many of them the lower quarter. */
  usualAt(x: number, y: number): number {
    const sums: number[] = []
    for (let row = 0; row < this.rows - 1; row += 2) {
      for (let col = 0; col < this.cols - 1; col += 2) {
        this.begin(col, row, x, y)
        sums.push(this.sum)
      }
    }
    return sums.sort((a, b) => a - b)[sums.length >> 2] ?? 0
  }

  begin(col: number, row: number, x: number, y: number): void {
    this.#col = col * this.#side
    this.#row = row * this.#side
    this.sum = Infinity
    this.tryAt(x, y)
  }

  /** What the blocks to the left and above have found. */
  tryBeside(col: number, row: number): void {
    const at = row * this.cols + col
    if (col > 0) this.tryAt(this.dx[at - 1]!, this.dy[at - 1]!)
    if (row > 0) this.tryAt(this.dx[at - this.cols]!, this.dy[at - this.cols]!)
  }

  tryAt(x: number, y: number): void {
    const sum = differenceOf(this.#from, this.#to, this.#col, this.#row, this.#side, x, y, this.sum)
    if (sum >= this.sum) return
    this.sum = sum
    this.#x = x
    this.#y = y
  }

  goDownhill(): void {
    for (let step = 0; step < MAX_STEPS; step++) {
      const [x, y] = [this.#x, this.#y]
      this.tryAt(x - 1, y)
      this.tryAt(x + 1, y)
      this.tryAt(x, y - 1)
      this.tryAt(x, y + 1)
      if (this.#x === x && this.#y === y) return
    }
  }

  lookAround(x: number, y: number): void {
    for (let j = -REACH_CELLS; j <= REACH_CELLS; j += 2)
      for (let i = -REACH_CELLS; i <= REACH_CELLS; i += 2) this.tryAt(x + i, y + j)
    this.goDownhill()
  }
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
  const first = dx < 0 && col < -dx ? -dx : col
  const past = dx > 0 && right > width - dx ? width - dx : right
  const outside = CAP * (right - col - (past > first ? past - first : 0))
  let sum = 0
  for (let y = row; y < bottom; y += step) {
    if (sum >= most) return sum
    const ty = y + dy
    if (ty < 0 || ty >= height) {
      sum += CAP * (right - col)
      continue
    }
    sum += outside
    let at = y * width + first
    let there = ty * width + first + dx
    for (const end = y * width + past; at < end; at++, there++) {
      const off = a[at]! - b[there]!
      const size = off < 0 ? -off : off
      sum += size < CAP ? size : CAP
    }
  }
  return sum
}
