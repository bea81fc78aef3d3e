/** The worst places as a contact sheet: plate, result and their difference, of each mend the frame that shows most. */
import { useMemo, useState } from 'react'
import { worstPlaces } from '../../core/proof/frameProof'
import { useBenchParts } from '../BenchContext'
import type { Snag } from '../../core/snags/snags'
import { useProofParts } from './ProofContext'

const MAX_PLACES = 24

export function WorstPlaces() {
  const { status, selected, select } = useProofParts()
  const worst = useMemo(() => worstPlaces(status.snags, MAX_PLACES), [status.snags])
  return (
    <aside
      aria-label="Worst places"
      className="w-38 shrink-0 overflow-y-auto border-l border-line bg-panel p-1.5"
    >
      {worst.length === 0 && (
        <p className="p-1 text-soft">
          {status.measured > 0 ? 'Nothing stands out.' : 'Places that show most come here.'}
        </p>
      )}
      {worst.map((snag) => (
        <Place
          key={`${snag.mendId} ${snag.reason} ${snag.frame}`}
          snag={snag}
          isSelected={selected === snag}
          onSelect={() => select(snag)}
        />
      ))}
    </aside>
  )
}

function Place({ snag, isSelected, onSelect }: { snag: Snag; isSelected: boolean; onSelect: () => void }) {
  const { shotId } = useBenchParts()
  const { version } = useProofParts()
  const [isMissing, setMissing] = useState(false)
  const search = new URLSearchParams({
    frame: String(snag.frame),
    x: snag.x.toFixed(1),
    y: snag.y.toFixed(1),
  })
  if (version) search.set('version', version.id)
  return (
    <button
      type="button"
      className={`mb-1.5 block w-full rounded-sm border p-0.5 text-left ${isSelected ? 'border-thread' : 'border-transparent hover:border-line'}`}
      title={snag.words}
      onClick={onSelect}
    >
      {isMissing ? (
        <span className="block py-3 text-center text-xs text-soft">not stored</span>
      ) : (
        <img
          src={`/shots/${shotId}/proof/crop?${search.toString()}`}
          alt={`Plate, result and difference at frame ${snag.frame}`}
          loading="lazy"
          className="block aspect-[3/1] w-full rounded-xs bg-well [image-rendering:pixelated]"
          onError={() => setMissing(true)}
        />
      )}
      <span className="block truncate font-mono text-xs text-soft">
        {snag.frame} · {snag.weight.toFixed(1)} ×
      </span>
    </button>
  )
}
