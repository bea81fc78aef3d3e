import type { Place } from '../../core/geometry/transform'
import { useBenchParts } from '../BenchContext'
import { toScreen, type PanelSize } from './view'

const GAP_PX = 6

/** Where the next point would be set by keyboard: lines across the panel, open around the place itself. */
export function CrossHairMarks({ at, panel }: { at: Place; panel: PanelSize }) {
  const { view } = useBenchParts()
  const { xScreen: x, yScreen: y } = toScreen(view, at.x, at.y)
  const d = `M0 ${y}H${x - GAP_PX}M${x + GAP_PX} ${y}H${panel.width}M${x} 0V${y - GAP_PX}M${x} ${y + GAP_PX}V${panel.height}`
  return (
    <svg
      className="pointer-events-none absolute inset-0"
      width={panel.width}
      height={panel.height}
      data-testid="cross-hair"
      aria-hidden
    >
      <path d={d} stroke="#000" strokeOpacity={0.6} strokeWidth={3} />
      <path d={d} stroke="#ececec" strokeWidth={1} />
    </svg>
  )
}
