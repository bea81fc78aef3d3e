/** The handles of an outline: its points, the two arms of the one at hand, its middle. */
import type { Geometry } from '../../../core/document/areas'
import { movedBy } from '../../../core/document/keyedGeometry'
import { isCornerAt } from '../../../core/document/keys'
import { translationBy } from '../../../core/geometry/transform'
import { px, type PlacedHandle, type PointCommands } from './placedHandle'

const middleOf = (points: readonly { readonly x: number; readonly y: number }[]) => ({
  x: points.reduce((sum, point) => sum + point.x, 0) / points.length,
  y: points.reduce((sum, point) => sum + point.y, 0) / points.length,
})

/** Moves the outline as it is. */
function middleHandle({ points }: Extract<Geometry, { shape: 'outline' }>): PlacedHandle {
  const { x, y } = middleOf(points)
  return {
    name: 'Middle',
    x,
    y,
    caption: `x ${x.toFixed(1)}, y ${y.toFixed(1)} px`,
    isSmall: true,
    move: (now, toX, toY) => {
      if (now.shape !== 'outline') return now
      const from = middleOf(now.points)
      return movedBy(translationBy(toX - from.x, toY - from.y), now)
    },
  }
}

export function outlineHandles(
  geometry: Extract<Geometry, { shape: 'outline' }>,
  commands: PointCommands,
  focusedPoint: number | null,
): PlacedHandle[] {
  const { points } = geometry
  const corners = points.map((point, index): PlacedHandle => {
    const isSharp = isCornerAt(points, index)
    return {
      name: `Point ${index + 1}`,
      x: point.x,
      y: point.y,
      caption: `x ${point.x.toFixed(1)}, y ${point.y.toFixed(1)} px, ${isSharp ? 'corner' : 'smooth'}; Enter changes it`,
      move: (now, x, y) =>
        now.shape === 'outline'
          ? { ...now, points: now.points.with(index, { ...now.points[index]!, x, y }) }
          : now,
      onDelete: points.length > 3 ? () => commands.remove(index) : undefined,
      onToggle: () => commands.bend(index, isSharp ? 'smooth' : 'corner'),
      onFocus: () => commands.focus(index),
    }
  })
  const index = focusedPoint
  const point = index === null ? undefined : points[index]
  if (index === null || !point || isCornerAt(points, index)) return [...corners, middleHandle(geometry)]
  /** A smooth point's handles stay in one line; each keeps its own length. */
  const pull =
    (side: 'in' | 'out') =>
    (now: Geometry, x: number, y: number): Geometry => {
      if (now.shape !== 'outline') return now
      const at = now.points[index]!
      const [dx, dy] = [x - at.x, y - at.y]
      const length = Math.hypot(dx, dy) || 1
      const other = side === 'in' ? Math.hypot(at.outX, at.outY) : Math.hypot(at.inX, at.inY)
      const [ox, oy] = [(-dx / length) * other, (-dy / length) * other]
      const next =
        side === 'in'
          ? { ...at, inX: dx, inY: dy, outX: ox, outY: oy }
          : { ...at, outX: dx, outY: dy, inX: ox, inY: oy }
      return { ...now, points: now.points.with(index, next) }
    }
  const bend = (side: 'in' | 'out', x: number, y: number): PlacedHandle => ({
    name: `${side === 'in' ? 'Before' : 'After'} point ${index + 1}`,
    x: point.x + x,
    y: point.y + y,
    caption: px(Math.hypot(x, y)),
    isSmall: true,
    move: pull(side),
    onFocus: () => commands.focus(index),
  })
  return [
    ...corners,
    middleHandle(geometry),
    bend('in', point.inX, point.inY),
    bend('out', point.outX, point.outY),
  ]
}
