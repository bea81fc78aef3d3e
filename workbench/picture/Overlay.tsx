/** Outlines and handles above the picture. Handles are real elements: focusable, named, moved by keys. */
import { useState } from 'react'
import { nearestOnPath, type PathPoint } from '../../core/geometry/pathCurve'
import { insertPoint, removePoint, setPoints } from '../../core/mend/commands'
import { isActiveAt } from '../../core/mend/evaluate'
import { hasKeyAt, pathPointsAt } from '../../core/mend/keys'
import { WIDTH_PX, type MendRecord } from '../../core/mend/schema'
import { useBench, useBenchParts } from '../BenchContext'
import { stackOf } from '../preview/mendKey'
import { selectedMend } from '../store/bench'
import { Magnifier } from './Magnifier'
import { outlinePath } from './pathOutline'
import { toPicture, toScreen } from './view'

const NUDGE_PX = { plain: 1, coarse: 10, fine: 0.1 } as const
const ARROWS: Readonly<Record<string, readonly [number, number]>> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }

export function Overlay({ width, height }: { width: number; height: number }) {
  const { view } = useBenchParts()
  const records = useBench((bench) => bench.records)
  const frame = useBench((bench) => bench.frame)
  const selected = useBench(selectedMend)
  const tool = useBench((bench) => bench.tool)
  const others = stackOf(records.values()).filter((mend) => mend.id !== selected?.id && isActiveAt(mend, frame))
  return (
    <svg width={width} height={height} className="pointer-events-none absolute inset-0 overflow-hidden" aria-label="Areas">
      {others.map((mend) => (
        <OtherPath key={mend.id} mend={mend} frame={frame} />
      ))}
      {selected && tool.kind === 'idle' && <SelectedPath mend={selected} frame={frame} panel={{ width, height }} />}
      {tool.kind === 'drawWire' && tool.from && tool.at && <Stitched d={`M${pair(view, tool.from)}L${pair(view, tool.at)}`} isStrong />}
    </svg>
  )
}

const pair = (view: Parameters<typeof toScreen>[0], at: { x: number; y: number }) => {
  const { xScreen, yScreen } = toScreen(view, at.x, at.y)
  return `${xScreen} ${yScreen}`
}

/** A running stitch in two tones: light dashes on dark, visible on any picture. */
function Stitched({ d, isStrong }: { d: string; isStrong: boolean }) {
  return (
    <g fill="none" strokeWidth={isStrong ? 1.5 : 1}>
      <path d={d} stroke="#000" strokeOpacity={isStrong ? 0.85 : 0.5} />
      <path d={d} stroke="#ececec" strokeOpacity={isStrong ? 1 : 0.7} strokeDasharray="7 5" />
    </g>
  )
}

function OtherPath({ mend, frame }: { mend: MendRecord; frame: number }) {
  const { store, view } = useBenchParts()
  const { centre } = outlinePath(pathPointsAt(mend.area, frame), view)
  return (
    <g>
      <Stitched d={centre} isStrong={false} />
      <path
        d={centre}
        stroke="transparent"
        strokeWidth={12}
        fill="none"
        data-handle
        className="pointer-events-auto cursor-pointer"
        onPointerUp={() => store.getState().select(mend.id)}
      />
    </g>
  )
}

function SelectedPath({ mend, frame, panel }: { mend: MendRecord; frame: number; panel: { width: number; height: number } }) {
  const { store, view } = useBenchParts()
  const [magnified, setMagnified] = useState<{ x: number; y: number } | null>(null)
  const points = pathPointsAt(mend.area, frame)
  const { curve, centre, edges, widthHandle } = outlinePath(points, view)
  const isKeyed = hasKeyAt(mend.area, frame)

  const current = () => store.getState().records.get(mend.id)!
  const movePoint = (index: number, x: number, y: number) =>
    store.getState().preview(setPoints(current(), frame, withPlace(pathPointsAt(current().area, frame), index, x, y)))
  const setWidth = (widthPx: number) =>
    store.getState().preview(setPoints(current(), frame, scaledTo(pathPointsAt(current().area, frame), widthPx), 'Width of'))

  const addPoint = (clientX: number, clientY: number, box: DOMRect) => {
    const at = toPicture(view, clientX - box.left, clientY - box.top)
    const { arcPx } = nearestOnPath(curve, at.x, at.y)
    const arcs = curve.pointArcs
    const after = Math.max(
      0,
      Math.min(
        arcs.length - 2,
        arcs.findLastIndex((arc) => arc <= arcPx),
      ),
    )
    const share = (arcPx - arcs[after]!) / Math.max(arcs[after + 1]! - arcs[after]!, 1e-6)
    store.getState().commit(insertPoint(mend, after, Math.min(Math.max(share, 0), 1)))
  }

  return (
    <g>
      <Stitched d={edges} isStrong />
      <path d={centre} stroke="#ececec" strokeOpacity={0.55} strokeWidth={1} fill="none" />
      <path
        d={centre}
        stroke="transparent"
        strokeWidth={14}
        fill="none"
        data-handle
        className="pointer-events-auto cursor-copy"
        onDoubleClick={(event) => addPoint(event.clientX, event.clientY, event.currentTarget.ownerSVGElement!.getBoundingClientRect())}
      >
        <title>Double-click adds a point</title>
      </path>
      {points.map((point, index) => (
        <Handle
          key={index}
          x={point.x}
          y={point.y}
          label={`${nameOf(index, points.length)} of ${mend.name}, x ${point.x.toFixed(1)}, y ${point.y.toFixed(1)} px`}
          caption={`${nameOf(index, points.length)} · ${point.widthPx.toFixed(1)} px`}
          isKeyed={isKeyed}
          onMove={(x, y) => movePoint(index, x, y)}
          onMagnify={setMagnified}
          onDelete={() => points.length > 2 && store.getState().commit(removePoint(current(), index))}
        />
      ))}
      <Handle
        x={widthHandle.x}
        y={widthHandle.y}
        label={`Width of ${mend.name}, ${widest(points).toFixed(1)} px`}
        caption="Width"
        isKeyed={isKeyed}
        isSmall
        onMove={(x, y) => {
          const away = (x - widthHandle.x) * widthHandle.normalX + (y - widthHandle.y) * widthHandle.normalY
          setWidth(widest(points) + 2 * away)
        }}
        onMagnify={setMagnified}
      />
      {magnified && (
        <foreignObject width={panel.width} height={panel.height} className="pointer-events-none">
          <Magnifier at={magnified} panel={panel} />
        </foreignObject>
      )}
    </g>
  )
}

