/** Frames that came damaged, as the import has found them. */
import { useBench } from '../BenchContext'
import { GUTTER_PX } from './StripFrame'

export function DamagedRow({ share }: { share: (frame: number) => string }) {
  const damaged = useBench((bench) => bench.plate.damagedFrames)
  if (!damaged || damaged.length === 0) return null
  return (
    <div className="relative h-4" data-testid="damaged-frames">
      <span className="absolute text-xs text-caution" style={{ left: -GUTTER_PX + 10 }}>
        {damaged.length} damaged
      </span>
      {damaged.map((frame) => (
        <span
          key={frame}
          className="absolute top-1 h-2 w-1 bg-caution"
          style={{ left: share(frame) }}
          title={`Frame ${frame} came damaged`}
        />
      ))}
    </div>
  )
}
