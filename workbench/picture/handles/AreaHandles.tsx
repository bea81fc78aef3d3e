/** The handles of the selected area: what they are and what moving one does to the shape. */
import { useState } from 'react'
import { bendPoint, insertPoint, removePoint, setGeometry } from '../../../core/document/areaCommands'
import { isStroke, type Geometry, type KeyedArea } from '../../../core/document/areas'
import { geometryAt } from '../../../core/document/keyedGeometry'
import { hasKeyAt } from '../../../core/document/keys'
import { placeArea } from '../../../core/plan/placedArea'
import type { MendRecord } from '../../../core/document/mend'
import { useBench, useBenchParts } from '../../BenchContext'
import { useTracking } from '../../tracking/useTracking'
import { Magnifier } from '../Magnifier'
import { outlinePath, polygonPath } from '../pathOutline'
import { toPicture, toScreen } from '../view'
import { Handle } from './Handle'
import { handlesOf } from './handlesOf'
import { insertionAt } from './insertionAt'
import { Stitched } from './Stitched'
import { useStrokeDrag } from './useStrokeDrag'

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
  const { setLineRight } = useTracking()
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
  const placed = placeArea(area, tracks, frame).shape
  const edges = outline?.edges ?? (placed.shape === 'closed' ? polygonPath(placed.polygon, view) : '')

  const addPoint = (event: React.MouseEvent<SVGPathElement>) => {
    const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect()
    const at = toPicture(view, event.clientX - box.left, event.clientY - box.top)
    const place = insertionAt(geometry, at.x, at.y)
    if (place) store.getState().commit(insertPoint(now().record, area.id, place.after, place.share))
  }
  const drag = useStrokeDrag(mend.id, area.id)
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
        className={`pointer-events-auto ${isStroke(area) ? 'cursor-move' : 'cursor-copy'}`}
        onDoubleClick={addPoint}
        {...(isStroke(area) ? drag : {})}
      >
        <title>
          {isStroke(area) ? 'Drag to move; double-click adds a point' : 'Double-click adds a point'}
        </title>
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
          onEnd={() => {
            if (handle.name !== 'Width') setLineRight(mend.id, area.id)
          }}
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
