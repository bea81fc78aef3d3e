/** Sensor maps on the Survey stage: kept with a camera from this shot's finds, and applied to it. */
import { Dialog, DropdownMenu } from 'radix-ui'
import { Cpu } from 'lucide-react'
import { useId, useState } from 'react'
import { v4 as newId } from 'uuid'
import { DateField } from '../fields/DateField'
import { Link, useFetcher } from 'react-router'
import { toast } from 'sonner'
import { acceptFinds } from '../../core/document/acceptFinds'
import {
  findsOfMap,
  likelyReadout,
  mapFromFinds,
  mapToCsv,
  type Readout,
  type SensorMap,
} from '../../core/survey/sensorMap'
import { useBench, useBenchParts } from '../BenchContext'
import type { CameraCard } from '../cameras/CameraList'
import { fileStemOf } from '../cameras/MapPanel'
import { useCameraCommand } from '../cameras/commands'
import { READOUT_WORDS } from '../cameras/readoutWords'
import { MENU, MENU_ITEM, SMALL_BUTTON } from '../column/buttonStyles'
import { readMapFile } from '../cameras/readMapFile'
import { ChoiceField } from '../fields/ChoiceField'
import { useFilePick } from '../fields/FilePick'
import { saveText } from '../saveText'
import { FIELD, MAIN_BUTTON, Modal } from '../shell/Modal'
import { useSurveyParts } from './SurveyContext'

type Opened = { readonly for: 'save' } | { readonly for: 'apply'; readonly map: SensorMap } | null

export function SensorMapMenu() {
  const { finds } = useSurveyParts()
  const [opened, setOpened] = useState<Opened>(null)
  const known = useFetcher<{ readonly cameras: readonly CameraCard[] }>()
  const cameras = known.data?.cameras ?? []
  const maps = cameras.flatMap((camera) => camera.maps)
  const own = finds.filter(
    ({ find, state }) => state !== 'dismissed' && (find.kind === 'pixel' || find.kind === 'mote'),
  )
  const file = useFilePick('Sensor map file', '.json,.csv', (chosen) => {
    void readMapFile(chosen).then((map) => map && setOpened({ for: 'apply', map }))
  })
  return (
    <>
      <DropdownMenu.Root onOpenChange={(isOpen) => isOpen && void known.load('/cameras')}>
        <DropdownMenu.Trigger
          className="rounded-sm bg-raised p-1.5 hover:bg-lifted"
          aria-label="Sensor map"
          title="Sensor map"
        >
          <Cpu aria-hidden className="size-4" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" sideOffset={6} className={`${MENU} w-80`}>
            <DropdownMenu.Label className="px-2 py-1 text-soft">
              Bad pixels and dust of a camera
            </DropdownMenu.Label>
            <DropdownMenu.Item
              className={MENU_ITEM}
              disabled={own.length === 0}
              onSelect={() => setOpened({ for: 'save' })}
            >
              Keep {own.length} finds as a sensor map…
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 border-t border-line" />
            <DropdownMenu.Label className="px-2 py-1 text-soft">
              {maps.length > 0 ? 'Apply to this shot' : 'No camera has a map yet.'}
            </DropdownMenu.Label>
            {cameras.flatMap((camera) =>
              camera.maps.map(({ id, map }) => (
                <DropdownMenu.Item
                  key={id}
                  className={MENU_ITEM}
                  onSelect={() => setOpened({ for: 'apply', map })}
                >
                  {camera.name} <span className="font-mono text-soft">{map.madeOn}</span>
                </DropdownMenu.Item>
              )),
            )}
            <DropdownMenu.Item className={MENU_ITEM} onSelect={file.pick}>
              A sensor map from a file…
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 border-t border-line" />
            <DropdownMenu.Item className={MENU_ITEM} asChild>
              <Link to="/cameras" className="block">
                All cameras
              </Link>
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {file.input}
      <Modal title="Keep a sensor map" isOpen={opened?.for === 'save'} onClose={() => setOpened(null)}>
        <SaveForm cameras={cameras} onDone={() => setOpened(null)} />
      </Modal>
      <Modal title="Apply a sensor map" isOpen={opened?.for === 'apply'} onClose={() => setOpened(null)}>
        {opened?.for === 'apply' && <ApplyForm map={opened.map} onDone={() => setOpened(null)} />}
      </Modal>
    </>
  )
}

