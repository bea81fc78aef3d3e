/** The handles of a shape: where they are, and what moving one does to it. */
import { SIZE_PX, WIDTH_PX, type Geometry } from '../../../core/document/areas'
import type { PathPoint } from '../../../core/geometry/pathCurve'
import { outlinePath } from '../pathOutline'
import { outlineHandles } from './outlineHandles'
import { nameOf, px, type PlacedHandle, type PointCommands } from './placedHandle'

export function handlesOf(
  geometry: Geometry,
  commands: PointCommands,
  focusedPoint: number | null,
): PlacedHandle[] {
  switch (geometry.shape) {
    case 'path':
      return pathHandles(geometry, commands)
    case 'ellipse':
    case 'box':
      return spotHandles(geometry, commands)
    case 'outline':
      return outlineHandles(geometry, commands, focusedPoint)
  }
}

function pathHandles(
  { points }: Extract<Geometry, { shape: 'path' }>,
  commands: PointCommands,
): PlacedHandle[] {
  const { widthHandle } = outlinePath(points, { scale: 1, left: 0, top: 0 })
  const widest = Math.max(...points.map((point) => point.widthPx))
  const ends = points.map((point, index): PlacedHandle => ({
    name: nameOf(index, points.length),
    x: point.x,
    y: point.y,
    caption: `x ${point.x.toFixed(1)}, y ${point.y.toFixed(1)}, ${px(point.widthPx)}`,
    move: (now, x, y) =>
      now.shape === 'path'
        ? { ...now, points: now.points.with(index, { ...now.points[index]!, x, y }) }
        : now,
    onDelete: points.length > 2 ? () => commands.remove(index) : undefined,
  }))
  return [
    ...ends,
    {
      name: 'Width',
      x: widthHandle.x,
      y: widthHandle.y,
      caption: px(widest),
      isSmall: true,
      move: (now, x, y) => {
        if (now.shape !== 'path') return now
        const away = (x - widthHandle.x) * widthHandle.normalX + (y - widthHandle.y) * widthHandle.normalY
        return {
          ...now,
          points: scaledTo(now.points, Math.max(...now.points.map((point) => point.widthPx)) + 2 * away),
        }
      },
    },
  ]
}

/** All widths changed in step, so that the widest becomes `widthPx`. */
function scaledTo(points: readonly PathPoint[], widthPx: number): PathPoint[] {
  const factor = widthPx / Math.max(...points.map((point) => point.widthPx))
  return points.map((point) => ({
    ...point,
    widthPx: Math.min(Math.max(point.widthPx * factor, WIDTH_PX.min), WIDTH_PX.max),
  }))
}

const size = (value: number) => Math.min(Math.max(value, SIZE_PX.min), SIZE_PX.max)
const TURN_ASIDE_PX = 14

function spotHandles(
  geometry: Extract<Geometry, { shape: 'ellipse' | 'box' }>,
  _commands: PointCommands,
): PlacedHandle[] {
  const angle = (geometry.turnDeg * Math.PI) / 180
  const [c, s] = [Math.cos(angle), Math.sin(angle)]
  const [halfX, halfY] =
    geometry.shape === 'ellipse'
      ? [geometry.radiusXPx, geometry.radiusYPx]
      : [geometry.widthPx / 2, geometry.heightPx / 2]
  const out = (u: number, v: number) => ({ x: geometry.x + c * u - s * v, y: geometry.y + s * u + c * v })
  /** Distance of a place along one of the shape's own axes. */
  const along = (now: { x: number; y: number }, x: number, y: number, axis: 'x' | 'y') =>
    Math.abs(axis === 'x' ? (x - now.x) * c + (y - now.y) * s : -(x - now.x) * s + (y - now.y) * c)
  const isBox = geometry.shape === 'box'
  const resize =
    (axis: 'x' | 'y') =>
    (now: Geometry, x: number, y: number): Geometry => {
      if (now.shape === 'ellipse') {
        const radius = size(along(now, x, y, axis))
        return axis === 'x' ? { ...now, radiusXPx: radius } : { ...now, radiusYPx: radius }
      }
      if (now.shape !== 'box') return now
      const side = size(2 * along(now, x, y, axis))
      return axis === 'x' ? { ...now, widthPx: side } : { ...now, heightPx: side }
    }
  return [
    {
      name: 'Middle',
      x: geometry.x,
      y: geometry.y,
      caption: `x ${geometry.x.toFixed(1)}, y ${geometry.y.toFixed(1)} px`,
      move: (now, x, y) => (now.shape === 'ellipse' || now.shape === 'box' ? { ...now, x, y } : now),
    },
    {
      name: isBox ? 'Side' : 'Rim',
      ...out(halfX, 0),
      caption: px(isBox ? 2 * halfX : halfX),
      isSmall: true,
      move: resize('x'),
    },
    {
      name: isBox ? 'Foot' : 'Lower rim',
      ...out(0, halfY),
      caption: px(isBox ? 2 * halfY : halfY),
      isSmall: true,
      move: resize('y'),
    },
    {
      name: 'Turn',
      ...out(0, -halfY - TURN_ASIDE_PX),
      caption: `${geometry.turnDeg.toFixed(1)}°`,
      isSmall: true,
      move: (now, x, y) =>
        now.shape === 'ellipse' || now.shape === 'box'
          ? { ...now, turnDeg: (Math.atan2(x - now.x, -(y - now.y)) * 180) / Math.PI }
          : now,
    },
  ]
}
