/** Camera bodies with their maps, and maps from files. */
import { Pencil, Trash2, FileUp } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useFilePick } from '../fields/FilePick'
import type { ListedMap } from './MapPanel'
import { useCameraCommand } from './commands'
import { readMapFile } from './readMapFile'

export interface CameraCard {
  readonly id: string
  readonly name: string
  readonly productionName: string
  readonly sensor: { readonly width: number; readonly height: number }
  readonly maps: readonly ListedMap[]
}

interface CameraListProps {
  readonly cameras: readonly CameraCard[]
  readonly productions: readonly { readonly id: string; readonly name: string }[]
  readonly openId: string | null
  onOpen(mapId: string | null): void
}

export function CameraList({ cameras, productions, openId, onOpen }: CameraListProps) {
  return (
    <section aria-label="Cameras" className="flex min-h-0 flex-col">
      <header className="flex h-11 shrink-0 items-center gap-2 border-b border-line px-3">
        <h2 className="font-semibold">Cameras</h2>
        <span className="font-mono text-soft">{cameras.length}</span>
        <span className="grow" />
        <BringIn productions={productions} onOpen={onOpen} />
      </header>
      {cameras.length === 0 ? (
        <div className="p-4 text-soft">
          <p className="text-ink">No camera is known yet.</p>
          <p className="mt-1">
            Scan a shot, or a clip with the lens covered, on its Survey stage and keep what was found with its
            camera; or bring in a map from a file.
          </p>
        </div>
      ) : (
        <ul className="min-h-0 grow overflow-y-auto">
          {cameras.map((camera) => (
            <CameraItem key={camera.id} camera={camera} openId={openId} onOpen={onOpen} />
          ))}
        </ul>
      )}
    </section>
  )
}

function CameraItem({
  camera,
  openId,
  onOpen,
}: { camera: CameraCard } & Pick<CameraListProps, 'openId' | 'onOpen'>) {
  const [state, setState] = useState<'shown' | 'naming' | 'removing'>('shown')
  const { send } = useCameraCommand(() => {
    if (state === 'removing') onOpen(null)
  })
  const keepName = (name: string) => {
    setState('shown')
    if (name !== '' && name !== camera.name) send({ intent: 'rename-camera', cameraId: camera.id, name })
  }
  return (
    <li className="border-b border-line px-3 py-2" data-testid="camera">
      <div className="flex items-center gap-1.5">
        {state === 'naming' ? (
          <input
            aria-label={`Name of ${camera.name}`}
            autoFocus
            defaultValue={camera.name}
            maxLength={80}
            className="min-w-0 grow rounded-xs bg-well px-1"
            onBlur={(event) => keepName(event.target.value.trim())}
            onKeyDown={(event) => {
              if (event.key === 'Enter') keepName(event.currentTarget.value.trim())
              if (event.key === 'Escape') setState('shown')
            }}
          />
        ) : (
          <span className="grow truncate font-semibold">{camera.name}</span>
        )}
        <button
          type="button"
          aria-label={`Rename ${camera.name}`}
          className="p-0.5 text-soft hover:text-ink"
          onClick={() => setState('naming')}
        >
          <Pencil aria-hidden className="size-3.5" />
        </button>
        <button
          type="button"
          aria-label={`Delete ${camera.name}`}
          className="p-0.5 text-soft hover:text-ink"
          onClick={() => setState('removing')}
        >
          <Trash2 aria-hidden className="size-3.5" />
        </button>
      </div>
      <p className="text-xs text-soft">
        {camera.productionName} ·{' '}
        <span className="font-mono">
          {camera.sensor.width} × {camera.sensor.height} px
        </span>
      </p>
      {state === 'removing' && (
        <p className="flex flex-wrap items-center gap-2 py-1.5 text-caution">
          Its {camera.maps.length === 1 ? 'map goes' : `${camera.maps.length} maps go`} too, for good.
          <button
            type="button"
            autoFocus
            className={`${SMALL_BUTTON} border-snag text-snag`}
            onClick={() => send({ intent: 'remove-camera', cameraId: camera.id })}
          >
            Delete
          </button>
          <button type="button" className={SMALL_BUTTON} onClick={() => setState('shown')}>
            Keep
          </button>
        </p>
      )}
      <ul className="mt-1">
        {camera.maps.map(({ id, map }) => (
          <li key={id}>
            <Link
              to={`?map=${id}`}
              aria-current={id === openId ? 'page' : undefined}
              className={`flex justify-between rounded-xs px-2 py-1 font-mono ${id === openId ? 'bg-raised shadow-[inset_3px_0_0_var(--color-thread)]' : 'text-soft hover:bg-raised'}`}
            >
              <span>{map.madeOn}</span>
              <span>
                {map.pixels.length} pixels · {map.motes.length} motes
              </span>
            </Link>
          </li>
        ))}
        {camera.maps.length === 0 && <li className="px-2 py-1 text-soft">No map.</li>}
      </ul>
    </li>
  )
}

/** Maps from files: JSON or tables. */
function BringIn({ productions, onOpen }: Pick<CameraListProps, 'productions' | 'onOpen'>) {
  const [productionId, setProductionId] = useState(productions[0]?.id ?? '')
  const { send, isBusy } = useCameraCommand(onOpen)
  const file = useFilePick('Sensor map file', '.json,.csv', (chosen) => {
    void readMapFile(chosen).then((map) => map && send({ intent: 'keep', productionId, shotId: null, map }))
  })
  return (
    <>
      {productions.length > 1 && (
        <select
          aria-label="Production of maps that are brought in"
          className="w-28 rounded-sm bg-well px-1 py-0.5"
          value={productionId}
          onChange={(event) => setProductionId(event.target.value)}
        >
          {productions.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      )}
      <button
        type="button"
        className="flex items-center gap-1 rounded-sm bg-thread px-2 py-1 font-semibold text-well"
        disabled={isBusy}
        onClick={file.pick}
      >
        <FileUp aria-hidden className="size-3.5" /> Bring in
      </button>
      {file.input}
    </>
  )
}
