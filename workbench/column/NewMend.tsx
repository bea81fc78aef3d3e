import { DropdownMenu } from 'radix-ui'
import { Spline } from 'lucide-react'
import { useEffect, useState } from 'react'
import { useBenchParts } from '../BenchContext'
import { Key } from '../shell/Key'
import { drawWireTool } from '../tools/tool'

/** Asks what is wrong. Only kinds whose fill exists are offered. */
const KINDS = [
  { kind: 'wire', title: 'Wire', help: 'A wire, string, cable or scratch. Click its two ends.', Icon: Spline, tool: drawWireTool },
] as const

export const OPEN_PALETTE_EVENT = 'fillagrant:new-mend'

export function NewMend() {
  const { store } = useBenchParts()
  const [isOpen, setOpen] = useState(false)
  useEffect(() => {
    const open = () => setOpen(true)
    window.addEventListener(OPEN_PALETTE_EVENT, open)
    return () => window.removeEventListener(OPEN_PALETTE_EVENT, open)
  }, [])
  return (
    <DropdownMenu.Root open={isOpen} onOpenChange={setOpen}>
      <DropdownMenu.Trigger className="flex items-center gap-2 rounded-sm bg-thread px-2.5 py-1 font-semibold text-well">
        New mend <Key isOnThread>N</Key>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-20 w-72 rounded-sm border border-line bg-raised p-1 shadow-xl"
          onCloseAutoFocus={(event) => event.preventDefault()}
        >
          <DropdownMenu.Label className="px-2 py-1 text-soft">What is wrong?</DropdownMenu.Label>
          {KINDS.map(({ kind, title, help, Icon, tool }) => (
            <DropdownMenu.Item
              key={kind}
              className="flex cursor-pointer gap-2 rounded-xs p-2 outline-none data-highlighted:bg-lifted"
              onSelect={() => store.getState().setTool(tool)}
            >
              <Icon aria-hidden className="mt-0.5 size-4 shrink-0" />
              <span>
                <span className="block font-semibold">{title}</span>
                <span className="block text-soft">{help}</span>
              </span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
