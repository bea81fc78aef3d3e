import { Dialog } from 'radix-ui'
import { Key } from './Key'
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
    <Dialog.Root open={isOpen} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-black/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-30 max-h-[90vh] w-[640px] -translate-1/2 overflow-y-auto rounded-sm border border-line bg-panel p-5 shadow-2xl"
        >
          <Dialog.Title className="text-lg font-bold">Keys of this stage</Dialog.Title>
          <dl className="mt-3 grid grid-cols-2 gap-x-6 gap-y-1">
            {[...shortcuts.map(({ shown, words }) => [shown, words] as const), ...(hasHandles ? HANDLES : [])].map(([shown, words]) => (
              <div key={shown} className="flex justify-between gap-3 border-b border-line/60 py-1">
                <dt>{words}</dt>
                <dd className="shrink-0">
                  <Key>{shown}</Key>
                </dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className="mt-4 rounded-sm border border-line px-3 py-1 hover:bg-raised">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
