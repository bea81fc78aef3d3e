/** What lies over the picture: outlines of areas, handles of the selected one, tracks, what is being drawn. */
import { isPaintedAt, isStroke, type Area } from '../../core/document/areas'
import { isActiveAt, placeArea } from '../../core/plan/placedArea'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { chosenStrokes, selectedArea, selectedMend } from '../store/benchState'
import type { DrawTool } from '../tools/tool'
import { BrushMarks } from './BrushMarks'
import { AreaHandles } from './handles/AreaHandles'
import { Stitched } from './handles/Stitched'
import { outlinePath, polygonPath } from './pathOutline'
import type { OverlayProps } from './Picture'
import { SourceMarks } from './SourceMarks'
import { SpotMarks } from './SpotMarks'
import { StillMarks } from './StillMarks'
import { TrackMarks } from './TrackMarks'
import { toScreen } from './view'

export function Overlay({ width, height }: OverlayProps) {
  const records = useBench((bench) => bench.records)
  const frame = useBench((bench) => bench.frame)
  const selected = useBench(selectedMend)
  const area = useBench(selectedArea)
  const tool = useBench((bench) => bench.tool)
  const alsoStrokes = useBench((bench) => bench.alsoStrokes)
  const track = useBench((bench) => (bench.trackId === null ? undefined : bench.tracks.get(bench.trackId)))
  const found = useBench(({ foundSpots }) => (foundSpots?.frame === frame && foundSpots.mendId === selected?.id ? foundSpots : null)) // prettier-ignore
  const others = [...records.values()].filter((mend) => mend.id !== selected?.id && isActiveAt(mend, frame))
  const isIdle = tool.kind === 'idle'
  // Strokes are seen by what they lay down: their lines would hide it while the brush is in the hand.
  const isShown = (one: Area) => !isStroke(one) || (isIdle && isPaintedAt(one, frame))
  return (
    <svg
      width={width}
      height={height}
      className="pointer-events-none absolute inset-0 overflow-hidden"
      aria-label="Areas"
    >
      {others.flatMap((mend) =>
        mend.areas
          .filter(isShown)
          .map((one) => <QuietArea key={`${mend.id}/${one.id}`} mend={mend} area={one} />),
      )}
      {selected?.areas
        .filter((one) => one.id !== area?.id && isShown(one))
        .map((one) => (
          <QuietArea key={one.id} mend={selected} area={one} isOwn isChosen={alsoStrokes.has(one.id)} />
        ))}
      {selected && area && area.shape !== 'matte' && isIdle && (
        <AreaHandles
          key={`${selected.id}/${area.id}`}
          mend={selected}
          area={area}
          panel={{ width, height }}
        />
      )}
      {selected && area && isIdle && <SourceMarks mend={selected} area={area} />}
      {selected && area && isIdle && <StillMarks mend={selected} />}
      {found && isIdle && <SpotMarks found={found} />}
      {track && <TrackMarks track={track} />}
      {tool.kind === 'draw' && <Drawing tool={tool} />}
      {tool.kind === 'brush' && <BrushMarks tool={tool} />}
    </svg>
  )
}

/** An area that is not being edited: its outline, and a click selects it. */
function QuietArea({
  mend,
  area,
  isOwn = false,
  isChosen = false,
}: {
  mend: MendRecord
  area: Area
  isOwn?: boolean
  /** A stroke that is chosen along with others. */
  isChosen?: boolean
}) {
  const { store, view } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const placed = placeArea(area, tracks, frame).shape
  if (placed.shape === 'matte') return null
  const d =
    placed.shape === 'path' ? outlinePath(placed.points, view).centre : polygonPath(placed.polygon, view)
  return (
    <g>
      <Stitched
        d={isChosen && placed.shape === 'path' ? outlinePath(placed.points, view).edges : d}
        isStrong={isOwn}
        isHoldout={area.role === 'holdout'}
      />
      <path
        d={d}
        stroke="transparent"
        strokeWidth={12}
        fill="none"
        data-handle
        className="pointer-events-auto cursor-pointer"
        onPointerUp={(event) => {
          const { select, selectArea, toggleSelected, chooseStrokes } = store.getState()
          if (event.shiftKey && !isOwn) return toggleSelected(mend.id)
          if (event.shiftKey && isStroke(area)) {
            const chosen = chosenStrokes(mend, store.getState()).map(({ id }) => id)
            return chooseStrokes([area.id, ...chosen].filter((id) => !isChosen || id !== area.id))
          }
          if (!isOwn) select(mend.id)
          selectArea(area.id)
        }}
      />
    </g>
  )
}

function Drawing({ tool }: { tool: DrawTool }) {
  const { view } = useBenchParts()
  const { places, at, shape } = tool
  const all = at && places.length > 0 ? [...places, at] : places
  if (all.length === 0) return null
  const pair = ({ x, y }: { x: number; y: number }) => {
    const { xScreen, yScreen } = toScreen(view, x, y)
    return `${xScreen} ${yScreen}`
  }
  const [a, b] = [all[0]!, all.at(-1)!]
  const d =
    shape === 'box'
      ? `M${pair(a)}L${pair({ x: b.x, y: a.y })}L${pair(b)}L${pair({ x: a.x, y: b.y })}Z`
      : shape === 'ellipse'
        ? ellipsePath(view, a, b)
        : `M${all.map(pair).join('L')}${shape === 'outline' && all.length > 2 ? 'Z' : ''}`
  return (
    <g>
      <Stitched d={d} isStrong />
      {places.map((place, index) => {
        const { xScreen, yScreen } = toScreen(view, place.x, place.y)
        return (
          <circle
            key={index}
            cx={xScreen}
            cy={yScreen}
            r={4}
            fill="none"
            stroke="#ececec"
            strokeWidth={1.5}
          />
        )
      })}
    </g>
  )
}

function ellipsePath(
  view: Parameters<typeof toScreen>[0],
  a: { x: number; y: number },
  b: { x: number; y: number },
): string {
  const [rx, ry] = [Math.abs(b.x - a.x) * view.scale, Math.abs(b.y - a.y) * view.scale]
  const { xScreen, yScreen } = toScreen(view, a.x, a.y)
  return `M${xScreen - rx} ${yScreen}a${rx} ${ry} 0 1 0 ${2 * rx} 0a${rx} ${ry} 0 1 0 ${-2 * rx} 0Z`
}
