/** A sensor map, applied to many shots at once. */
import { Dialog } from 'radix-ui'
import { useState } from 'react'
import { findsOfMap, likelyReadout, type Readout, type SensorMap } from '../../core/survey/sensorMap'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useChosen } from '../fields/useChosen'
import { MAIN_BUTTON } from '../shell/Modal'
import { READOUT_WORDS } from './readoutWords'
import { useCameraCommand } from './commands'

export interface ShotTarget {
  readonly id: string
  readonly name: string
  readonly cameraId: string | null
  readonly width: number
  readonly height: number
  readonly firstFrame: number
  readonly lastFrame: number
}

interface ApplyMapProps {
  readonly mapId: string
  readonly map: SensorMap
  readonly cameraId: string
  readonly shots: readonly ShotTarget[]
  onDone(): void
}

/** Shots of the camera come chosen; the others may have been shot with it too. */
export function ApplyMap({ mapId, map, cameraId, shots, onDone }: ApplyMapProps) {
  const { chosen, choose, toggle } = useChosen(() =>
    shots.filter((shot) => shot.cameraId === cameraId).map(({ id }) => id),
  )
  const [readouts, setReadouts] = useState<Readonly<Record<string, Readout>>>({})
  const { send, isBusy } = useCameraCommand(onDone)
  const readoutOf = (shot: ShotTarget): Readout => readouts[shot.id] ?? likelyReadout(map.sensor, shot)
  const apply = () => {
    const targets = shots
      .filter(({ id }) => chosen.has(id))
      .map((shot) => ({ shotId: shot.id, readout: readoutOf(shot) }))
    send({ intent: 'apply', mapId, targets })
  }
  if (shots.length === 0) return <p className="text-soft">There are no shots yet. Bring in footage first.</p>
  return (
    <>
      <p className="text-soft">
        {map.pixels.length} bad pixels, {map.motes.length} motes on {map.sensor.width} × {map.sensor.height}{' '}
        px. In each shot it is one step that undo takes back.
      </p>
      <table className="w-full border-collapse">
        <thead>
          <tr className="border-b border-line text-left text-xs text-soft">
            <th className="py-1 font-normal">Shot</th>
            <th className="font-normal">Shows of the sensor</th>
            <th className="text-right font-normal">Places</th>
          </tr>
        </thead>
        <tbody>
          {shots.map((shot) => (
            <tr key={shot.id} className="border-b border-line">
              <td className="py-1.5">
                <label className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    className="accent-thread"
                    checked={chosen.has(shot.id)}
                    onChange={() => toggle(shot.id)}
                  />
                  <span className="font-mono font-bold">{shot.name}</span>
                  <span className="font-mono text-xs text-soft">
                    {shot.width}×{shot.height}
                  </span>
                </label>
              </td>
              <td>
                <select
                  aria-label={`What ${shot.name} shows of the sensor`}
                  className="rounded-sm bg-well px-1 py-0.5"
                  value={readoutOf(shot)}
                  onChange={(event) => setReadouts({ ...readouts, [shot.id]: event.target.value as Readout })}
                >
                  {Object.entries(READOUT_WORDS).map(([readout, words]) => (
                    <option key={readout} value={readout}>
                      {words}
                    </option>
                  ))}
                </select>
              </td>
              <td className="text-right font-mono">{findsOfMap(map, shot, readoutOf(shot)).length}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex items-center gap-2 pt-1">
        <button type="button" className={MAIN_BUTTON} disabled={chosen.size === 0 || isBusy} onClick={apply}>
          Apply to {chosen.size} {chosen.size === 1 ? 'shot' : 'shots'}
        </button>
        <Dialog.Close className={SMALL_BUTTON}>Cancel</Dialog.Close>
        <span className="grow" />
        <button
          type="button"
          className={SMALL_BUTTON}
          onClick={() => choose(chosen.size === shots.length ? [] : shots.map(({ id }) => id))}
        >
          {chosen.size === shots.length ? 'None' : 'All'}
        </button>
      </div>
    </>
  )
}
