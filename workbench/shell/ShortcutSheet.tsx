/** The keys of a stage; each can be changed, in this browser. */
import { useEffect, useState } from 'react'
import { Dialog } from 'radix-ui'
import { Key } from './Key'
import { keyFrom, keysOf, shownOf, takenBy, useKeyChoices } from './keyChoices'
import { Modal } from './Modal'
import type { Shortcut } from './shortcuts'

const HANDLES = [
  ['Tab', 'To the next handle'],
  ['Arrows', 'Move a handle 1 px; Shift 10 px, Alt 0.1 px'],
] as const

interface ShortcutSheetProps {
  readonly shortcuts: readonly Shortcut[]
  /** Whether the stage has handles that keys move. */
  readonly hasHandles?: boolean
  readonly isOpen: boolean
  onOpenChange(isOpen: boolean): void
}

export function ShortcutSheet({ shortcuts, hasHandles = false, isOpen, onOpenChange }: ShortcutSheetProps) {
  const { chosen, forgetAll } = useKeyChoices()
  const { asked, said, ask, say } = useNewKey(shortcuts)
  return (
    <Modal title="Keys of this stage" isWide isOpen={isOpen} onClose={() => onOpenChange(false)}>
      <p className="text-soft" role="status">
        {said}
      </p>
      <dl className="grid grid-cols-2 gap-x-6 gap-y-0.5">
        {shortcuts.map((shortcut) => (
          <div
            key={shortcut.id}
            className="flex items-center justify-between gap-3 border-b border-line/60 py-0.5"
          >
            <dt>{shortcut.words}</dt>
            <dd className="shrink-0">
              <button
                type="button"
                className="rounded-sm px-1 py-0.5 hover:bg-raised"
                aria-label={`Key for: ${shortcut.words}. Now ${keysOf(shortcut, chosen).join(' or ')}. Change it.`}
                onClick={() => ask(shortcut)}
              >
                <Key>{asked === shortcut.id ? '…' : shownOf(shortcut, chosen)}</Key>
              </button>
            </dd>
          </div>
        ))}
        {(hasHandles ? HANDLES : []).map(([shown, words]) => (
          <div key={shown} className="flex items-center justify-between gap-3 border-b border-line/60 py-0.5">
            <dt>{words}</dt>
            <dd className="shrink-0 px-1">
              <Key>{shown}</Key>
            </dd>
          </div>
        ))}
      </dl>
      <div className="flex gap-2">
        <Dialog.Close className="rounded-sm border border-line px-3 py-1 hover:bg-raised">Close</Dialog.Close>
        <button
          type="button"
          disabled={Object.keys(chosen).length === 0}
          className="rounded-sm border border-line px-3 py-1 hover:bg-raised disabled:opacity-40"
          onClick={() => {
            forgetAll()
            say('All keys are as they came.')
          }}
        >
          All as they came
        </button>
      </div>
    </Modal>
  )
}

/** Waits for the key that somebody wants for a shortcut. */
function useNewKey(shortcuts: readonly Shortcut[]) {
  const { chosen, choose, forget } = useKeyChoices()
  const [asked, setAsked] = useState<string | null>(null)
  const [said, say] = useState('Click a key to change it. It stays changed in this browser.')
  useEffect(() => {
    if (asked === null) return
    const shortcut = shortcuts.find(({ id }) => id === asked)!
    const listen = (event: KeyboardEvent) => {
      const key = keyFrom(event)
      if (key === null) return
      event.preventDefault()
      event.stopPropagation()
      setAsked(null)
      if (key === 'Escape') return say('Nothing was changed.')
      const taken = takenBy(key, shortcuts, chosen)
      if (taken && taken.id !== asked)
        return say(`${shownOf(taken, chosen)} already is: ${taken.words}. Change that one first.`)
      if (shortcut.keys.includes(key)) forget(asked)
      else choose(asked, key)
      say(`Changed: ${shortcut.words}.`)
    }
    window.addEventListener('keydown', listen, { capture: true })
    return () => window.removeEventListener('keydown', listen, { capture: true })
  }, [asked, choose, chosen, forget, shortcuts])
  const ask = ({ id, words }: Shortcut) => {
    setAsked(id)
    say(`Press the new key for: ${words}. Esc leaves it.`)
  }
  return { asked, said, ask, say }
}