function SaveForm({ cameras, onDone }: { cameras: readonly CameraCard[]; onDone: () => void }) {
  const { finds } = useSurveyParts()
  const { shotId } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const [camera, setCamera] = useState('')
  const [madeOn, setMadeOn] = useState(() => new Date().toISOString().slice(0, 10))
  const [sensor, setSensor] = useState({ width: plate.width, height: plate.height })
  const [readout, setReadout] = useState<Readout>('scaled')
  const names = useId()
  const { send, isBusy } = useCameraCommand(onDone)
  const isWhole = camera.trim() !== '' && madeOn !== '' && sensor.width >= 1 && sensor.height >= 1
  const map = (): SensorMap =>
    mapFromFinds(
      finds.filter(({ state }) => state !== 'dismissed').map(({ find }) => find),
      plate,
      { camera: camera.trim(), madeOn, sensor, readout },
    )
  const save = (ending: 'json' | 'csv') => {
    saveText(
      ending === 'csv' ? mapToCsv(map()) : `${JSON.stringify(map(), null, 2)}\n`,
      `${fileStemOf(map())}.${ending}`,
    )
    onDone()
  }
  const side = (name: 'width' | 'height') => (
    <label className="flex grow flex-col gap-1 text-soft">
      Sensor {name}, px
      <input
        className={FIELD}
        type="number"
        min={1}
        max={100_000}
        value={sensor[name] || ''}
        onChange={(event) => setSensor((now) => ({ ...now, [name]: Math.round(Number(event.target.value)) }))}
      />
    </label>
  )
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        if (isWhole) send({ intent: 'keep', productionId: null, shotId, map: map() })
      }}
    >
      <label className="flex flex-col gap-1 text-soft">
        Camera body
        <input
          className={FIELD}
          value={camera}
          maxLength={80}
          autoComplete="off"
          list={names}
          onChange={(event) => {
            setCamera(event.target.value)
            // The sensor of a camera that is known is known.
            const same = cameras.find(({ name }) => name === event.target.value.trim())
            if (same) setSensor(same.sensor)
          }}
        />
        <datalist id={names}>
          {cameras.map(({ id, name }) => (
            <option key={id} value={name} />
          ))}
        </datalist>
      </label>
      <label className="flex flex-col gap-1 text-soft">
        Shot on
        <DateField label="Shot on" className={FIELD} value={madeOn} onChange={setMadeOn} />
      </label>
      <div className="flex gap-3">
        {side('width')}
        {side('height')}
      </div>
      <ChoiceField
        title="Shows"
        value={readout}
        choices={READOUT_WORDS}
        onChange={(next) => setReadout(next as Readout)}
      />
      <div className="flex flex-wrap items-center gap-2 pt-1">
        <button type="submit" className={MAIN_BUTTON} disabled={!isWhole || isBusy}>
          Keep with the camera
        </button>
        <button type="button" className={SMALL_BUTTON} disabled={!isWhole} onClick={() => save('json')}>
          Save as JSON
        </button>
        <button type="button" className={SMALL_BUTTON} disabled={!isWhole} onClick={() => save('csv')}>
          Save as CSV
        </button>
        <Dialog.Close className={SMALL_BUTTON}>Cancel</Dialog.Close>
      </div>
    </form>
  )
}

function ApplyForm({ map, onDone }: { map: SensorMap; onDone: () => void }) {
  const { store } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const [readout, setReadout] = useState<Readout>(likelyReadout(map.sensor, plate))
  const found = findsOfMap(map, plate, readout)
  const apply = () => {
    const edit = acceptFinds(store.getState().records, found, plate, newId)
    if (edit) {
      store.getState().commit({ ...edit, label: `Apply the sensor map of ${map.camera}` })
      toast.success(`${found.length} places of ${map.camera} are mended.`, {
        description: 'Undo takes it back.',
      })
    } else toast.message('All of them are mended already.')
    onDone()
  }
  return (
    <>
      <p>
        {map.camera}, {map.madeOn} · {map.pixels.length} bad pixels, {map.motes.length} motes on{' '}
        {map.sensor.width} × {map.sensor.height} px
      </p>
      <ChoiceField
        title="Shows"
        value={readout}
        choices={READOUT_WORDS}
        onChange={(next) => setReadout(next as Readout)}
      />
      <p className="text-soft">
        This shot has {plate.width} × {plate.height} px and shows {found.length} of them.
      </p>
      <div className="flex gap-2 pt-1">
        <button type="button" className={MAIN_BUTTON} disabled={found.length === 0} onClick={apply}>
          Apply
        </button>
        <Dialog.Close className={SMALL_BUTTON}>Cancel</Dialog.Close>
      </div>
    </>
  )
}
