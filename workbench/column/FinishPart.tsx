/** The Finish part: edge, colour and grain. */
import { setFinish } from '../../core/document/commands'
import { finishSchema, type Finish, type MendRecord } from '../../core/document/mend'
import { findFill } from '../../core/fill/registry'
import { useBenchParts } from '../BenchContext'
import { SchemaForm } from '../fields/SchemaForm'

const FINISH_GROUPS = [
  ['Edge', ['featherOutPx', 'featherInPx', 'growPx', 'strength']],
  ['Colour', ['agree', 'exposureStops', 'saturation']],
  ['Grain', ['grain', 'grainFrom']],
] as const satisfies readonly (readonly [string, readonly (keyof Finish)[]])[]

export function FinishPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { preview, endGesture } = store.getState()
  const isCopy = findFill(mend.fill.methodId)?.isCopy === true
  return FINISH_GROUPS.map(([title, names]) => (
    <fieldset key={title}>
      <legend className="pt-1 font-semibold text-soft">{title}</legend>
      <SchemaForm
        schema={finishSchema}
        values={mend.finish}
        // Only copies have colours of another place.
        names={names.filter((name) => name !== 'agree' || isCopy)}
        onChange={(name, value, title) =>
          preview(setFinish(store.getState().records.get(mend.id)!, { [name]: value }, title))
        }
        onEnd={endGesture}
      />
    </fieldset>
  ))
}
