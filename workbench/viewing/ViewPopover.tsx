/** A button under the picture that opens settings of how it is shown; lit while they are not the plain ones. */
import { Popover } from 'radix-ui'
import type { ReactNode } from 'react'

export function ViewPopover({
  words,
  label,
  help,
  isOn,
  title,
  children,
}: {
  words: string
  /** Of the button, for who cannot see it. */
  label: string
  help: string
  isOn: boolean
  /** Of what opens. */
  title: string
  children: ReactNode
}) {
  return (
    <Popover.Root>
      <Popover.Trigger
        className={`rounded-sm px-2 py-0.5 ${isOn ? 'bg-[#5a5a5a] text-ink' : 'bg-panel text-soft hover:text-ink'}`}
        aria-label={label}
        title={help}
      >
        {words}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          sideOffset={6}
          className="z-20 w-80 rounded-sm border border-line bg-raised p-3 shadow-xl"
          aria-label={title}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
