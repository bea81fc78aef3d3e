/** All steps in words, the latest first; a click goes back, or on, to one. */
import { Popover } from 'radix-ui'
import { History } from 'lucide-react'
import { useBench, useBenchParts } from '../BenchContext'

const MAX_SHOWN = 200

export function HistoryList() {
  const { store } = useBenchParts()
  const { done, undone } = useBench((bench) => bench.stacks)
  const hasEarlierSteps = useBench((bench) => bench.hasEarlierSteps)
  const step = (times: number, act: 'undo' | 'redo') => {
    for (let i = 0; i < times; i++) store.getState()[act]()
  }
  return (
    <Popover.Root>
      <Popover.Trigger
        className="rounded-sm bg-raised p-1.5 hover:bg-lifted"
        aria-label="History"
        title="History"
      >
        <History aria-hidden className="size-4" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="History"
          className="z-20 max-h-96 w-72 overflow-y-auto rounded-sm border border-line bg-raised p-1 shadow-xl"
        >
          {done.length + undone.length === 0 && (
            <p className="px-2 py-1 text-soft">Nothing has been done yet.</p>
          )}
          <ol>
            {undone.slice(-MAX_SHOWN).map(({ id, edit }, index, all) => (
              <li key={id}>
                <button
                  type="button"
                  className="w-full rounded-xs px-2 py-0.5 text-left text-soft italic hover:bg-lifted"
                  onClick={() => step(all.length - index, 'redo')}
                >
                  {edit.label}
                </button>
              </li>
            ))}
            {[...done]
              .reverse()
              .slice(0, MAX_SHOWN)
              .map(({ id, edit }, index) => (
                <li key={id}>
                  <button
                    type="button"
                    aria-current={index === 0 ? 'step' : undefined}
                    className={`w-full rounded-xs px-2 py-0.5 text-left hover:bg-lifted ${index === 0 ? 'text-thread' : ''}`}
                    onClick={() => step(index, 'undo')}
                  >
                    {edit.label}
                  </button>
                </li>
              ))}
          </ol>
          {hasEarlierSteps && (
            <p className="px-2 py-1 text-soft">
              Steps before these are stored; there are too many to take them back from here.
            </p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
