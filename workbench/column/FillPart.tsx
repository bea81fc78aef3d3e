/** The Fill part: which method, its parameters, and where it copies from. */
import { DropdownMenu } from 'radix-ui'
import { ChevronDown } from 'lucide-react'
import {
  removeSourceKeys,
  setShift,
  setSourceFollow,
  setSourceInterpolation,
} from '../../core/document/sourceCommands'
import { setFill, setFillParam } from '../../core/document/commands'
import { defaultsOf, fillMethods, findFill } from '../../core/fill/registry'
import { ALL_PARTS } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import { NO_SHIFT, shiftAt } from '../../core/document/sourceKeys'
import { SCALE_RANGE, type Shift } from '../../core/document/source'
import { useBench, useBenchParts } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'
import { ChoiceField } from '../fields/ChoiceField'
import { NumberField } from '../fields/NumberField'
import { SchemaForm } from '../fields/SchemaForm'
import { ShortcutKey } from '../shell/ShortcutKey'
import { selectedArea } from '../store/benchState'
import { useSuggest } from '../tracking/useSuggest'
import { Gathered } from './Gathered'
import { MENU, MENU_ITEM, SMALL_BUTTON } from './buttonStyles'

export function FillPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { preview, endGesture } = store.getState()
  const method = findFill(mend.fill.methodId)
  if (!method) return <p className="text-snag">There is no fill “{mend.fill.methodId}”.</p>
  const params = method.params.parse(mend.fill.params)
  return (
    <>
      <MethodMenu mend={mend} />
      <SchemaForm
        schema={method.params}
        values={params}
        onChange={(name, value, title) =>
          preview(setFillParam(store.getState().records.get(mend.id)!, name, value, title))
        }
        onEnd={endGesture}
      />
      {method.needsSource?.(params) && <SourceFields mend={mend} />}
      {method.steady?.gathers && <Gathered mend={mend} />}
      <Notes mendId={mend.id} />
    </>
  )
}

function MethodMenu({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const method = findFill(mend.fill.methodId)!
  const hasOnlyPaths = mend.areas.every((area) => area.role === 'holdout' || area.shape === 'path')
  const usable = fillMethods.filter((one) => !one.needsPath || hasOnlyPaths || one.id === method.id)
  const choose = (id: string) => {
    const next = fillMethods.find((one) => one.id === id)!
    if (next.id === method.id) return
    store.getState().commit(
      setFill(
        mend,
        {
          methodId: next.id,
          methodVersion: next.version,
          params: defaultsOf(next, store.getState().frame),
        },
        next.title,
      ),
    )
  }
  return (
    <div className="grid grid-cols-[74px_1fr] items-center gap-2 py-1">
      <span className="text-soft">Method</span>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`Method: ${method.title}`}
          className="flex items-center justify-between rounded-sm bg-well px-2 py-1 text-left hover:bg-lifted"
          title={method.summary}
        >
          {method.title} <ChevronDown aria-hidden className="size-3.5 text-soft" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className={`${MENU} max-h-[26rem] w-72`}
            onCloseAutoFocus={(event) => event.preventDefault()}
          >
            <DropdownMenu.RadioGroup value={method.id} onValueChange={choose}>
              {usable.map((one) => (
                <DropdownMenu.RadioItem
                  key={one.id}
                  value={one.id}
                  className={`${MENU_ITEM} data-[state=checked]:bg-well`}
                >
                  <span className="block font-semibold">{one.title}</span>
                  <span className="block text-xs text-soft">{one.summary}</span>
                </DropdownMenu.RadioItem>
              ))}
            </DropdownMenu.RadioGroup>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </div>
  )
}

/** Where it copies from, in numbers; in the picture it is the hollow outline at the end of the tether. */
function SourceFields({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const area = useBench(selectedArea) ?? mend.areas[0]!
  const tracks = useBench((bench) => bench.tracks)
  const frame = useBench((bench) => bench.frame)
  const suggested = useBench((bench) =>
    bench.suggested?.mendId === mend.id && bench.suggested.areaId === area.id ? bench.suggested : null,
  )
  const isLooking = useBench((bench) => bench.suggestingFor === mend.id)
  const suggest = useSuggest()
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
          {isLooking
            ? 'Looking…'
            : suggested
              ? `Next best (${suggested.taken + 1} of ${suggested.sources.length})`
              : 'Suggest source'}{' '}
          <ShortcutKey id="suggest" />
        </button>
      </div>
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

/** What the mend could not do on the present frame, in words. */
function Notes({ mendId }: { mendId: string }) {
  const { mended } = useShownFrame()
  const details = new Set(
    (mended?.notes ?? []).filter((note) => note.mendId === mendId).map((note) => note.detail),
  )
  return [...details].map((detail) => (
    <p key={detail} role="status" className="pt-1 text-caution">
      {detail}
    </p>
  ))
}
