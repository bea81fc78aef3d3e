/** Where a mend copies from: suggested places as pictures, and in numbers. In the picture it is marked by its four corners. */
import { DropdownMenu } from 'radix-ui'
import { ALL_PARTS } from '../../core/document/basics'
import type { MendRecord } from '../../core/document/mend'
import { SCALE_RANGE, type Shift } from '../../core/document/source'
import {
  removeSourceKeys,
  setShift,
  setSourceFollow,
  setSourceInterpolation,
} from '../../core/document/sourceCommands'
import { NO_SHIFT, shiftAt } from '../../core/document/sourceKeys'
import { useBench, useBenchParts } from '../BenchContext'
import { ChoiceField } from '../fields/ChoiceField'
import { NumberField } from '../fields/NumberField'
import { ShortcutKey } from '../shell/ShortcutKey'
import { selectedArea } from '../store/benchState'
import { useSuggest } from '../tracking/useSuggest'
import { SuggestedPlaces } from './SuggestedPlaces'
import { MENU, MENU_ITEM, SMALL_BUTTON } from './buttonStyles'

export function SourceFields({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const area = useBench(selectedArea) ?? mend.areas[0]!
  const tracks = useBench((bench) => bench.tracks)
  const frame = useBench((bench) => bench.frame)
  const isLooking = useBench((bench) => bench.suggestingFor === mend.id)
  const { suggest } = useSuggest()
  const { preview, endGesture, commit } = store.getState()
  const shift = mend.source ? shiftAt(mend.source, area, tracks, frame) : null
  const change = (part: Partial<Shift>, what: string) => {
    const state = store.getState()
    const record = state.records.get(mend.id)!
    const now = record.source ? shiftAt(record.source, area, state.tracks, frame) : NO_SHIFT
    preview(setShift(record, area.id, state.tracks, frame, { ...now, ...part }, what))
  }
  const number = (title: string, part: keyof Shift, unit: string, min: number, max: number, step: number) => (
    <NumberField
      title={title}
      unit={unit}
      value={shift?.[part] ?? NO_SHIFT[part]}
      min={min}
      max={max}
      step={step}
      onChange={(value) => change({ [part]: value }, `Source ${title.toLowerCase()}`)}
      onEnd={endGesture}
    />
  )
  return (
    <section aria-label="Source" className="mt-1 rounded-sm border border-line p-2">
      <div className="flex items-center justify-between gap-2">
        <span className="font-semibold">Source</span>
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={isLooking}
          onClick={() => void suggest(mend.id, area.id)}
        >
          {isLooking ? 'Looking…' : 'Suggest places'} <ShortcutKey id="suggest" />
        </button>
      </div>
      <SuggestedPlaces mend={mend} area={area} />
      {!shift && <p className="pt-1 text-caution">None yet: suggest one, or give it a place.</p>}
      {number('Right', 'dx', 'px', -800, 800, 1)}
      {number('Down', 'dy', 'px', -800, 800, 1)}
      {number('Turn', 'turnDeg', '°', -180, 180, 0.5)}
      {number('Size', 'scale', '×', SCALE_RANGE.min, 4, 0.01)}
      {mend.source && mend.source.keys.length > 1 && (
        <ChoiceField
          title="Travel"
          value={mend.source.interpolation}
          choices={{ smooth: 'Smooth', linear: 'Linear' }}
          onChange={(interpolation) =>
            commit(setSourceInterpolation(mend, interpolation as 'smooth' | 'linear'))
          }
        />
      )}
      {mend.source && (
        <div className="flex flex-wrap gap-1.5 pt-1">
          {mend.source.keys.length > 1 && mend.source.keys.some((key) => key.frame === frame) && (
            <button
              type="button"
              className={SMALL_BUTTON}
              onClick={() => {
                const edit = removeSourceKeys(mend, [frame])
                if (edit) commit(edit)
              }}
            >
              Remove its key at {frame}
            </button>
          )}
          <SourceFollow mend={mend} areaId={area.id} />
        </div>
      )}
    </section>
  )
}

/** A source that rides on a track of its own: on another wall, another depth. */
function SourceFollow({ mend, areaId }: { mend: MendRecord; areaId: string }) {
  const { store } = useBenchParts()
  const tracks = useBench((bench) => bench.tracks)
  const usable = [...tracks.values()].filter((track) => track.kind !== 'cling')
  const followed = mend.source?.follow ? tracks.get(mend.source.follow.trackId) : undefined
  if (usable.length === 0) return null
  const follow = (trackId: string | null) => {
    const edit = setSourceFollow(
      store.getState(),
      mend,
      areaId,
      trackId === null ? null : { trackId, uses: ALL_PARTS },
      store.getState().frame,
    )
    if (edit) store.getState().commit(edit)
  }
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className={SMALL_BUTTON}>
        {followed ? `Rides on ${followed.name}` : 'Ride on a track…'}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className={MENU}
          onCloseAutoFocus={(event) => event.preventDefault()}
        >
          {usable.map((track) => (
            <DropdownMenu.Item key={track.id} className={MENU_ITEM} onSelect={() => follow(track.id)}>
              {track.name}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => follow(null)}>
            With the area
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
