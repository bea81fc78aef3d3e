/** Over the picture: where the selected snag is, and the notes that have a place on this frame. */
import { useBench, useBenchParts } from '../BenchContext'
import type { OverlayProps } from '../picture/Picture'
import { toScreen } from '../picture/view'
import { useProofParts } from './ProofContext'

const SPOT_PX = 9
const LEAST_SCREEN_PX = 10

export function ProofMarks({ width, height }: OverlayProps) {
  const { view } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const { selected, notes } = useProofParts()
  const here = notes.filter(
    ({ firstFrame, lastFrame, x }) => x !== null && firstFrame <= frame && frame <= lastFrame,
  )
  const ring = selected?.frame === frame ? toScreen(view, selected.x, selected.y) : null
  const radius = Math.max(LEAST_SCREEN_PX, SPOT_PX * view.scale)
  return (
    <svg
      width={width}
      height={height}
      className="pointer-events-none absolute inset-0 overflow-hidden"
      aria-label="Snags and notes"
    >
      {ring && (
        <g fill="none" data-testid="snag-ring">
          <circle
            cx={ring.xScreen}
            cy={ring.yScreen}
            r={radius}
            stroke="#000"
            strokeOpacity={0.6}
            strokeWidth={4}
          />
          <circle
            cx={ring.xScreen}
            cy={ring.yScreen}
            r={radius}
            stroke="var(--color-snag)"
            strokeWidth={2}
            strokeDasharray="6 3"
          />
        </g>
      )}
      {here.map((note) => {
        const at = toScreen(view, note.x!, note.y!)
        return (
          <g key={note.id} data-testid="note-pin">
            <path d={`M${at.xScreen} ${at.yScreen}l0-16`} stroke="#000" strokeOpacity={0.6} strokeWidth={4} />
            <path d={`M${at.xScreen} ${at.yScreen}l0-16`} stroke="#ececec" strokeWidth={2} />
            <rect
              x={at.xScreen}
              y={at.yScreen - 24}
              width={14}
              height={10}
              rx={2}
              fill={note.resolvedBy === null ? '#ececec' : '#777'}
              stroke="#000"
              strokeOpacity={0.6}
            />{' '}
            {/* prettier-ignore */}
          </g>
        )
      })}
    </svg>
  )
}
