/** Sensor maps: what a camera's own bad pixels and dust are, saved from this shot's finds, and applied to it. */
import { Dialog, DropdownMenu } from 'radix-ui'
import { Cpu } from 'lucide-react'
import { useRef, useState } from 'react'
import { toast } from 'sonner'
import { acceptFinds } from '../../core/mend/acceptFinds'
import { findsOfMap, mapFromFinds, mapToCsv, readSensorMap, type Readout, type SensorMap } from '../../core/survey/sensorMap'
import { useBench, useBenchParts } from '../BenchContext'
import { MENU, MENU_ITEM, SMALL_BUTTON } from '../column/looks'
import { ChoiceField } from '../fields/ChoiceField'
import { saveText } from '../saveText'
import { useSurveyParts } from './SurveyContext'

type Opened = { readonly for: 'save' } | { readonly for: 'apply'; readonly map: SensorMap } | null

export function SensorMapMenu() {
  const { finds } = useSurveyParts()
  const [opened, setOpened] = useState<Opened>(null)
  const input = useRef<HTMLInputElement>(null)
  const own = finds.filter(({ find, state }) => state !== 'dismissed' && (find.kind === 'pixel' || find.kind === 'mote'))
  const read = async (file: File) => {
    const result = readSensorMap(await file.text())
    if (result.ok) setOpened({ for: 'apply', map: result.map })
    else toast.error(`${file.name} was not read. ${result.detail}`, { description: 'Nothing has changed.' })
  }
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="rounded-sm bg-raised p-1.5 hover:bg-lifted" aria-label="Sensor map" title="Sensor map">
          <Cpu aria-hidden className="size-4" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" sideOffset={6} className={MENU}>
            <DropdownMenu.Label className="px-2 py-1 text-soft">Bad pixels and dust of a camera</DropdownMenu.Label>
            <DropdownMenu.Item className={MENU_ITEM} disabled={own.length === 0} onSelect={() => setOpened({ for: 'save' })}>
              Save {own.length} finds as a sensor map…
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => input.current?.click()}>
              Apply a sensor map…
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <input
        ref={input}
        type="file"
        accept=".json,.csv"
        className="hidden"
        aria-label="Sensor map file"
        onChange={(event) => {
          const [file] = event.target.files ?? []
          if (file) void read(file)
          event.target.value = ''
        }}
      />
      <Dialog.Root open={opened !== null} onOpenChange={(isOpen) => !isOpen && setOpened(null)}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-30 bg-black/60" />
          <Dialog.Content
            aria-describedby={undefined}
            className="fixed top-1/2 left-1/2 z-30 w-[420px] -translate-1/2 rounded-sm border border-line bg-panel p-5 shadow-2xl"
          >
            {opened?.for === 'save' && <SaveForm onDone={() => setOpened(null)} />}
            {opened?.for === 'apply' && <ApplyForm map={opened.map} onDone={() => setOpened(null)} />}
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  )
}

const READOUTS = { scaled: 'All of the sensor', cropped: 'Its middle, 1:1' } as const
const FIELD = 'w-full rounded-sm bg-well px-2 py-1 font-mono text-ink'
const MAIN_BUTTON = 'rounded-sm bg-thread px-3 py-1.5 font-semibold text-well disabled:bg-lifted disabled:text-soft'

function SaveForm({ onDone }: { onDone: () => void }) {
  const { finds } = useSurveyParts()
  const plate = useBench((bench) => bench.plate)
  const [camera, setCamera] = useState('')
  const [madeOn, setMadeOn] = useState(() => new Date().toISOString().slice(0, 10))
  const [sensor, setSensor] = useState({ width: plate.width, height: plate.height })
  const [readout, setReadout] = useState<Readout>('scaled')
  const isWhole = camera.trim() !== '' && madeOn !== '' && sensor.width >= 1 && sensor.height >= 1
  const save = (ending: 'json' | 'csv') => {
    const kept = finds.filter(({ state }) => state !== 'dismissed').map(({ find }) => find)
    const map = mapFromFinds(kept, plate, { camera: camera.trim(), madeOn, sensor, readout })
    const text = ending === 'csv' ? mapToCsv(map) : `${JSON.stringify(map, null, 2)}\n`
    saveText(text, `${camera.trim().replace(/[^A-Za-z0-9]+/g, '-')}.${madeOn}.sensor-map.${ending}`)
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
    <form className="flex flex-col gap-3" onSubmit={(event) => event.preventDefault()}>
      <Dialog.Title className="text-lg font-bold">Save a sensor map</Dialog.Title>
      <label className="flex flex-col gap-1 text-soft">
        Camera body
        <input className={FIELD} value={camera} maxLength={80} autoComplete="off" onChange={(event) => setCamera(event.target.value)} />
      </label>
      <label className="flex flex-col gap-1 text-soft">
        Shot on
        <input className={FIELD} type="date" value={madeOn} onChange={(event) => setMadeOn(event.target.value)} />
      </label>
      <div className="flex gap-3">
        {side('width')}
        {side('height')}
      </div>
      <ChoiceField title="Shows" value={readout} choices={READOUTS} onChange={(next) => setReadout(next as Readout)} />
      <div className="flex items-center gap-2 pt-1">
        <button type="button" className={MAIN_BUTTON} disabled={!isWhole} onClick={() => save('json')}>
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
  const isSameShape = map.sensor.width * plate.height === map.sensor.height * plate.width
  const [readout, setReadout] = useState<Readout>(isSameShape ? 'scaled' : 'cropped')
  const found = findsOfMap(map, plate, readout)
  const apply = () => {
    const edit = acceptFinds(store.getState().records, found, plate, () => crypto.randomUUID())
    if (edit) {
      store.getState().commit({ ...edit, label: `Apply the sensor map of ${map.camera}` })
      toast.success(`${found.length} places of ${map.camera} are mended.`, { description: 'Undo takes it back.' })
    } else toast.message('All of them are mended already.')
    onDone()
  }
  return (
    <div className="flex flex-col gap-3">
      <Dialog.Title className="text-lg font-bold">Apply a sensor map</Dialog.Title>
      <p>
        {map.camera}, {map.madeOn} · {map.pixels.length} bad pixels, {map.motes.length} motes on {map.sensor.width} × {map.sensor.height} px
      </p>
      <ChoiceField title="Shows" value={readout} choices={READOUTS} onChange={(next) => setReadout(next as Readout)} />
      <p className="text-soft">
        This shot has {plate.width} × {plate.height} px and shows {found.length} of them.
      </p>
      <div className="flex gap-2 pt-1">
        <button type="button" className={MAIN_BUTTON} disabled={found.length === 0} onClick={apply}>
          Apply
        </button>
        <Dialog.Close className={SMALL_BUTTON}>Cancel</Dialog.Close>
      </div>
    </div>
  )
}
