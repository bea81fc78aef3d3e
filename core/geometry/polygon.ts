/** Closed polygons as x, y pairs; the last point joins the first. */

/** Whether a place lies inside, by the even-odd rule; the boundary may fall either way. */
export function insidePolygon(polygon: readonly number[], x: number, y: number): boolean {
  let isInside = false
  const count = polygon.length
  for (let i = 0, j = count - 2; i < count; j = i, i += 2) {
    const [xi, yi, xj, yj] = [polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!]
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) isInside = !isInside
  }
  return isInside
}

export interface Bounds {
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
}

export function boundsOfPolygon(polygon: readonly number[]): Bounds {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 0; i < polygon.length; i += 2) {
    left = Math.min(left, polygon[i]!)
    right = Math.max(right, polygon[i]!)
    top = Math.min(top, polygon[i + 1]!)
    bottom = Math.max(bottom, polygon[i + 1]!)
  }
  return { left, top, right, bottom }
}
