/** Where the selected mend copies from: the area's outline, hollow, tied to it by a thin tether; its middle is dragged. */
import { setShift } from '../../core/document/sourceCommands'
import { findFill } from '../../core/fill/registry'
import { apply } from '../../core/geometry/transform'
import type { Area } from '../../core/document/areas'
import { middleOfShape, movedPolygon, placeArea } from '../../core/plan/placedArea'
import type { MendRecord } from '../../core/document/mend'
import { shiftAt, sourceFromTarget } from '../../core/document/sourceKeys'
import { useBench, useBenchParts } from '../BenchContext'
import { Handle } from './handles/Handle'
import { outlinePath, polygonPath } from './pathOutline'
import { toScreen } from './view'

export function SourceMarks({ mend, area }: { mend: MendRecord; area: Area }) {
  const { store, view } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const method = findFill(mend.fill.methodId)
  if (!mend.source || area.shape === 'matte' || !method?.needsSource?.(method.params.parse(mend.fill.params)))
    return null
  const placed = placeArea(area, tracks, frame).shape
  const m = sourceFromTarget(mend.source, area, tracks, frame)
  const from = middleOfShape(placed)
  const to = apply(m, from.x, from.y)
  const [a, b] = [toScreen(view, from.x, from.y), toScreen(view, to.x, to.y)]
  const d =
    placed.shape === 'path'
      ? outlinePath(
          placed.points.map((point) => ({ ...point, ...apply(m, point.x, point.y) })),
          view,
        ).edges
      : placed.shape === 'closed'
        ? polygonPath(movedPolygon(placed.polygon, m), view)
        : ''
  const { dx, dy } = shiftAt(mend.source, area, tracks, frame)
  const hasKey = mend.source.keys.some((key) => key.frame === frame)
  return (
    <g>
      <g fill="none" className="pointer-events-none">
        <path
          d={`M${a.xScreen} ${a.yScreen}L${b.xScreen} ${b.yScreen}`}
          stroke="#000"
          strokeOpacity={0.6}
          strokeWidth={2.5}
        />
        <path
          d={`M${a.xScreen} ${a.yScreen}L${b.xScreen} ${b.yScreen}`}
          stroke="#ececec"
          strokeOpacity={0.8}
          strokeWidth={1}
        />
        <Hollow d={d} />
      </g>
      <Handle
        x={to.x}
        y={to.y}
        label={`Source of ${mend.name}, ${dx.toFixed(1)} px right, ${dy.toFixed(1)} px down`}
        caption={`Source · ${dx.toFixed(1)}, ${dy.toFixed(1)} px`}
        isKeyed={hasKey}
        isSmall
        onMove={(x, y) => {
          const state = store.getState()
          const record = state.records.get(mend.id)!
          const now = record.source ? shiftAt(record.source, area, state.tracks, frame) : null
          if (now)
            state.preview(
              setShift(record, area.id, state.tracks, frame, { ...now, dx: x - from.x, dy: y - from.y }),
            )
        }}
        onMagnify={() => undefined}
      />
    </g>
  )
}

/** A running stitch with nothing inside: two thin rows of light dashes, dark between and around them. */
export function Hollow({ d }: { d: string }) {
  return (
    <>
      <path d={d} stroke="#000" strokeOpacity={0.55} strokeWidth={4} />
      <path d={d} stroke="#ececec" strokeWidth={3} strokeDasharray="7 5" />
      <path d={d} stroke="#3a3a3a" strokeWidth={1.2} />
    </>
  )
}
