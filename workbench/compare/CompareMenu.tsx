/** Plate and result together: which way, and its settings. For looking only. */
import { COMPARED_BY, COMPARISON_TITLES, compareSchema } from '../../core/view/compare'
import { useBench, useBenchParts } from '../BenchContext'
import { SchemaForm } from '../fields/SchemaForm'
import { ViewPopover } from '../viewing/ViewPopover'

export function CompareMenu() {
  const { store } = useBenchParts()
  const compare = useBench((bench) => bench.compare)
  const { setCompare } = store.getState()
  const isOn = compare.mode !== 'off'
  const words = isOn ? COMPARISON_TITLES[compare.mode] : 'Compare'
  return (
    <ViewPopover
      words={words}
      label={`Compare: ${isOn ? words : 'nothing'}`}
      help="Plate and result together; the footage stays as it is"
      isOn={isOn}
      title="Compare plate and result"
    >
      <SchemaForm
        schema={compareSchema}
        values={compare}
        names={['mode', ...COMPARED_BY[compare.mode]]}
        onChange={(name, value) => setCompare({ [name]: value })}
        onEnd={() => undefined}
      />
    </ViewPopover>
  )
}
