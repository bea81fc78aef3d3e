import type { Geometry } from '../../../core/document/areas'
import { nearestOnPath } from '../../../core/geometry/pathCurve'
import { outlinePath } from '../pathOutline'

/** Where on the shape a new point belongs. */
export function insertionAt(
  geometry: Geometry,
  x: number,
  y: number,
): { after: number; share: number } | null {
  if (geometry.shape === 'path') {
    const { curve } = outlinePath(geometry.points, { scale: 1, left: 0, top: 0 })
    const { arcPx } = nearestOnPath(curve, x, y)
    const arcs = curve.pointArcs
    const last = arcs.findLastIndex((arc) => arc <= arcPx)
    const after = Math.max(0, Math.min(arcs.length - 2, last))
    return {
      after,
      share: Math.min(
        Math.max((arcPx - arcs[after]!) / Math.max(arcs[after + 1]! - arcs[after]!, 1e-6), 0),
        1,
      ),
    }
  }
  if (geometry.shape !== 'outline') return null
  let best = { after: 0, share: 0.5, distance: Infinity }
  geometry.points.forEach((a, after) => {
    const b = geometry.points[(after + 1) % geometry.points.length]!
    for (let step = 1; step < 20; step++) {
      const t = step / 20
      const u = 1 - t
      const bx = u ** 3 * a.x + 3 * u * u * t * (a.x + a.outX) + 3 * u * t * t * (b.x + b.inX) + t ** 3 * b.x
      const by = u ** 3 * a.y + 3 * u * u * t * (a.y + a.outY) + 3 * u * t * t * (b.y + b.inY) + t ** 3 * b.y
      const distance = Math.hypot(bx - x, by - y)
      if (distance < best.distance) best = { after, share: t, distance }
    }
  })
  return best
}
