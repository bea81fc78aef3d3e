/** The keys of where a mend copies from: pins with a hollow square head, below those of the area. */
import { removeSourceKeys } from '../../core/document/sourceCommands'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'

export function SourcePins({ mend, share }: { mend: MendRecord; share: (frame: number) => string }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  if (!mend.source || mend.source.keys.length < 2) return null
  const { goTo, commit } = store.getState()
  return (
    <div className="relative h-5" data-testid="source-pins">
      {mend.source.keys.map((key) => (
        <button
          key={key.frame}
          type="button"
          aria-label={`Key of the source at ${key.frame}. Delete removes it.`}
          className="absolute -top-0.5 h-5 w-4 -translate-x-1/2"
          style={{ left: share(key.frame) }}
          onClick={() => goTo(key.frame)}
          onKeyDown={(event) => {
            if (event.key !== 'Delete' && event.key !== 'Backspace') return
            event.preventDefault()
            event.stopPropagation()
            const edit = removeSourceKeys(mend, [key.frame])
            if (edit) commit(edit)
          }}
        >
          <svg
            viewBox="0 0 16 20"
            className="size-full"
            aria-hidden
            fill="none"
            stroke={key.frame === frame ? 'var(--color-thread)' : 'var(--color-ink)'}
            strokeWidth={1.6}
          >
            <rect x={5} y={2.6} width={6} height={6} />
            <path d="M8 9v9" />
          </svg>
        </button>
      ))}
    </div>
  )
}
