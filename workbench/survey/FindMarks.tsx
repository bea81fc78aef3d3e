/** Finds marked on the picture; a click selects one. */
import { placeOn, type Find } from '../../core/survey/finds'
import { useBench, useBenchParts } from '../BenchContext'
import type { OverlayProps } from '../picture/Picture'
import { toScreen, type View } from '../picture/view'
import { isOnFrame, nameOf } from './findWords'
import { useSurveyParts, type SurveyedFind } from './SurveyContext'

/** However small a find is, its mark can be seen and clicked. */
const SMALLEST_SCREEN_PX = 8

export function FindMarks({ width, height }: OverlayProps) {
  const { finds, selectedId } = useSurveyParts()
  const frame = useBench((bench) => bench.frame)
  const here = finds.filter(
    ({ find, state }) => isOnFrame(find, frame) && (state !== 'dismissed' || find.id === selectedId),
  )
  // The selected one lies on top.
  const order = [...here].sort((a, b) => Number(a.find.id === selectedId) - Number(b.find.id === selectedId))
  return (
    <svg
      width={width}
      height={height}
      className="pointer-events-none absolute inset-0 overflow-hidden"
      aria-label="Finds"
    >
      {order.map((one) => (
        <FindMark key={one.find.id} {...one} isSelected={one.find.id === selectedId} />
      ))}
    </svg>
  )
}

function FindMark({ find, number, state, isSelected }: SurveyedFind & { isSelected: boolean }) {
  const { view } = useBenchParts()
  const { select } = useSurveyParts()
  const frame = useBench((bench) => bench.frame)
  const colour = isSelected ? 'var(--color-thread)' : '#ececec'
  const { d, right, middle } = markOf(find, view, frame)
  return (
    <g>
      <path d={d} fill="none" stroke="#000" strokeOpacity={0.6} strokeWidth={isSelected ? 3.4 : 2.6} />
      {/* What is accepted is stitched, as mends are; what is not is dotted. */}
      <path
        d={d}
        fill="none"
        stroke={colour}
        strokeWidth={isSelected ? 2 : 1.4}
        strokeDasharray={state === 'accepted' ? '7 4' : '2 3.5'}
      />
      <text
        x={right + 4}
        y={middle + 4}
        fill={colour}
        stroke="#000"
        strokeOpacity={0.7}
        strokeWidth={2.5}
        paintOrder="stroke"
        className="font-mono text-xs"
      >
        {number}
      </text>
      <path
        d={d}
        fill="transparent"
        data-handle
        role="button"
        aria-label={`${number} ${nameOf(find)}`}
        className="pointer-events-auto cursor-pointer"
        onPointerUp={() => select(find.id)}
      />
    </g>
  )
}

function markOf(
  find: Find,
  view: View,
  frame: number,
): { readonly d: string; readonly right: number; readonly middle: number } {
  const place = placeOn(find, frame)
  const { xScreen: x, yScreen: y } = toScreen(view, place.x, place.y)
  if (find.kind === 'line') {
    const key = find.keys.reduce((best, one) =>
      Math.abs(one.frame - frame) < Math.abs(best.frame - frame) ? one : best,
    )
    const points = key.points.map((point) => toScreen(view, point.x, point.y))
    return {
      d: `M${points.map((point) => `${point.xScreen.toFixed(1)} ${point.yScreen.toFixed(1)}`).join('L')}`,
      right: x,
      middle: y,
    }
  }
  if (find.kind === 'specks') return marksOfSpecks(find, view, frame)
  const sized = (px: number) => Math.max(SMALLEST_SCREEN_PX, (px * view.scale) / 2 + 3)
  if (find.kind === 'mark') {
    const [w, h] = [sized(find.widthPx), sized(find.heightPx)]
    return { d: `M${x - w} ${y - h}h${2 * w}v${2 * h}h${-2 * w}Z`, right: x + w, middle: y }
  }
  const [rx, ry, turn] =
    find.kind === 'mote'
      ? [sized(2 * find.radiusXPx), sized(2 * find.radiusYPx), find.turnDeg]
      : [sized(find.widthPx), sized(find.heightPx), 0]
  const turned = (turn * Math.PI) / 180
  return {
    d: ellipseAt(x, y, rx, ry, turn),
    right: x + Math.hypot(rx * Math.cos(turned), ry * Math.sin(turned)),
    middle: y,
  }
}

function ellipseAt(x: number, y: number, rx: number, ry: number, turnDeg: number): string {
  const [c, s] = [Math.cos((turnDeg * Math.PI) / 180), Math.sin((turnDeg * Math.PI) / 180)]
  const arc = `${rx} ${ry} ${turnDeg} 1 0`
  return `M${x - rx * c} ${y - rx * s}A${arc} ${x + rx * c} ${y + rx * s}A${arc} ${x - rx * c} ${y - rx * s}Z`
}

/** All specks of a frame; the number stands beside the first of them. */
function marksOfSpecks({ specks }: Extract<Find, { kind: 'specks' }>, view: View, frame: number) {
  const here = specks.filter((speck) => speck.frame === frame)
  const sized = (px: number) => Math.max(SMALLEST_SCREEN_PX, (px * view.scale) / 2 + 3)
  const places = here.map(({ x, y }) => toScreen(view, x, y))
  const d = here
    .map(({ lengthPx, widthPx, turnDeg }, i) => {
      const { xScreen, yScreen } = places[i]!
      return ellipseAt(xScreen, yScreen, sized(lengthPx + widthPx), sized(widthPx), turnDeg)
    })
    .join('')
  const [first] = places
  const right = first ? first.xScreen + sized(here[0]!.lengthPx + here[0]!.widthPx) : 0
  return { d, right, middle: first?.yScreen ?? 0 }
}
