/** Where the selected mend copies from: the corners of the area's box there, with the mend's number; its middle is dragged. */
import { setShift } from '../../core/document/sourceCommands'
import { findFill } from '../../core/fill/registry'
import { apply, type Place } from '../../core/geometry/transform'
import type { Area } from '../../core/document/areas'
import { middleOfShape, placeArea, type PlacedShape } from '../../core/plan/placedArea'
import type { MendRecord } from '../../core/document/mend'
import { shiftAt, sourceFromTarget } from '../../core/document/sourceKeys'
import { useBench, useBenchParts } from '../BenchContext'
import { Handle } from './handles/Handle'
import { toScreen } from './view'

export function SourceMarks({ mend, area }: { mend: MendRecord; area: Area }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const method = findFill(mend.fill.methodId)
  if (!mend.source || area.shape === 'matte' || !method?.needsSource?.(method.params.parse(mend.fill.params)))
    return null
  const placed = placeArea(area, tracks, frame).shape
  if (placed.shape === 'matte') return null
  const m = sourceFromTarget(mend.source, area, tracks, frame)
  const from = middleOfShape(placed)
  const to = apply(m, from.x, from.y)
  const { dx, dy } = shiftAt(mend.source, area, tracks, frame)
  const hasKey = mend.source.keys.some((key) => key.frame === frame)
  return (
    <g>
      <CornerTicks corners={cornersOf(placed).map(({ x, y }) => apply(m, x, y))} number={numberOf(mend)} />
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

const TICK_PX = 11

/** A short angle at each corner, so that nothing of the place itself is covered; and which mend's it is. */
function CornerTicks({ corners, number }: { corners: readonly Place[]; number: string }) {
  const { view } = useBenchParts()
  const at = corners.map(({ x, y }) => toScreen(view, x, y))
  const towards = (from: number, to: number) => {
    const [dx, dy] = [at[to]!.xScreen - at[from]!.xScreen, at[to]!.yScreen - at[from]!.yScreen]
    const share = Math.min(0.4, TICK_PX / (Math.hypot(dx, dy) || 1))
    return `${at[from]!.xScreen + share * dx} ${at[from]!.yScreen + share * dy}`
  }
  const d = at
    .map(
      ({ xScreen, yScreen }, i) =>
        `M${towards(i, (i + 3) % 4)}L${xScreen} ${yScreen}L${towards(i, (i + 1) % 4)}`,
    )
    .join('')
  return (
    <g className="pointer-events-none">
      <path d={d} fill="none" stroke="#000" strokeOpacity={0.6} strokeWidth={4.5} />
      <path d={d} fill="none" stroke="#ececec" strokeWidth={2} data-testid="source-corners" />
      <text
        x={at[0]!.xScreen + 6}
        y={at[0]!.yScreen + 15}
        className="font-mono text-xs"
        fill="#ececec"
        stroke="#000"
        strokeWidth={3}
        paintOrder="stroke"
      >
        {number}
      </text>
    </g>
  )
}

/** The number that a mend's name ends with; its place in the stack where it was given another name. */
const numberOf = ({ name, stackIndex }: MendRecord): string => /\d+$/.exec(name)?.[0] ?? String(stackIndex)

/** The four corners of the box around a shape, clockwise from the upper left. */
function cornersOf(placed: Exclude<PlacedShape, { shape: 'matte' }>): Place[] {
  const numbers = placed.shape === 'path' ? placed.points.flatMap(({ x, y }) => [x, y]) : placed.polygon
  const [xs, ys] = [numbers.filter((_, i) => i % 2 === 0), numbers.filter((_, i) => i % 2 === 1)]
  const halfPx = placed.shape === 'path' ? Math.max(...placed.points.map(({ widthPx }) => widthPx)) / 2 : 0
  const [left, right] = [Math.min(...xs) - halfPx, Math.max(...xs) + halfPx]
  const [top, bottom] = [Math.min(...ys) - halfPx, Math.max(...ys) + halfPx]
  return [
    { x: left, y: top },
    { x: right, y: top },
    { x: right, y: bottom },
    { x: left, y: bottom },
  ]
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
