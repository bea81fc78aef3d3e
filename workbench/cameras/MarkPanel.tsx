/** One mark of the library: its picture, its name, and the shots that it is taken off. */
import { useState } from 'react'
import type { ListedMark } from '../../core/document/markLibrary'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { FIELD, MAIN_BUTTON, Modal } from '../shell/Modal'
import { ApplyMark } from './ApplyMark'
import type { ShotTarget } from './ApplyMap'
import { pictureAddress, useMarkCommand } from './markLibrary'

interface MarkPanelProps {
  readonly mark: ListedMark
  readonly shots: readonly ShotTarget[]
  onGone(): void
}

export function MarkPanel({ mark, shots, onGone }: MarkPanelProps) {
  const { id, width, height, place, productionName } = mark
  const [name, setName] = useState(mark.name)
  const [isApplying, setApplying] = useState(false)
  const { send, isBusy } = useMarkCommand((markId) => markId === null && onGone())
  const isRenamed = name.trim() !== '' && name.trim() !== mark.name
  return (
    <section
      aria-label={`Mark ${mark.name}`}
      className="flex min-w-0 grow flex-col gap-4 overflow-y-auto p-6"
    >
      <header className="flex flex-wrap items-center gap-2">
        <input
          aria-label="Name of the mark"
          className={`${FIELD} max-w-80 text-lg font-bold`}
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && isRenamed) send({ intent: 'rename', id, name })
          }}
        />
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={!isRenamed || isBusy}
          onClick={() => send({ intent: 'rename', id, name })}
        >
          Rename
        </button>
        <span className="grow" />
        <a className={SMALL_BUTTON} href={pictureAddress(mark.picture)} download={`${mark.name}.png`}>
          Save as PNG
        </a>
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={isBusy}
          title="Mends that take it off stay as they are"
          onClick={() => send({ intent: 'remove', id })}
        >
          Take out of the library
        </button>
        <button type="button" className={MAIN_BUTTON} onClick={() => setApplying(true)}>
          Take it off shots…
        </button>
      </header>
      <img
        src={pictureAddress(mark.picture)}
        alt={`${mark.name} by itself`}
        className="max-h-[60vh] w-full rounded-sm border border-line bg-well object-contain p-8"
      />
      <p className="font-mono text-soft">
        {width} × {height} px · {productionName}
        {place &&
          ` · lay ${Math.round(place.leftPx)} px from the left, ${Math.round(place.topPx)} px from the top of ${place.width} × ${place.height} px`}
      </p>
      <Modal title={`Take ${mark.name} off shots`} isOpen={isApplying} onClose={() => setApplying(false)}>
        <ApplyMark mark={mark} shots={shots} onDone={() => setApplying(false)} />
      </Modal>
    </section>
  )
}
