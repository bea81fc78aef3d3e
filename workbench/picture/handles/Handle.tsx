import { useState } from 'react'
import { useBenchParts } from '../../BenchContext'
import { toPicture, toScreen } from '../view'

const NUDGE_PX = { plain: 1, coarse: 10, fine: 0.1 } as const
const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

export interface HandleProps {
  readonly x: number
  readonly y: number
  readonly label: string
  readonly caption: string
  readonly isKeyed: boolean
  readonly isSmall?: boolean
  onMove(x: number, y: number): void
  onMagnify(at: { x: number; y: number } | null): void
  /** The step of a drag or a nudge is kept. */
  onEnd?(): void
  onDelete?(): void
  /** Enter on the handle, or a double click. */
  onToggle?(): void
  onFocus?(): void
}

/** A small ring with a hole, so that the pixel under it is seen. Dragged, or nudged with the arrows. */
export function Handle({
  x,
  y,
  label,
  caption,
  isKeyed,
  isSmall = false,
  onMove,
  onMagnify,
  onEnd,
  onDelete,
  onToggle,
  onFocus,
}: HandleProps) {
  const { store, view } = useBenchParts()
  const [grab, setGrab] = useState<{ dx: number; dy: number } | null>(null)
  const [isFocused, setFocused] = useState(false)
  const { xScreen, yScreen } = toScreen(view, x, y)
  const radius = isSmall ? 5 : 8
  const at = (event: React.PointerEvent<SVGGElement>) => {
    const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect()
    return toPicture(view, event.clientX - box.left, event.clientY - box.top)
  }
  const letGo = () => {
    setGrab(null)
    onMagnify(null)
  }
  const end = () => {
    const isMoved = store.getState().gesture !== null
    store.getState().endGesture()
    if (isMoved) onEnd?.()
  }
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={label}
      data-handle
      className="pointer-events-auto cursor-move outline-none"
      onFocus={() => {
        setFocused(true)
        onFocus?.()
      }}
      onBlur={() => {
        setFocused(false)
        store.getState().endGesture()
      }}
      onDoubleClick={onToggle}
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
        letGo()
        end()
      }}
      onPointerCancel={() => {
        letGo()
        store.getState().cancelGesture()
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape' && grab) {
          letGo()
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
        if (event.key === 'Enter' && onToggle) {
          event.preventDefault()
          event.stopPropagation()
          onToggle()
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
        if (ARROWS[event.key]) end()
      }}
    >
      <circle cx={xScreen} cy={yScreen} r={radius + 6} fill="transparent" />
      <circle
        cx={xScreen}
        cy={yScreen}
        r={radius}
        fill="none"
        stroke="#000"
        strokeWidth={4}
        strokeOpacity={0.8}
      />
      <circle
        cx={xScreen}
        cy={yScreen}
        r={radius}
        fill="none"
        stroke={isKeyed ? '#56bfa9' : '#ececec'}
        strokeWidth={2}
      />
      {isFocused && (
        <circle
          cx={xScreen}
          cy={yScreen}
          r={radius + 5}
          fill="none"
          stroke="#ececec"
          strokeWidth={1.5}
          strokeDasharray="3 3"
        />
      )}
      {(isFocused || grab) && (
        <text
          x={xScreen + 18}
          y={yScreen + 4}
          className="font-mono text-xs"
          fill="#ececec"
          stroke="#000"
          strokeWidth={3}
          paintOrder="stroke"
        >
          {caption}
        </text>
      )}
    </g>
  )
}
