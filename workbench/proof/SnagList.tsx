/** The snags, the most visible first; the selected one unfolds with what may help. */
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useRef } from 'react'
import { Link } from 'react-router'
import { triesFor } from '../../core/proof/tries'
import type { Snag } from '../../core/snags/snags'
import { useBench, useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useTracking } from '../tracking/useTracking'
import { useProofParts } from './ProofContext'

const ROW_PX = 30

export function SnagList() {
  const { status, selected, select } = useProofParts()
  const { snags } = status
  const records = useBench((bench) => bench.records)
  const scrolled = useRef<HTMLDivElement>(null)
  const rows = useVirtualizer({
    count: snags.length,
    getScrollElement: () => scrolled.current,
    estimateSize: () => ROW_PX,
    overscan: 6,
  })
  const at = selected ? snags.indexOf(selected) : -1
  useEffect(() => {
    if (at >= 0) rows.scrollToIndex(at)
  }, [at, rows])
  if (snags.length === 0)
    return (
      <p className="p-3 text-soft">
        {status.measured > 0
          ? 'Nothing stands out on the frames that were measured.'
          : 'Measure first: what probably shows is listed here.'}
      </p>
    )
  return (
    <>
      <div ref={scrolled} className="min-h-0 grow overflow-y-auto">
        <ol
          className="relative"
          style={{ height: rows.getTotalSize() }}
          aria-label="Snags"
          data-testid="snag-list"
        >
          {rows.getVirtualItems().map(({ key, index, start }) => {
            const snag = snags[index]!
            return (
              <li
                key={key}
                className="absolute inset-x-0"
                style={{ top: start, height: ROW_PX }}
                aria-setsize={snags.length}
                aria-posinset={index + 1}
              >
                <button
                  type="button"
                  aria-pressed={snag === selected}
                  title={snag.words}
                  className="group flex size-full items-center gap-2 px-3 text-left hover:bg-raised aria-pressed:bg-lifted"
                  onClick={() => select(snag)}
                >
                  <span className="font-mono">{snag.frame}</span>
                  <span className="w-12 shrink-0 text-right font-mono text-xs whitespace-nowrap text-snag group-aria-pressed:text-ink">
                    {snag.weight.toFixed(1)} ×
                  </span>
                  <span className="min-w-0 grow truncate">{snag.words}</span>
                  {records.size > 1 && (
                    <span className="max-w-16 truncate text-xs text-soft">
                      {records.get(snag.mendId)?.name}
                    </span>
                  )}
                </button>
              </li>
            )
          })}
        </ol>
      </div>
      {selected && <Tries snag={selected} />}
    </>
  )
}

function Tries({ snag }: { snag: Snag }) {
  const { store } = useBenchParts()
  const { version, ofViews } = useProofParts()
  const mend = useBench((bench) => bench.records.get(snag.mendId))
  const tracks = useBench((bench) => bench.tracks)
  const tracking = useTracking()
  const view = ofViews.find(({ mendId }) => mendId === snag.mendId)
  const tries = mend && version === null ? triesFor(snag, mend, tracks) : []
  return (
    <section aria-label="What to try" className="shrink-0 border-t border-line bg-raised p-3">
      <p>
        <span className="font-mono">{snag.frame}</span> · {mend?.name ?? view?.name ?? 'A mend of a view'}
      </p>
      <p className="text-soft">{snag.words}</p>
      {view && (
        <p className="pt-2">
          <Link
            className="underline"
            to={`/shots/${view.shotId}/mend?frame=${snag.frame}&mend=${snag.mendId}`}
          >
            To its view, where it is set right
          </Link>
        </p>
      )}
      {tries.length > 0 && (
        <p className="flex flex-wrap gap-1.5 pt-2">
          {tries.map((one) => (
            <button
              key={one.words}
              type="button"
              className={SMALL_BUTTON}
              onClick={() =>
                one.kind === 'edit'
                  ? store.getState().commit(one.edit)
                  : void tracking.cling(snag.mendId, one.areaId)
              }
            >
              {one.words}
            </button>
          ))}
        </p>
      )}
      {version !== null && (
        <p className="pt-1 text-soft">A version stays as it is: change the mends, and make another.</p>
      )}
    </section>
  )
}
