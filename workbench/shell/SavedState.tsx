import { useBench } from '../BenchContext'

const SAVED_WORDS = { saved: 'Saved', saving: 'Saving…', offline: 'Not saved yet' } as const

/** Whether all edits have reached the server. */
export function SavedState() {
  const state = useBench((bench) => bench.saveState)
  return (
    <span
      role="status"
      data-testid="saved"
      className={`w-24 text-right ${state === 'offline' ? 'text-caution' : 'text-soft'}`}
      title={
        state === 'offline'
          ? 'The server does not answer. The edits are kept here and sent again by themselves.'
          : undefined
      }
    >
      {SAVED_WORDS[state]}
    </span>
  )
}
