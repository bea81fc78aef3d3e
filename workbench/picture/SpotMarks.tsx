/** Spots that were found, over the picture: a ring round each; a click leaves one out, and takes it in again. */
import type { FoundSpots } from '../store/benchState'
import { useBenchParts } from '../BenchContext'
import { toScreen } from './view'

const BESIDE_SCREEN_PX = 5

export function SpotMarks({ found }: { found: FoundSpots }) {
  const { store, view } = useBenchParts()
  const toggle = (index: number) => {
    const { spots } = found
    const spot = spots[index]!
    store.getState().setFoundSpots({ ...found, spots: spots.with(index, { ...spot, isLeft: !spot.isLeft }) })
  }
  return found.spots.map(({ x, y, radiusPx, isDarker, isLeft }, index) => {
    const { xScreen, yScreen } = toScreen(view, x, y)
    const r = 1.4 * radiusPx * view.scale + BESIDE_SCREEN_PX
    const words = `Spot ${index + 1}, ${isDarker ? 'darker' : 'lighter'}, ${isLeft ? 'left out' : 'to be mended'}`
    return (
      <g
        key={index}
        role="checkbox"
        aria-checked={!isLeft}
        aria-label={words}
        tabIndex={0}
        data-handle
        className="pointer-events-auto cursor-pointer"
        onPointerUp={() => toggle(index)}
        onKeyDown={(event) => {
          if (event.key !== ' ' && event.key !== 'Enter') return
          event.preventDefault()
          event.stopPropagation()
          toggle(index)
        }}
      >
        <title>{words}</title>
        <circle
          cx={xScreen}
          cy={yScreen}
          r={r}
          fill="transparent"
          stroke="#000"
          strokeOpacity={0.6}
          strokeWidth={3}
        />
        <circle
          cx={xScreen}
          cy={yScreen}
          r={r}
          fill="none"
          stroke={isLeft ? '#b4b4b4' : '#ececec'}
          strokeWidth={1.5}
          strokeDasharray={isLeft ? '2 4' : undefined}
        />
        {!isLeft && <path d={`M${xScreen + r} ${yScreen}l5 0`} stroke="#ececec" strokeWidth={1.5} />}
      </g>
    )
  })
}
