import type { Snag } from '../../core/snags/snags'
import { useBenchParts } from '../BenchContext'

/** A mark on every frame with a snag; one click goes there. */
export function SnagLine({ snags, share }: { snags: readonly Snag[]; share: (frame: number) => string }) {
  const { store } = useBenchParts()
  const byFrame = new Map<number, Snag[]>()
  for (const snag of snags) byFrame.set(snag.frame, [...(byFrame.get(snag.frame) ?? []), snag])
  return (
    <div className="relative h-4" data-testid="snags">
      {[...byFrame].map(([frame, all]) => {
        const words = [...new Set(all.map((snag) => snag.words))].join(' ')
        return (
          <button
            key={frame}
            type="button"
            tabIndex={-1}
            title={words}
            aria-label={`Snag at ${frame}: ${words}`}
            className="absolute top-0.5 h-3 w-2.5 -translate-x-1/2"
            style={{ left: share(frame) }}
            onClick={() => {
              store.getState().goTo(frame)
              if (store.getState().selectedId !== all[0]!.mendId) store.getState().select(all[0]!.mendId)
            }}
          >
            <svg
              viewBox="0 0 10 12"
              className="size-full"
              aria-hidden
              fill="none"
              stroke="var(--color-snag)"
              strokeWidth={1.8}
              strokeLinecap="round"
            >
              <path d="M1 3q4-4 4 1t4 1M5 8v2.5" />
            </svg>
          </button>
        )
      })}
    </div>
  )
}
