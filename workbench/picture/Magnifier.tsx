import { useLayoutEffect, useRef } from 'react'
import { useBench, useBenchParts } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'
import { drawPlate } from './drawPlate'
import { toScreen, type PanelSize } from './view'

const SIDE_PX = 132
const MAGNIFY = 4
const ASIDE_PX = 24

/** Four screen px for each picture px around a place, next to it while it is being set. */
export function Magnifier({ at, panel }: { at: { x: number; y: number }; panel: PanelSize }) {
  const { view } = useBenchParts()
  const { plate } = useShownFrame()
  const size = useBench((bench) => bench.plate)
  const canvas = useRef<HTMLCanvasElement>(null)
  useLayoutEffect(() => {
    const context = canvas.current?.getContext('2d', { alpha: false })
    if (!context || !plate) return
    context.fillStyle = '#3a3a3a'
    context.fillRect(0, 0, SIDE_PX, SIDE_PX)
    context.imageSmoothingEnabled = false
    context.setTransform(MAGNIFY, 0, 0, MAGNIFY, SIDE_PX / 2 - at.x * MAGNIFY, SIDE_PX / 2 - at.y * MAGNIFY)
    drawPlate(context, plate, size)
    context.setTransform(1, 0, 0, 1, 0, 0)
  }, [at, plate, size])
  const { xScreen, yScreen } = toScreen(view, at.x, at.y)
  const left = xScreen + ASIDE_PX + SIDE_PX > panel.width ? xScreen - ASIDE_PX - SIDE_PX : xScreen + ASIDE_PX
  const top = Math.min(Math.max(yScreen - SIDE_PX / 2, 4), panel.height - SIDE_PX - 4)
  return (
    <div
      className="pointer-events-none absolute border border-ink bg-panel"
      style={{ left, top, width: SIDE_PX, height: SIDE_PX }}
      aria-hidden
    >
      <canvas ref={canvas} width={SIDE_PX} height={SIDE_PX} />
      <svg className="absolute inset-0" width={SIDE_PX} height={SIDE_PX}>
        <circle cx={SIDE_PX / 2} cy={SIDE_PX / 2} r={7} fill="none" stroke="#000" strokeWidth={3} />
        <circle cx={SIDE_PX / 2} cy={SIDE_PX / 2} r={7} fill="none" stroke="#ececec" strokeWidth={1.2} />
      </svg>
      <span className="absolute right-1 bottom-0 font-mono text-xs text-ink [text-shadow:0_0_3px_#000]">
        {MAGNIFY}×
      </span>
    </div>
  )
}
