/** Over the picture: the line of a wipe with its two grips, and which side is which. */
import { useState, type KeyboardEvent, type PointerEvent } from 'react'
import { useBench, useBenchParts } from '../BenchContext'
import { useOtherFrame } from './useOtherSide'
import type { OverlayProps } from '../picture/Picture'
import { toPicture, toScreen } from '../picture/view'

/** From the line's grip to the one that turns it, px of the screen. */
const ARM_PX = 70
const STEP = { plain: 1, coarse: 10 } as const

export function CompareMarks({ width, height }: OverlayProps) {
  const mode = useBench((bench) => bench.compare.mode)
  const { title } = useBenchParts().other
  const isComing = useOtherFrame() === undefined
  const words = isComing ? `${title}: being worked out` : title
  if (mode === 'wipe')
    return (
      <>
        <WipeLine width={width} height={height} />
        {isComing && <Side words={words} className="left-3" />}
      </>
    )
  if (mode === 'flip' || mode === 'difference')
    return isComing ? <Side words={words} className="left-3" /> : null
  if (mode !== 'beside') return null
  return (
    <>
      <span aria-hidden className="absolute inset-y-0 left-1/2 w-px bg-[#ececec]/50" />
      <Side words={words} className="left-3" />
      <Side words="Result" className="right-3" />
    </>
  )
}

const Side = ({ words, className }: { words: string; className: string }) => (
  <span className={`absolute top-3 rounded-sm bg-panel/90 px-2 py-0.5 text-soft ${className}`}>{words}</span>
)

function WipeLine({ width, height }: OverlayProps) {
  const { store, view } = useBenchParts()
  const { wipeX, wipeY, turnDeg } = useBench((bench) => bench.compare)
  const plate = useBench((bench) => bench.plate)
  const { setCompare } = store.getState()
  const { xScreen, yScreen } = toScreen(view, wipeX * plate.width, wipeY * plate.height)
  const angle = (turnDeg * Math.PI) / 180
  const [alongX, alongY] = [-Math.sin(angle), Math.cos(angle)]
  const far = 2 * (width + height)
  const moveTo = (x: number, y: number) => {
    const at = toPicture(view, x, y)
    setCompare({ wipeX: within(at.x / plate.width), wipeY: within(at.y / plate.height) })
  }
  const turnTo = (x: number, y: number) =>
    setCompare({ turnDeg: Math.round((Math.atan2(-(x - xScreen), y - yScreen) * 180) / Math.PI) })
  return (
    <svg
      width={width}
      height={height}
      className="pointer-events-none absolute inset-0 overflow-hidden"
      aria-label="Wipe"
    >
      <line
        x1={xScreen - far * alongX}
        y1={yScreen - far * alongY}
        x2={xScreen + far * alongX}
        y2={yScreen + far * alongY}
        stroke="#ececec"
        strokeOpacity={0.8}
        strokeWidth={1}
      />
      <Grip
        label="Line of the wipe"
        value={`${Math.round(100 * wipeX)} % from the left, ${Math.round(100 * wipeY)} % from the top`}
        now={Math.round(100 * wipeX)}
        x={xScreen}
        y={yScreen}
        radius={9}
        onDrag={moveTo}
        onStep={(dx, dy) => setCompare({ wipeX: within(wipeX + dx / 100), wipeY: within(wipeY + dy / 100) })}
      />
      <Grip
        label="Turn of the wipe"
        value={`${turnDeg} degrees`}
        now={turnDeg}
        x={xScreen + ARM_PX * alongX}
        y={yScreen + ARM_PX * alongY}
        radius={6}
        onDrag={turnTo}
        onStep={(dx, dy) => setCompare({ turnDeg: turned(turnDeg + dx + dy) })}
      />
    </svg>
  )
}

const within = (share: number): number => Math.min(1, Math.max(0, share))
const turned = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180

const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

/** Dragged, or moved with the arrows (Shift ten steps). */
function Grip({
  label,
  value,
  now,
  x,
  y,
  radius,
  onDrag,
  onStep,
}: {
  label: string
  value: string
  now: number
  x: number
  y: number
  radius: number
  onDrag: (x: number, y: number) => void
  onStep: (dx: number, dy: number) => void
}) {
  const [isGrabbed, setGrabbed] = useState(false)
  const at = (event: PointerEvent<SVGCircleElement>): [number, number] => {
    const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const arrow = ARROWS[event.key]
    if (!arrow) return
    event.preventDefault()
    event.stopPropagation()
    const step = event.shiftKey ? STEP.coarse : STEP.plain
    onStep(step * arrow[0], step * arrow[1])
  }
  return (
    <circle
      cx={x}
      cy={y}
      r={radius}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={now}
      aria-valuetext={value}
      data-handle
      className="pointer-events-auto cursor-move outline-none focus-visible:stroke-thread"
      fill="#121212"
      fillOpacity={0.5}
      stroke="#ececec"
      strokeWidth={2}
      onKeyDown={onKeyDown}
      onPointerDown={(event) => {
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
        setGrabbed(true)
      }}
      onPointerMove={(event) => isGrabbed && onDrag(...at(event))}
      onPointerUp={() => setGrabbed(false)}
      onPointerCancel={() => setGrabbed(false)}
    />
  )
}
