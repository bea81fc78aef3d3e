/** The proof and the notes of a shot as the page sees them: what it brought, and again whenever the server has news. */
import { useCallback, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import type { NewsStep } from '../../core/jobs/news'
import type { Note } from '../../core/proof/notes'
import type { ProofStatus } from '../../core/proof/proofStatus'
import { useNewsOf } from '../useNewsOf'

const NOTHING = () => undefined

function addressOf(shotId: string, versionId: string | null, mendId: string | null): string {
  const search = new URLSearchParams()
  if (versionId) search.set('version', versionId)
  if (mendId) search.set('mend', mendId)
  return `/shots/${shotId}/proof/state?${search.toString()}`
}

export interface ProofActions {
  measure(): void
  cancel(): void
}

export function useProof(
  shotId: string,
  versionId: string | null,
  mendId: string | null,
  start: ProofStatus,
): readonly [ProofStatus, ProofActions] {
  const [status, setStatus] = useState(start)
  const address = addressOf(shotId, versionId, mendId)
  const latest = useRef(address)
  const refetch = useCallback(() => {
    latest.current = address
    fetch(address)
      .then((response) => (response.ok ? (response.json() as Promise<ProofStatus>) : null))
      // What was asked for before another mend was chosen comes too late.
      .then((next) => next && latest.current === address && setStatus(next))
      .catch((cause: Error) =>
        toast.warning(`The proof could not be asked for: ${cause.message} What is shown stays.`, {
          id: 'proof',
        }),
      )
  }, [address])
  const isFirst = useRef(true)
  useEffect(() => {
    if (!isFirst.current) refetch()
    isFirst.current = false
  }, [refetch])
  const onStep = useCallback(
    ({ part, done, total, seconds }: NewsStep) => {
      if (part === versionId)
        setStatus((now) => ({ ...now, state: 'working', framesDone: done, framesTotal: total, seconds }))
    },
    [versionId],
  )
  useNewsOf('proof', shotId, refetch, onStep)
  const ask = (method: 'POST' | 'DELETE') =>
    void fetch(addressOf(shotId, versionId, null), { method })
      .then((response) => {
        if (!response.ok) throw new Error(`The server said ${response.status}.`)
        refetch()
      })
      .catch((cause: Error) =>
        toast.error(`It could not be asked for: ${cause.message} Nothing has changed.`),
      )
  return [status, { measure: () => ask('POST'), cancel: () => ask('DELETE') }]
}

export function useNotes(shotId: string, start: readonly Note[]): readonly [readonly Note[], () => void] {
  const [notes, setNotes] = useState(start)
  const refetch = useCallback(() => {
    fetch(`/shots/${shotId}/notes`)
      .then((response) => (response.ok ? (response.json() as Promise<Note[]>) : null))
      .then((next) => next && setNotes(next))
      .catch((cause: Error) =>
        toast.warning(`The notes could not be asked for: ${cause.message} Those shown may be old.`, {
          id: 'notes',
        }),
      )
  }, [shotId])
  useNewsOf('note', shotId, refetch, NOTHING)
  return [notes, refetch]
}
