/** Has workers gather all frames of a mend, so that they are there when they are looked at or rendered. */
import { useCallback, useState } from 'react'
import { toast } from 'sonner'
import type { GatherStatus } from '../../core/mend/gatherStatus'
import type { MendRecord } from '../../core/mend/schema'
import { useBenchParts } from '../BenchContext'
import { useNewsOf } from '../useNewsOf'
import { SMALL_BUTTON } from './looks'

export function GatherAll({ mend }: { mend: MendRecord }) {
  const { shotId } = useBenchParts()
  const address = `/shots/${shotId}/gathers/${encodeURIComponent(mend.id)}`
  const [status, setStatus] = useState<GatherStatus | null>(null)
  const look = useCallback(() => {
    fetch(address)
      .then((response) => (response.ok ? (response.json() as Promise<GatherStatus>) : null))
      .then(setStatus)
      .catch((cause: Error) =>
        toast.warning(`How far gathering is could not be asked for: ${cause.message} It goes on all the same.`, { id: 'gather' }),
      )
  }, [address])
  useNewsOf('gather', shotId, look)
  const ask = (method: 'POST' | 'DELETE') =>
    fetch(address, { method })
      .then((response) => {
        if (!response.ok) throw new Error(`The server said ${response.status}.`)
        look()
      })
      .catch((cause: Error) => toast.error(`It could not be asked for: ${cause.message} Nothing has changed.`))
  if (status?.state === 'waiting' || status?.state === 'working') {
    return (
      <div className="flex items-center gap-2 pt-1" data-testid="gather-all">
        <progress
          className="h-1.5 min-w-0 grow accent-thread"
          aria-label="Frames gathered"
          value={status.framesDone}
          max={Math.max(1, status.framesTotal)}
        />
        <span className="font-mono text-xs whitespace-nowrap text-soft" role="status">
          {progressWords(status)}
        </span>
        <button type="button" className={SMALL_BUTTON} onClick={() => void ask('DELETE')}>
          Cancel
        </button>
      </div>
    )
  }
  return (
    <div className="flex items-center gap-2 pt-1" data-testid="gather-all">
      <button
        type="button"
        className={SMALL_BUTTON}
        title="Workers gather every frame of this mend ahead; what is known is not gathered again."
        onClick={() => void ask('POST')}
      >
        Gather all frames
      </button>
      <span className={status?.state === 'failed' ? 'text-snag' : 'text-soft'} role="status">
        {status ? endWords(status) : ''}
      </span>
    </div>
  )
}

/** "12 of 48 · 1.3 frames/s · 28 s left". */
export function progressWords({ state, framesDone, framesTotal, framesPerSecond }: GatherStatus): string {
  if (state === 'waiting') return 'waits for a worker'
  const of = `${framesDone} of ${framesTotal}`
  if (framesPerSecond === null) return of
  return `${of} · ${framesPerSecond.toFixed(1)} frames/s · ${Math.ceil((framesTotal - framesDone) / framesPerSecond)} s left`
}

function endWords({ state, framesDone, framesTotal, error }: GatherStatus): string {
  if (state === 'failed') return error ?? ''
  if (state === 'done') return `All ${framesTotal} were gathered.`
  return state === 'cancelled' ? `Stopped; ${framesDone} of ${framesTotal} are kept.` : ''
}
