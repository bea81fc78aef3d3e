import { createPathCurve } from '../geometry/pathCurve'
import { apply, type Matrix3 } from '../geometry/transform'
import { growRect, rectAround, type Rect } from '../image/rect'
import type { PlacedShape } from './placedArea'

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

export const boxOfPolygon = (polygon: readonly number[]): Rect =>
  boxAround(
    polygon.filter((_, i) => i % 2 === 0),
    polygon.filter((_, i) => i % 2 === 1),
  )

/** The box of a shape, a path's width included; null for a matte, whose pictures are not known here. */
export function boundsOfShape(shape: PlacedShape): Rect | null {
  if (shape.shape === 'matte') return null
  if (shape.shape === 'closed') return boxOfPolygon(shape.polygon)
  const curve = createPathCurve(shape.points)
  return growRect(boxAround(curve.xs, curve.ys), Math.ceil(Math.max(...curve.widths) / 2))
}

/** The box of a rectangle seen through a transform. */
export function boxThrough(m: Matrix3, { col, row, width, height }: Rect): Rect {
  const corners = [
    apply(m, col, row),
    apply(m, col + width, row),
    apply(m, col, row + height),
    apply(m, col + width, row + height),
  ]
  return boxAround(
    corners.map(({ x }) => x),
    corners.map(({ y }) => y),
  )
}
