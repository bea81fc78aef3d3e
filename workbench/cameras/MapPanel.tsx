/** One sensor map: its plan, its places, and what can be done with it. */
import { useState } from 'react'
import { DateField } from '../fields/DateField'
import { mapToCsv, type SensorMap } from '../../core/survey/sensorMap'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { saveText } from '../saveText'
import { FIELD, MAIN_BUTTON, Modal } from '../shell/Modal'
import { ApplyMap, type ShotTarget } from './ApplyMap'
import { useCameraCommand } from './commands'
import { PlacesTable } from './PlacesTable'
import { SensorPlan, type PlaceId } from './SensorPlan'

export interface ListedMap {
  readonly id: string
  readonly map: SensorMap
}

interface MapPanelProps {
  readonly cameraId: string
  readonly listed: ListedMap
  readonly others: readonly ListedMap[]
  readonly shots: readonly ShotTarget[]
  onOpen(mapId: string | null): void
}

/** What of a map can be set right. */
type Changes = Pick<SensorMap, 'madeOn' | 'pixels' | 'motes'>

export function MapPanel({ cameraId, listed, others, shots, onOpen }: MapPanelProps) {
  const { id, map } = listed
  const [changes, setChanges] = useState<Changes | null>(null)
  const draft = { ...map, ...changes }
  const [selected, setSelected] = useState<PlaceId | null>(null)
  const [isApplying, setApplying] = useState(false)
  const { send, isBusy } = useCameraCommand(() => setChanges(null))
  const isChanged = changes !== null
  const change = (part: Partial<Changes>) =>
    setChanges({ madeOn: draft.madeOn, pixels: draft.pixels, motes: draft.motes, ...part })
  const replace = <T,>(list: readonly T[], index: number, one: T | null): T[] =>
    one === null ? list.filter((_, i) => i !== index) : list.map((now, i) => (i === index ? one : now))
  /** In the middle of the sensor, to be set right in the table. */
  const add = (kind: PlaceId['kind']) => {
    const [x, y] = [Math.floor(map.sensor.width / 2) + 0.5, Math.floor(map.sensor.height / 2) + 0.5]
    setSelected({ kind, index: kind === 'pixel' ? draft.pixels.length : draft.motes.length })
    change(
      kind === 'pixel'
        ? { pixels: [...draft.pixels, { x, y, class: 'hot', widthPx: 3, heightPx: 3 }] }
        : { motes: [...draft.motes, { x, y, radiusXPx: 12, radiusYPx: 12, turnDeg: 0, depthStops: -0.3 }] },
    )
  }
  return (
    <section
      aria-label={`Sensor map of ${map.madeOn}`}
      className="flex min-w-0 grow flex-col gap-3 overflow-y-auto p-6"
    >
      <header className="flex flex-wrap items-center gap-2">
        <h1 className="text-xl font-bold">{map.camera}</h1>
        <label className="flex items-center gap-2 whitespace-nowrap text-soft">
          Shot on
          <DateField
            label="Shot on"
            className={`${FIELD} w-36`}
            value={draft.madeOn}
            onChange={(madeOn) => change({ madeOn })}
          />
        </label>
        <span className="font-mono text-soft">
          {draft.pixels.length} pixels · {draft.motes.length} motes · {map.sensor.width} × {map.sensor.height}{' '}
          px
        </span>
        <span className="grow" />
        {isChanged && (
          <button type="button" className={SMALL_BUTTON} onClick={() => setChanges(null)}>
            Back to what is saved
          </button>
        )}
        <button
          type="button"
          className={isChanged ? MAIN_BUTTON : SMALL_BUTTON}
          disabled={!changes || isBusy}
          onClick={() => changes && send({ intent: 'change', mapId: id, ...changes })}
        >
          Save changes
        </button>
        <button
          type="button"
          className={isChanged ? SMALL_BUTTON : MAIN_BUTTON}
          disabled={isChanged}
          onClick={() => setApplying(true)}
        >
          Apply to shots…
        </button>
      </header>
      <SensorPlan map={draft} selected={selected} onSelect={setSelected} />
      <MapActions cameraId={cameraId} listed={listed} others={others} onOpen={onOpen} />
      <p className="flex items-center gap-2">
        <button type="button" className={SMALL_BUTTON} onClick={() => add('pixel')}>
          Add a pixel
        </button>
        <button type="button" className={SMALL_BUTTON} onClick={() => add('mote')}>
          Add a mote
        </button>
      </p>
      {draft.pixels.length + draft.motes.length === 0 ? (
        <p className="text-soft">This map has no places. A sensor without faults: nothing to apply.</p>
      ) : (
        <PlacesTable
          pixels={draft.pixels}
          motes={draft.motes}
          sensor={map.sensor}
          selected={selected}
          onSelect={setSelected}
          onPixel={(index, pixel) => change({ pixels: replace(draft.pixels, index, pixel) })}
          onMote={(index, mote) => change({ motes: replace(draft.motes, index, mote) })}
        />
      )}
      <Modal title={`Apply the map of ${map.camera}`} isOpen={isApplying} onClose={() => setApplying(false)}>
        <ApplyMap mapId={id} map={map} cameraId={cameraId} shots={shots} onDone={() => setApplying(false)} />
      </Modal>
    </section>
  )
}

/** The place of a name in a file name. */
export const fileStemOf = ({ camera, madeOn }: Pick<SensorMap, 'camera' | 'madeOn'>): string =>
  `${camera.replace(/[^A-Za-z0-9]+/g, '-')}.${madeOn}.sensor-map`

function MapActions({
  listed: { id, map },
  others,
  onOpen,
}: Pick<MapPanelProps, 'cameraId' | 'listed' | 'others' | 'onOpen'>) {
  const [isAsking, setAsking] = useState(false)
  const { send } = useCameraCommand(onOpen)
  return (
    <div className="flex flex-wrap items-center gap-2">
      <button
        type="button"
        className={SMALL_BUTTON}
        onClick={() => saveText(`${JSON.stringify(map, null, 2)}\n`, `${fileStemOf(map)}.json`)}
      >
        Export JSON
      </button>
      <button
        type="button"
        className={SMALL_BUTTON}
        onClick={() => saveText(mapToCsv(map), `${fileStemOf(map)}.csv`)}
      >
        Export CSV
      </button>
      {others.length > 0 && (
        <label className="flex items-center gap-2 text-soft">
          Merge with
          <select
            className="rounded-sm bg-well px-2 py-0.5 font-mono text-ink"
            value=""
            onChange={(event) =>
              event.target.value && send({ intent: 'merge', mapId: id, withId: event.target.value })
            }
          >
            <option value="">choose…</option>
            {others.map((other) => (
              <option key={other.id} value={other.id}>
                {other.map.madeOn} · {other.map.pixels.length} pixels, {other.map.motes.length} motes
              </option>
            ))}
          </select>
        </label>
      )}
      <span className="grow" />
      {isAsking ? (
        <>
          <span className="text-caution">Deleted maps do not come back.</span>
          <button
            type="button"
            autoFocus
            className={`${SMALL_BUTTON} border-snag text-snag`}
            onClick={() => send({ intent: 'remove', mapId: id })}
          >
            Delete for good
          </button>
          <button type="button" className={SMALL_BUTTON} onClick={() => setAsking(false)}>
            Keep
          </button>
        </>
      ) : (
        <button type="button" className={SMALL_BUTTON} onClick={() => setAsking(true)}>
          Delete…
        </button>
      )}
    </div>
  )
}
