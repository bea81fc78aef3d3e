/** The handles of the selected area: what they are and what moving one does to the shape. */
import { useState } from 'react'
import { bendPoint, insertPoint, removePoint, setGeometry } from '../../../core/document/commands'
import { SIZE_PX, WIDTH_PX, type Geometry, type KeyedArea } from '../../../core/document/areas'
import { translationBy } from '../../../core/geometry/transform'
import { geometryAt, movedBy } from '../../../core/document/keyedGeometry'
import { hasKeyAt, isCornerAt } from '../../../core/document/keys'
import { placeArea } from '../../../core/plan/placedArea'
import type { MendRecord } from '../../../core/document/mend'
import { nearestOnPath, type PathPoint } from '../../../core/geometry/pathCurve'
import { useBench, useBenchParts } from '../../BenchContext'
import { Magnifier } from '../Magnifier'
import { outlinePath, polygonPath } from '../pathOutline'
import { toPicture, toScreen } from '../view'
import { Handle } from './Handle'
import { Stitched } from './Stitched'

interface PlacedHandle {
  readonly name: string
  readonly x: number
  readonly y: number
  readonly caption: string
  readonly isSmall?: boolean
  /** The shape when the handle is moved to a place. */
  move(geometry: Geometry, x: number, y: number): Geometry
  readonly onDelete?: () => void
  readonly onToggle?: () => void
  readonly onFocus?: () => void
}

export const nameOf = (index: number, count: number): string =>
  index === 0 ? 'End 1' : index === count - 1 ? 'End 2' : `Point ${index}`

export function AreaHandles({
  mend,
  area,
  panel,
}: {
  mend: MendRecord
  area: KeyedArea
  panel: { width: number; height: number }
}) {
  const { store, view } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const [magnified, setMagnified] = useState<{ x: number; y: number } | null>(null)
  const [focusedPoint, setFocusedPoint] = useState<number | null>(null)
  const geometry = geometryAt(area, tracks, frame)
  const isKeyed = hasKeyAt(area, frame)

  const now = () => {
    const state = store.getState()
    const record = state.records.get(mend.id)!
    const current = record.areas.find((one) => one.id === area.id) as KeyedArea
    return { state, record, geometry: geometryAt(current, state.tracks, frame) }
  }
  const change = (act: (geometry: Geometry) => Geometry, what?: string) => {
    const { state, record, geometry: current } = now()
    state.preview(setGeometry(record, area.id, state.tracks, frame, act(current), what))
  }
  const commands = {
    remove: (index: number) => store.getState().commit(removePoint(now().record, area.id, index)),
    bend: (index: number, bend: 'smooth' | 'corner') =>
      store.getState().commit(bendPoint(now().record, area.id, index, bend)),
    focus: setFocusedPoint,
  }
  const handles = handlesOf(geometry, commands, focusedPoint)
  const outline = geometry.shape === 'path' ? outlinePath(geometry.points, view) : null
  const placed = placeArea(area, tracks, frame)
  const edges = outline?.edges ?? (placed.shape === 'closed' ? polygonPath(placed.polygon, view) : '')

  const addPoint = (event: React.MouseEvent<SVGPathElement>) => {
    const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect()
    const at = toPicture(view, event.clientX - box.left, event.clientY - box.top)
    const place = insertionAt(geometry, at.x, at.y)
    if (place) store.getState().commit(insertPoint(now().record, area.id, place.after, place.share))
  }
  return (
    <g>
      <Stitched d={edges} isStrong isHoldout={area.role === 'holdout'} />
      {outline && (
        <path d={outline.centre} stroke="#ececec" strokeOpacity={0.55} strokeWidth={1} fill="none" />
      )}
      <path
        d={outline?.centre ?? edges}
        stroke="transparent"
        strokeWidth={14}
        fill="none"
        data-handle
        className="pointer-events-auto cursor-copy"
        onDoubleClick={addPoint}
      >
        <title>Double-click adds a point</title>
      </path>
      {geometry.shape === 'outline' && focusedPoint !== null && (
        <Tethers geometry={geometry} index={focusedPoint} />
      )}
      {handles.map((handle) => (
        <Handle
          key={handle.name}
          x={handle.x}
          y={handle.y}
          label={`${handle.name} of ${mend.name}, ${handle.caption}`}
          caption={`${handle.name} · ${handle.caption}`}
          isKeyed={isKeyed}
          isSmall={handle.isSmall}
          onMove={(x, y) =>
            change((current) => handle.move(current, x, y), handle.name === 'Width' ? 'Width of' : undefined)
          }
          onMagnify={setMagnified}
          onDelete={handle.onDelete}
          onToggle={handle.onToggle}
          onFocus={handle.onFocus}
        />
      ))}
      {magnified && (
        <foreignObject width={panel.width} height={panel.height} className="pointer-events-none">
          <Magnifier at={magnified} panel={panel} />
        </foreignObject>
      )}
    </g>
  )
}

/** Lines from an outline's point to its two handles. */
function Tethers({ geometry, index }: { geometry: Extract<Geometry, { shape: 'outline' }>; index: number }) {
  const { view } = useBenchParts()
  const point = geometry.points[index]
  if (!point) return null
  const at = (x: number, y: number) => {
    const { xScreen, yScreen } = toScreen(view, x, y)
    return `${xScreen} ${yScreen}`
  }
  const d = `M${at(point.x + point.inX, point.y + point.inY)}L${at(point.x, point.y)}L${at(point.x + point.outX, point.y + point.outY)}`
  return <path d={d} fill="none" stroke="#ececec" strokeOpacity={0.7} strokeWidth={1} />
}

interface Commands {
  remove(index: number): void
  bend(index: number, bend: 'smooth' | 'corner'): void
  focus(index: number | null): void
}

const px = (value: number) => `${value.toFixed(1)} px`

function handlesOf(geometry: Geometry, commands: Commands, focusedPoint: number | null): PlacedHandle[] {
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

function pathHandles({ points }: Extract<Geometry, { shape: 'path' }>, commands: Commands): PlacedHandle[] {
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
  _commands: Commands,
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

function outlineHandles(
  geometry: Extract<Geometry, { shape: 'outline' }>,
  commands: Commands,
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

/** Where on the shape a new point belongs. */
function insertionAt(geometry: Geometry, x: number, y: number): { after: number; share: number } | null {
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
