/** Says what a page from another machine lacks when it comes without TLS: shared memory is for secure contexts alone. */
import { useSyncExternalStore } from 'react'
import { create } from 'zustand'

const useIsClosed = create(() => false)
const never = () => () => undefined

export function PlainHttpNotice() {
  const lacks = useSyncExternalStore(never, () => !window.crossOriginIsolated, () => false) // prettier-ignore
  const isClosed = useIsClosed()
  if (!lacks || isClosed) return null
  return (
    <p
      role="status"
      className="fixed bottom-2 left-2 z-40 max-w-xl rounded-sm border border-line bg-raised p-3 shadow-xl"
    >
      This page comes from another machine over plain HTTP. Everything works, and is saved, but frames that
      are no longer wanted are worked out to their end, so that it answers more slowly. With TLS it does not:
      docs/security.md tells how.{' '}
      <button type="button" className="ml-1 underline" onClick={() => useIsClosed.setState(true, true)}>
        Close
      </button>
    </p>
  )
}
