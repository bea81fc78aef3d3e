/** The looking aid, exposure and gamma of the view: for looking only, the footage stays as it is. */
import { useEffect, useMemo, useSyncExternalStore } from 'react'
import { VALUE_UNITS, type ValueUnit } from '../../core/view/values'
import { AIDS, EXPOSURE_STOPS, GAMMA, isPlain, PLAIN_VIEW } from '../../core/view/viewTransform'
import { useBench, useBenchParts } from '../BenchContext'
import { ChoiceField } from '../fields/ChoiceField'
import { NumberField } from '../fields/NumberField'
import { useAheadChoice } from '../preview/aheadChoice'
import { AID_WORDS } from './aids'
import { SCOPES, SURROUND_TITLES, useLookChoice, type ScopeRegion, type Surround } from './lookChoice'
import { ViewPopover } from './ViewPopover'

export function ViewMenu() {
  const { store } = useBenchParts()
  const viewTransform = useBench((bench) => bench.viewTransform)
  const { setViewTransform } = store.getState()
  const { fillsAhead, fillAhead } = useAheadChoice()
  const look = useLookChoice()
  useEffect(() => void useLookChoice.persist.rehydrate(), [])
  const words = [
    viewTransform.aid === 'plain' ? 'View' : AID_WORDS[viewTransform.aid].title,
    ...(viewTransform.exposureStops === 0
      ? []
      : [
          `${viewTransform.exposureStops > 0 ? '+' : '−'}${Math.abs(viewTransform.exposureStops).toFixed(1)} stops`,
        ]),
    ...(viewTransform.gamma === 1 ? [] : [`γ ${viewTransform.gamma.toFixed(2)}`]),
  ].join(' · ')
  return (
    <ViewPopover
      words={words}
      label={`Looking aids: ${words}`}
      help="How the picture is shown; the footage stays as it is"
      isOn={!isPlain(viewTransform)}
      title="Looking aids"
    >
      <ChoiceField
        title="Show"
        value={viewTransform.aid}
        choices={Object.fromEntries(AIDS.map((aid) => [aid, AID_WORDS[aid].title]))}
        onChange={(aid) => setViewTransform({ aid: aid as (typeof AIDS)[number] })}
      />
      <NumberField
        title="Exposure"
        unit="stops"
        value={viewTransform.exposureStops}
        {...EXPOSURE_STOPS}
        step={0.1}
        onChange={(exposureStops) => setViewTransform({ exposureStops })}
        onEnd={() => undefined}
      />
      <NumberField
        title="Gamma"
        unit=""
        value={viewTransform.gamma}
        {...GAMMA}
        step={0.05}
        onChange={(gamma) => setViewTransform({ gamma })}
        onEnd={() => undefined}
      />
      <ChoiceField
        title="Surround"
        value={look.surround}
        choices={SURROUND_TITLES}
        onChange={(surround) => look.choose({ surround: surround as Surround })}
      />
      <ChoiceField
        title="Values"
        help="How the values under the pointer are read off"
        value={look.unit}
        choices={VALUE_UNITS}
        onChange={(unit) => look.choose({ unit: unit as ValueUnit })}
      />
      <ChoiceField
        title="Spread"
        help="Histogram and waveform of brightness, plate against result, where the selected mend lies or of all that is in view"
        value={look.scopes}
        choices={SCOPES}
        onChange={(scopes) => look.choose({ scopes: scopes as ScopeRegion })}
      />
      <button
        type="button"
        className="mt-1 rounded-sm border border-line px-2 py-0.5 hover:bg-lifted disabled:opacity-50"
        disabled={isPlain(viewTransform)}
        onClick={() => setViewTransform(PLAIN_VIEW)}
      >
        Plain again
      </button>
      <label className="mt-3 flex items-center gap-2 border-t border-line pt-3">
        <input type="checkbox" checked={fillsAhead} onChange={({ target }) => fillAhead(target.checked)} />
        Fill frames ahead while the picture rests
      </label>
      <MemoryTold />
    </ViewPopover>
  )
}

const MEGABYTE = 2 ** 20
const NO_STOP = () => () => undefined

/** What frames at hand take: bounded, whatever the footage's size. */
function MemoryTold() {
  const { cache } = useBenchParts()
  const megabytes = useSyncExternalStore(
    useMemo(() => cache?.subscribe.bind(cache) ?? NO_STOP, [cache]),
    () => Math.round((cache?.memory.bytes ?? 0) / MEGABYTE),
    () => 0,
  )
  if (!cache) return null
  return (
    <p className="pt-2 text-soft" data-testid="memory">
      Frames at hand take <span className="font-mono">{megabytes}</span> of{' '}
      <span className="font-mono">{Math.round(cache.memory.budgetBytes / MEGABYTE)}</span> MB.
    </p>
  )
}
