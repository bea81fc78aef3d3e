/** How sure the selected track is on every frame; below the line it is worth a look. */
import { Area, AreaChart, ReferenceLine, ResponsiveContainer, YAxis } from 'recharts'
import { trackSureAt, UNSURE_BELOW, type Track } from '../../core/document/tracks'
import { useBench } from '../BenchContext'

export function SureChart({
  track,
  firstFrame,
  lastFrame,
}: {
  track: Track
  firstFrame: number
  lastFrame: number
}) {
  const live = useBench((bench) => (bench.following?.trackId === track.id ? bench.following.live : null))
  const seen = new Map(live?.map((one) => [one.frame, one.sure]))
  const points = Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => ({
    sure: seen.get(firstFrame + i) ?? trackSureAt(track, firstFrame + i),
  }))
  const unsure = points.filter((point) => point.sure < UNSURE_BELOW).length
  return (
    <figure
      className="h-9"
      aria-label={`How sure ${track.name} is: ${unsure === 0 ? 'sure on every frame' : `unsure on ${unsure} frames`}`}
    >
      <ResponsiveContainer width="100%" height="100%">
        <AreaChart data={points} margin={{ top: 3, right: 0, bottom: 1, left: 0 }}>
          <YAxis hide domain={[0, 1]} />
          <Area
            dataKey="sure"
            type="step"
            stroke="var(--color-thread)"
            strokeWidth={1.2}
            fill="var(--color-thread)"
            fillOpacity={0.18}
            isAnimationActive={false}
          />
          <ReferenceLine y={UNSURE_BELOW} stroke="var(--color-caution)" strokeDasharray="2 3" />
        </AreaChart>
      </ResponsiveContainer>
    </figure>
  )
}
