/** The survey of a shot as the page sees it: what it brought, and again whenever the server has news; scanning and dismissing. */
import { useCallback, useMemo, useState } from 'react'
import { toast } from 'sonner'
import type { NewsStep } from '../../core/jobs/news'
import type { SurveyStatus } from '../../core/jobs/survey'
import { useNewsOf } from '../useNewsOf'

export interface SurveyActions {
  scan(): void
  cancel(): void
  dismiss(ids: readonly string[], isDismissed: boolean): void
}

/** @param onFinished  Told when a scan has ended. */
export function useSurvey(
  shotId: string,
  start: SurveyStatus,
  onFinished: () => void,
): readonly [SurveyStatus, SurveyActions] {
  const [status, setStatus] = useState(start)
  const address = `/shots/${shotId}/survey/state`
  const refetch = useCallback(() => {
    fetch(address)
      .then((response) => (response.ok ? (response.json() as Promise<SurveyStatus>) : null))
      .then((next) => {
        if (!next) return
        setStatus((now) => {
          if (next.state === 'done' && now.state !== 'done') onFinished()
          return next
        })
      })
      .catch((cause: Error) =>
        toast.warning(
          `How far the scan is could not be asked for: ${cause.message} It goes on all the same.`,
          { id: 'survey' },
        ),
      )
  }, [address, onFinished])
  const onStep = useCallback(
    ({ done, total, seconds }: NewsStep) =>
      setStatus((now) => ({ ...now, state: 'working', framesDone: done, framesTotal: total, seconds })),
    [],
  )
  useNewsOf('survey', shotId, refetch, onStep)
  const actions = useMemo<SurveyActions>(() => {
    const ask = (method: 'POST' | 'DELETE' | 'PATCH', body?: object) =>
      fetch(address, {
        method,
        ...(body ? { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } } : {}),
      })
        .then((response) => {
          if (!response.ok) throw new Error(`The server said ${response.status}.`)
          refetch()
        })
        .catch((cause: Error) => {
          toast.error(`It could not be asked for: ${cause.message} Nothing has changed.`)
          refetch()
        })
    return {
      scan: () => void ask('POST'),
      cancel: () => void ask('DELETE'),
      dismiss(ids, isDismissed) {
        if (ids.length === 0) return
        // Shown at once; the server's answer follows.
        const known = new Set(ids)
        setStatus((now) => ({
          ...now,
          finds: now.finds.map((one) => (known.has(one.find.id) ? { ...one, isDismissed } : one)),
        }))
        void ask('PATCH', { ids, isDismissed })
      },
    }
  }, [address, refetch])
  return [status, actions]
}
