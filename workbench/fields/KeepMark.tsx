/** The picture of a mark gets a name, for the next shot. */
import { Dialog } from 'radix-ui'
import { useState } from 'react'
import { useBench, useBenchParts } from '../BenchContext'
import { useMarkCommand } from '../cameras/markLibrary'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { FIELD, MAIN_BUTTON, Modal } from '../shell/Modal'

interface KeepMarkProps {
  readonly picture: string
  readonly at: { readonly leftPx: number; readonly topPx: number }
  readonly isOpen: boolean
  onClose(): void
}

export function KeepMark({ picture, at, isOpen, onClose }: KeepMarkProps) {
  const { shotId } = useBenchParts()
  const { width, height } = useBench((bench) => bench.plate)
  const [name, setName] = useState('')
  const { send, isBusy } = useMarkCommand(onClose)
  const keep = () => {
    const place = { ...at, width, height }
    send({ intent: 'keep', picture, name, productionId: null, shotId, place })
  }
  return (
    <Modal title="Keep this mark" isOpen={isOpen} onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          if (name.trim() !== '') keep()
        }}
      >
        <label className="flex flex-col gap-1 text-soft">
          Name
          <input
            autoFocus
            className={FIELD}
            maxLength={80}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <p className="text-soft">It lies beside the sensor maps, on the Cameras page, for every shot.</p>
        <div className="flex gap-2">
          <button type="submit" className={MAIN_BUTTON} disabled={isBusy || name.trim() === ''}>
            Keep it
          </button>
          <Dialog.Close className={SMALL_BUTTON}>Cancel</Dialog.Close>
        </div>
      </form>
    </Modal>
  )
}
