import { Dialog } from 'radix-ui'
import { Key } from './Key'
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
  return (
    <Modal title="Keys of this stage" isWide isOpen={isOpen} onClose={() => onOpenChange(false)}>
      <dl className="grid grid-cols-2 gap-x-6 gap-y-1">
        {[
          ...shortcuts.map(({ shown, words }) => [shown, words] as const),
          ...(hasHandles ? HANDLES : []),
        ].map(([shown, words]) => (
          <div key={shown} className="flex justify-between gap-3 border-b border-line/60 py-1">
            <dt>{words}</dt>
            <dd className="shrink-0">
              <Key>{shown}</Key>
            </dd>
          </div>
        ))}
      </dl>
      <Dialog.Close className="self-start rounded-sm border border-line px-3 py-1 hover:bg-raised">
        Close
      </Dialog.Close>
    </Modal>
  )
}
