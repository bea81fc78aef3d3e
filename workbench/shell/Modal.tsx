/** A dialog over the stage: one look for all of them. */
import { Dialog } from 'radix-ui'
import type { ReactNode } from 'react'

export const MAIN_BUTTON =
  'rounded-sm bg-thread px-3 py-1.5 font-semibold whitespace-nowrap text-well disabled:bg-lifted disabled:text-soft'
export const FIELD = 'w-full rounded-sm bg-well px-2 py-1 font-mono text-ink'

interface ModalProps {
  readonly title: string
  readonly isOpen: boolean
  readonly isWide?: boolean
  readonly children: ReactNode
  onClose(): void
}

export function Modal({ title, isOpen, isWide = false, children, onClose }: ModalProps) {
  return (
    <Dialog.Root open={isOpen} onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-black/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-30 flex max-h-[90vh] -translate-1/2 flex-col gap-3 overflow-y-auto rounded-sm border border-line bg-panel p-5 shadow-2xl ${isWide ? 'w-[640px]' : 'w-[480px]'}`}
        >
          <Dialog.Title className="text-lg font-bold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
