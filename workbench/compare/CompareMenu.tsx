/** The result beside another picture: which way, with what, and its settings. For looking only. */
import { useEffect, useState } from 'react'
import { toast } from 'sonner'
import { COMPARED_BY, COMPARISON_TITLES, compareSchema, isOfTwo } from '../../core/view/compare'
import { useBench, useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { ChoiceField } from '../fields/ChoiceField'
import { SchemaForm } from '../fields/SchemaForm'
import { ViewPopover } from '../viewing/ViewPopover'

/** A version that can be compared with. */
export interface Comparable {
  readonly id: string
  readonly title: string
}

/** More versions than these are looked at in their own Proof stage. */
const LATEST = 5

export function CompareMenu() {
  const { store, other } = useBenchParts()
  const compare = useBench((bench) => bench.compare)
  const { setCompare } = store.getState()
  const isOn = compare.mode !== 'off'
  const { mode, against } = compare
  const with_ = isOfTwo(mode) && against !== 'plate' ? ` · ${other.title}` : ''
  const words = isOn ? `${COMPARISON_TITLES[mode]}${with_}` : 'Compare'
  return (
    <ViewPopover
      words={words}
      label={`Compare: ${isOn ? words : 'nothing'}`}
      help="The result beside the plate, a result that was kept, or a version; the footage stays as it is"
      isOn={isOn}
      title="Compare plate and result"
    >
      <SchemaForm
        schema={compareSchema}
        values={compare}
        names={['mode', ...COMPARED_BY[mode]]}
        onChange={(name, value) => setCompare({ [name]: value })}
        onEnd={() => undefined}
      />
      {(isOfTwo(mode) || mode === 'off') && <AgainstField />}
    </ViewPopover>
  )
}

/** What it is compared with. */
function AgainstField() {
  const { store, shotId, isFrozen } = useBenchParts()
  const against = useBench(({ compare }) => compare.against)
  const hasKept = useBench((bench) => bench.kept !== null)
  const versions = useComparable(shotId)
  const { setCompare, keepResult } = store.getState()
  const choices: Record<string, string> = {
    plate: 'Plate',
    ...(hasKept ? { kept: 'Kept' } : {}),
    ...(isFrozen ? { now: 'As it is now' } : {}),
  }
  for (const { id, title } of versions) choices[id] = title
  return (
    <>
      <ChoiceField
        title="With"
        help="The plate; the result as it was kept; the mends as they are now; or as a version has them"
        value={against}
        choices={choices}
        onChange={(next) => setCompare({ against: next })}
      />
      <p className="flex items-center gap-2 pt-1">
        <button type="button" className={SMALL_BUTTON} onClick={keepResult}>
          Keep this result
        </button>
        <span className="text-xs text-soft">then try another fill</span>
      </p>
    </>
  )
}

/** Asked for whenever the menu opens. */
function useComparable(shotId: string): readonly Comparable[] {
  const [versions, setVersions] = useState<readonly Comparable[]>([])
  useEffect(() => {
    let isCurrent = true
    fetch(`/shots/${shotId}/compared`)
      .then((response) => (response.ok ? (response.json() as Promise<Comparable[]>) : []))
      .then((known) => isCurrent && setVersions(known.slice(0, LATEST)))
      .catch((cause: Error) => toast.warning(`The versions could not be asked for: ${cause.message}`, { id: 'compared' })) // prettier-ignore
    return () => void (isCurrent = false)
  }, [shotId])
  return versions
}
