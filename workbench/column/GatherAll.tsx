/** Has workers gather all frames of a mend, so that they are there when they are looked at or rendered. */
import { useCallback, useState } from 'react'
import { toast } from 'sonner'
import type { NewsStep } from '../../core/jobs/news'
import type { GatherStatus } from '../../core/jobs/gather'
import type { MendRecord } from '../../core/document/mend'
import { useBenchParts } from '../BenchContext'
import { ProgressBar } from '../progress/ProgressBar'
import { progressOf, progressWords } from '../progress/progress'
import { useNewsOf } from '../useNewsOf'
import { SMALL_BUTTON } from './buttonStyles'

export function GatherAll({ mend }: { mend: MendRecord }) {
  const { shotId } = useBenchParts()
  const address = `/shots/${shotId}/gathers/${encodeURIComponent(mend.id)}`
  const [status, setStatus] = useState<GatherStatus | null>(null)
  const refetch = useCallback(() => {
    fetch(address)
      .then((response) => (response.ok ? (response.json() as Promise<GatherStatus>) : null))
      .then(setStatus)
      .catch((cause: Error) =>
        toast.warning(
          `How far gathering is could not be asked for: ${cause.message} It goes on all the same.`,
          { id: 'gather' },
        ),
      )
  }, [address])
  const onStep = useCallback(
    ({ part, done, total, seconds }: NewsStep) => {
      if (part === mend.id)
        setStatus({ state: 'working', framesDone: done, framesTotal: total, seconds, error: null })
    },
    [mend.id],
  )
  useNewsOf('gather', shotId, refetch, onStep)
  const ask = (method: 'POST' | 'DELETE') =>
    fetch(address, { method })
      .then((response) => {
        if (!response.ok) throw new Error(`The server said ${response.status}.`)
        refetch()
      })
      .catch((cause: Error) =>
        toast.error(`It could not be asked for: ${cause.message} Nothing has changed.`),
      )
  if (status?.state === 'waiting' || status?.state === 'working') {
    return (
      <div className="pt-1.5" data-testid="gather-all">
        <ProgressBar
          share={status.framesTotal ? status.framesDone / status.framesTotal : null}
          label="Frames gathered"
        />
        <div className="flex items-center justify-between gap-2 pt-1">
          <span className="font-mono text-xs text-soft" role="status">
            {status.state === 'waiting'
              ? 'waits for a worker'
              : progressWords(progressOf(status.framesDone, status.framesTotal, status.seconds))}
          </span>
          <button type="button" className={SMALL_BUTTON} onClick={() => void ask('DELETE')}>
            Cancel
          </button>
        </div>
      </div>
    )
  }
  return (
    <div className="flex flex-wrap items-center gap-x-2 gap-y-1 pt-1" data-testid="gather-all">
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

function endWords({ state, framesDone, framesTotal, error }: GatherStatus): string {
  if (state === 'failed') return error ?? ''
  if (state === 'done') return `All ${framesTotal} were gathered.`
  return state === 'cancelled' ? `Stopped; ${framesDone} of ${framesTotal} are kept.` : ''
}
