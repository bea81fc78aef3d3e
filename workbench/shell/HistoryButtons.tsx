import { Redo2, Undo2 } from 'lucide-react'
import { useBench, useBenchParts } from '../BenchContext'

/** Undo and redo, named after the step. */
export function HistoryButtons() {
  const { store } = useBenchParts()
  const stacks = useBench((bench) => bench.stacks)
  const { undo, redo } = store.getState()
  const [last, next] = [stacks.done.at(-1), stacks.undone.at(-1)]
  const button = 'rounded-sm bg-raised p-1.5 hover:bg-lifted disabled:opacity-40'
  return (
    <>
      <button
        type="button"
        className={button}
        disabled={!last}
        aria-label={last ? `Undo: ${last.edit.label}` : 'Nothing to undo'}
        title={last ? `Undo: ${last.edit.label}` : undefined}
        onClick={undo}
      >
        <Undo2 aria-hidden className="size-4" />
      </button>
      <button
        type="button"
        className={button}
        disabled={!next}
        aria-label={next ? `Redo: ${next.edit.label}` : 'Nothing to redo'}
        title={next ? `Redo: ${next.edit.label}` : undefined}
        onClick={redo}
      >
        <Redo2 aria-hidden className="size-4" />
      </button>
    </>
  )
}
