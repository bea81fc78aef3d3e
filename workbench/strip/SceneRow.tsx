/** How sure the background's motion is, along the frames: a line in the strip. */
import { sceneSureAt } from '../../core/scene/scene'
import { useBenchParts } from '../BenchContext'

export function SceneRow({
  firstFrame,
  lastFrame,
  gutterPx,
}: {
  firstFrame: number
  lastFrame: number
  gutterPx: number
}) {
  const { scene } = useBenchParts()
  const known = scene.scene
  if (!known) return null
  const count = lastFrame - firstFrame + 1
  const points = Array.from(
    { length: count },
    (_, i) => `${i + 0.5},${(1 - sceneSureAt(known, firstFrame + i)).toFixed(3)}`,
  ).join(' ')
  const least = Math.min(...known.layers[0]!.sure)
  return (
    <div
      className="relative"
      data-testid="scene-row"
      title={`Scene motion: at least ${Math.round(least * 100)} % sure`}
    >
      <span className="absolute text-xs text-soft" style={{ left: -gutterPx + 10 }}>
        Scene
      </span>
      <svg className="h-4 w-full" preserveAspectRatio="none" viewBox={`0 -0.1 ${count} 1.2`} aria-hidden>
        <polyline
          points={points}
          fill="none"
          stroke="var(--color-soft)"
          strokeWidth={1.5}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
    </div>
  )
}
