/** The brush over the picture: its tip at its real size, where a clone takes from, and the stroke that is being painted. */
import { LAYS, steadied, tipWidthPx } from '../../core/document/brush'
import { useBench, useBenchParts } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'
import type { BrushTool } from '../tools/tool'
import { SourceGhost } from './SourceGhost'
import { toScreen } from './view'

export function BrushMarks({ tool }: { tool: BrushTool }) {
  const { view } = useBenchParts()
  const brush = useBench((bench) => bench.brush)
  const { points, pickedAt, isPicking, sizedAt } = tool
  const at = sizedAt ?? tool.at
  const radius = (brush.sizePx / 2) * view.scale
  const copies = LAYS[brush.lays].names.some((name) => name === 'offsetX')
  const from = points[0] ?? at
  const shift = pickedAt && from ? { x: pickedAt.x - from.x, y: pickedAt.y - from.y } : { x: brush.offsetX, y: brush.offsetY } // prettier-ignore
  const places = usePlacesToCome(points, brush.steadyPx).map((point) => ({
    ...toScreen(view, point.x, point.y),
    width: tipWidthPx(point, brush) * view.scale,
  }))
  return (
    <g aria-label="Brush" fill="none">
      <g opacity={0.35} data-testid="painting">
        {places.map(({ xScreen, yScreen, width }, i) => {
          const before = places[Math.max(0, i - 1)]!
          return (
            <line
              key={i}
              x1={before.xScreen}
              y1={before.yScreen}
              x2={xScreen}
              y2={yScreen}
              stroke="#ececec"
              strokeLinecap="round"
              strokeWidth={Math.max(1, width)}
            />
          )
        })}
      </g>
      {at && copies && !isPicking && !sizedAt && <SourceGhost at={at} shift={shift} radius={radius} />}
      {at && !isPicking && <Ring at={at} radius={radius} isSolid />}
      {sizedAt && <Ring at={sizedAt} radius={radius * (1 - brush.softness)} />}
      {at && copies && !isPicking && <Ring at={{ x: at.x + shift.x, y: at.y + shift.y }} radius={radius} />}
      {pickedAt && <Ring at={pickedAt} radius={4} isSolid />}
    </g>
  )
}

/** Of the stroke that is being painted what the picture does not show yet. */
function usePlacesToCome(points: BrushTool['points'], steadyPx: number): BrushTool['points'] {
  const wet = useBench((bench) => bench.wet)
  const isUnderWay = useShownFrame().progress !== null
  const shown = (isUnderWay ? wet?.shownPoints : wet?.points.length) ?? 0
  const isAllShown = shown > 0 && shown === points.length
  if (isAllShown) return []
  // The last that is shown leads on to the others.
  return steadied(points, steadyPx).slice(Math.max(0, steadied(points.slice(0, shown), steadyPx).length - 1))
}

/** Light on dark, so that it shows on any picture; dashed where nothing is laid down. */
function Ring({
  at,
  radius,
  isSolid = false,
}: {
  at: { x: number; y: number }
  radius: number
  isSolid?: boolean
}) {
  const { view } = useBenchParts()
  const { xScreen, yScreen } = toScreen(view, at.x, at.y)
  const dashes = isSolid ? undefined : '5 4'
  return (
    <>
      <circle cx={xScreen} cy={yScreen} r={radius} stroke="#121212" strokeWidth={3} strokeOpacity={0.6} />
      <circle
        cx={xScreen}
        cy={yScreen}
        r={radius}
        stroke="#ececec"
        strokeWidth={1.2}
        strokeDasharray={dashes}
      />
    </>
  )
}
