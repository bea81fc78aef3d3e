/** By how much a picture as a whole has moved: the shift through which most of one frame looks like another. */
import { createPlane, type Plane } from '../image/raster'
import { lowestBetween } from './parabola'

const { abs } = Math // looked up once: it runs for every cell

export interface Shift {
  /** Cells: what lies at (col, row) of the first frame lies at (col + x, row + y) of the second. */
  readonly x: number
  readonly y: number
  /** What differs after it, on average, in stops. */
  readonly left: number
}

/** A frame's own pyramid, each level half the size of the one before. */
export type Levels = readonly Plane[]

const LEVELS = 4
const SEARCH_CELLS = 5 // at the coarsest level
/** What differs by more is not the same thing: it counts no further. */
const MAX_STOPS = 0.5
/** The least share of the picture that two frames must have in common. */
const MIN_SHARE = 0.2

export function levelsOf(plane: Plane): Levels {
  const out = [plane]
  while (out.length < LEVELS && Math.min(out.at(-1)!.width, out.at(-1)!.height) >= 24)
    out.push(halved(out.at(-1)!))
  return out
}

function halved({ width, height, data }: Plane): Plane {
  const out = createPlane(width >> 1, height >> 1)
  for (let row = 0; row < out.height; row++) {
    for (let col = 0; col < out.width; col++) {
      const at = 2 * row * width + 2 * col
      out.data[row * out.width + col] =
        (data[at]! + data[at + 1]! + data[at + width]! + data[at + width + 1]!) / 4
    }
  }
  return out
}

/**
 * Least mean of bounded absolute differences, searched from coarse to fine, then the lowest point of the parabolas through it.
 * Source: common practice.
 * @param near  Where it is looked for, cells; without it all over.
 */
export function shiftBetween(a: Levels, b: Levels, near?: { readonly x: number; readonly y: number }): Shift {
  let [x, y] = near ? [Math.round(near.x), Math.round(near.y)] : [0, 0]
  const coarsest = near ? 0 : a.length - 1
  for (let level = coarsest; level >= 0; level--) {
    const reach = level === coarsest ? (near ? 1 : SEARCH_CELLS) : 1
    if (level < coarsest) [x, y] = [2 * x, 2 * y]
    const found = minAround(a[level]!, b[level]!, x, y, reach)
    ;[x, y] = [found.x, found.y]
  }
  const left = (dx: number, dy: number) => differenceAt(a[0]!, b[0]!, x + dx, y + dy)
  const middle = left(0, 0)
  return {
    x: x + lowestBetween(left(-1, 0), middle, left(1, 0)),
    y: y + lowestBetween(left(0, -1), middle, left(0, 1)),
    left: middle,
  }
}

function minAround(a: Plane, b: Plane, x: number, y: number, reach: number): Shift {
  let best: Shift = { x, y, left: Infinity }
  for (let dy = -reach; dy <= reach; dy++) {
    for (let dx = -reach; dx <= reach; dx++) {
      const left = differenceAt(a, b, x + dx, y + dy)
      if (left < best.left) best = { x: x + dx, y: y + dy, left }
    }
  }
  return best
}

function differenceAt(a: Plane, b: Plane, x: number, y: number): number {
  const [left, right] = [Math.max(0, -x), Math.min(a.width, b.width - x)]
  const [top, bottom] = [Math.max(0, -y), Math.min(a.height, b.height - y)]
  if ((right - left) * (bottom - top) < MIN_SHARE * a.width * a.height) return Infinity
  // Every other row of a large picture tells as much.
  const step = a.height > 100 ? 2 : 1
  let [sum, rows] = [0, 0]
  for (let row = top; row < bottom; row += step, rows++) {
    sum += rowDifference(a.data, row * a.width + left, b.data, (row + y) * b.width + left + x, right - left)
  }
  return sum / (rows * (right - left))
}

/** The sum of bounded differences of so many cells. */
export function rowDifference(
  a: Float32Array,
  fromA: number,
  b: Float32Array,
  fromB: number,
  count: number,
): number {
  let sum = 0
  for (let i = 0; i < count; i++) {
    const off = abs(a[fromA + i]! - b[fromB + i]!)
    sum += off < MAX_STOPS ? off : MAX_STOPS
  }
  return sum
}
