/** A mark of the library, taken off many shots at once. */
import { Dialog } from 'radix-ui'
import type { ListedMark } from '../../core/document/markLibrary'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useChosen } from '../fields/useChosen'
import { MAIN_BUTTON } from '../shell/Modal'
import type { ShotTarget } from './ApplyMap'
import { useMarkCommand } from './markLibrary'

interface ApplyMarkProps {
  readonly mark: ListedMark
  readonly shots: readonly ShotTarget[]
  onDone(): void
}

export function ApplyMark({ mark, shots, onDone }: ApplyMarkProps) {
  const { chosen, toggle } = useChosen(() => [])
  const { send, isBusy } = useMarkCommand(onDone)
  const fits = ({ width, height }: ShotTarget) => width >= mark.width && height >= mark.height
  if (shots.length === 0) return <p className="text-soft">There are no shots yet. Bring in footage first.</p>
  return (
    <>
      <p className="text-soft">
        Laid as far from the picture’s edges as it was. In each shot it is one step that undo takes back;
        where it lies elsewhere, Find it in the shot.
      </p>
      <ul className="flex flex-col">
        {shots.map((shot) => (
          <li key={shot.id} className="border-b border-line py-1.5">
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-thread"
                disabled={!fits(shot)}
                checked={chosen.has(shot.id)}
                onChange={() => toggle(shot.id)}
              />
              <span className="font-mono font-bold">{shot.name}</span>
              <span className="font-mono text-xs text-soft">
                {shot.width}×{shot.height}
                {!fits(shot) && ' · smaller than the mark'}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <div className="flex items-center gap-2 pt-1">
        <button
          type="button"
          className={MAIN_BUTTON}
          disabled={chosen.size === 0 || isBusy}
          onClick={() => send({ intent: 'apply', id: mark.id, shotIds: [...chosen] })}
        >
          Take it off {chosen.size} {chosen.size === 1 ? 'shot' : 'shots'}
        </button>
        <Dialog.Close className={SMALL_BUTTON}>Cancel</Dialog.Close>
      </div>
    </>
  )
}