export const nameOf = (index: number, count: number): string => (index === 0 ? 'End 1' : index === count - 1 ? 'End 2' : `Point ${index}`)

const widest = (points: readonly PathPoint[]): number => Math.max(...points.map((point) => point.widthPx))

const withPlace = (points: readonly PathPoint[], index: number, x: number, y: number): PathPoint[] =>
  points.map((point, i) => (i === index ? { ...point, x, y } : point))

/** All widths changed in step, so that the widest becomes `widthPx`. */
function scaledTo(points: readonly PathPoint[], widthPx: number): PathPoint[] {
  const factor = widthPx / widest(points)
  return points.map((point) => ({ ...point, widthPx: Math.min(Math.max(point.widthPx * factor, WIDTH_PX.min), WIDTH_PX.max) }))
}

interface HandleProps {
  readonly x: number
  readonly y: number
  readonly label: string
  readonly caption: string
  readonly isKeyed: boolean
  readonly isSmall?: boolean
  onMove(x: number, y: number): void
  onMagnify(at: { x: number; y: number } | null): void
  onDelete?(): void
}

/** A small ring with a hole, so that the pixel under it is seen. */
function Handle({ x, y, label, caption, isKeyed, isSmall = false, onMove, onMagnify, onDelete }: HandleProps) {
  const { store, view } = useBenchParts()
  const [grab, setGrab] = useState<{ dx: number; dy: number } | null>(null)
  const [isFocused, setFocused] = useState(false)
  const { xScreen, yScreen } = toScreen(view, x, y)
  const radius = isSmall ? 5 : 8
  const at = (event: React.PointerEvent<SVGGElement>) => {
    const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect()
    return toPicture(view, event.clientX - box.left, event.clientY - box.top)
  }
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={label}
      data-handle
      className="pointer-events-auto cursor-move outline-none"
      onFocus={() => setFocused(true)}
      onBlur={() => {
        setFocused(false)
        store.getState().endGesture()
      }}
      onPointerDown={(event) => {
        if (event.button !== 0) return
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
        event.currentTarget.focus()
        const place = at(event)
        setGrab({ dx: x - place.x, dy: y - place.y })
        onMagnify({ x, y })
      }}
      onPointerMove={(event) => {
        if (!grab) return
        const place = at(event)
        onMove(place.x + grab.dx, place.y + grab.dy)
        onMagnify({ x: place.x + grab.dx, y: place.y + grab.dy })
      }}
      onPointerUp={() => {
        setGrab(null)
        onMagnify(null)
        store.getState().endGesture()
      }}
      onPointerCancel={() => {
        setGrab(null)
        onMagnify(null)
        store.getState().cancelGesture()
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape' && grab) {
          setGrab(null)
          onMagnify(null)
          store.getState().cancelGesture()
          event.stopPropagation()
          return
        }
        if ((event.key === 'Delete' || event.key === 'Backspace') && onDelete) {
          event.preventDefault()
          event.stopPropagation()
          onDelete()
          return
        }
        const arrow = ARROWS[event.key]
        if (!arrow) return
        event.preventDefault()
        event.stopPropagation()
        const by = event.shiftKey ? NUDGE_PX.coarse : event.altKey ? NUDGE_PX.fine : NUDGE_PX.plain
        onMove(x + arrow[0] * by, y + arrow[1] * by)
      }}
      onKeyUp={(event) => {
        if (ARROWS[event.key]) store.getState().endGesture()
      }}
    >
      <circle cx={xScreen} cy={yScreen} r={radius + 6} fill="transparent" />
      <circle cx={xScreen} cy={yScreen} r={radius} fill="none" stroke="#000" strokeWidth={4} strokeOpacity={0.8} />
      <circle cx={xScreen} cy={yScreen} r={radius} fill="none" stroke={isKeyed ? '#56bfa9' : '#ececec'} strokeWidth={2} />
      {isFocused && <circle cx={xScreen} cy={yScreen} r={radius + 5} fill="none" stroke="#ececec" strokeWidth={1.5} strokeDasharray="3 3" />}
      {(isFocused || grab) && (
        <text x={xScreen + 18} y={yScreen + 4} className="font-mono text-xs" fill="#ececec" stroke="#000" strokeWidth={3} paintOrder="stroke">
          {caption}
        </text>
      )}
    </g>
  )
}
