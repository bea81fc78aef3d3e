/** Boxes of points, and of rectangles seen through transforms. */
import { boundsOfPolygon } from '../geometry/polygon'
import { apply, type Matrix3 } from '../geometry/transform'
import { growRect, intersectRects, rectAround, uniteRects, type Rect } from '../image/rect'

export function boxAround(xs: ArrayLike<number>, ys: ArrayLike<number>): Rect {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 0; i < xs.length; i++) {
    left = Math.min(left, xs[i]!)
    right = Math.max(right, xs[i]!)
    top = Math.min(top, ys[i]!)
    bottom = Math.max(bottom, ys[i]!)
  }
  return rectAround(left, top, right, bottom)
}

/** @param polygon  x, y pairs. */
export function boxOfPolygon(polygon: readonly number[]): Rect {
  const { left, top, right, bottom } = boundsOfPolygon(polygon)
  return rectAround(left, top, right, bottom)
}

/** The box of a rectangle seen through a transform. */
export function boxThrough(m: Matrix3, { col, row, width, height }: Rect): Rect {
  const a = apply(m, col, row)
  const b = apply(m, col + width, row)
  const c = apply(m, col, row + height)
  const d = apply(m, col + width, row + height)
  return rectAround(
    Math.min(a.x, b.x, c.x, d.x),
    Math.min(a.y, b.y, c.y, d.y),
    Math.max(a.x, b.x, c.x, d.x),
    Math.max(a.y, b.y, c.y, d.y),
  )
}

/** Reading between pixels looks this far. */
const FOOTPRINT_PX = 3

/** The part of a picture that reading a rectangle through a transform may look at; null where that is nothing. */
export const rectThrough = (m: Matrix3, rect: Rect, whole: Rect): Rect | null =>
  intersectRects(growRect(boxThrough(m, rect), FOOTPRINT_PX), whole)

/** The same through several. */
export function rectThroughAll(matrices: readonly Matrix3[], rect: Rect, whole: Rect): Rect | null {
  let all: Rect | null = null
  for (const matrix of matrices) {
    const one = rectThrough(matrix, rect, whole)
    if (one) all = all ? uniteRects(all, one) : one
  }
  return all
}
