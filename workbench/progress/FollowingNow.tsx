/** What is followed or looked at just now. */
import { Square } from 'lucide-react'
import { useBench } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'

/** How far it has got, how fast, how long still; and stop, which keeps what is good. */
export function FollowingNow() {
  const following = useBench((bench) => bench.following)
  if (!following) return null
  const seconds = (performance.now() - following.begunMs) / 1000
  const rate = following.done / Math.max(seconds, 0.05)
  const left = rate > 0 ? Math.ceil((following.total - following.done) / rate) : null
  return (
    <p className="flex w-full items-center gap-2" role="status" data-testid="following">
      <span className="min-w-0 grow truncate font-mono text-soft" title={following.words}>
        {following.done}/{following.total} · {rate.toFixed(0)} fps{left === null ? '' : ` · ${left} s`}
      </span>
      <button type="button" className={SMALL_BUTTON} onClick={following.stop}>
        <Square aria-hidden className="mr-1 inline size-3" />
        Stop
      </button>
    </p>
  )
}
