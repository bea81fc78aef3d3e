import { DropdownMenu } from 'radix-ui'
import { useState } from 'react'
import { toast } from 'sonner'
import { bringInMark, pictureAddress, useMarkLibrary } from '../cameras/markLibrary'
import { MENU, MENU_ITEM, SMALL_BUTTON } from '../column/buttonStyles'
import { useFilePick } from './FilePick'
import { KeepMark } from './KeepMark'

export interface MarkFieldProps {
  readonly title: string
  readonly help?: string
  /** The name under which the picture is kept; empty when there is none. */
  readonly value: string
  /** Where its upper left corner lies, px. */
  readonly at: { readonly leftPx: number; readonly topPx: number }
  onChange(value: string): void
}

/** The picture of a mark: seen, saved as a file, kept in the library, brought in or taken from there. */
export function MarkField({ title, help, value, at, onChange }: MarkFieldProps) {
  const [isBusy, setBusy] = useState(false)
  const [isKeeping, setKeeping] = useState(false)
  const { marks, load } = useMarkLibrary()
  const bringIn = async (file: File) => {
    setBusy(true)
    try {
      onChange(await bringInMark(file))
    } catch (cause) {
      toast.error(`The mark’s picture was not brought in. ${(cause as Error).message}`)
    } finally {
      setBusy(false)
    }
  }
  const { pick, input } = useFilePick(`${title} file`, '.png,.tif,.tiff,.webp', (file) => void bringIn(file))
  const isKept = value.startsWith('mark:')
  return (
    <div className="grid grid-cols-[74px_1fr] items-start gap-2 py-1" title={help}>
      <span className="text-soft">{title}</span>
      <span className="flex flex-wrap items-center gap-1.5">
        {isKept && (
          <img
            src={pictureAddress(value)}
            alt="The mark by itself"
            className="max-h-16 w-full rounded-sm bg-well object-contain"
          />
        )}
        {input}
        <button type="button" className={SMALL_BUTTON} disabled={isBusy} onClick={pick}>
          {isBusy ? 'Bringing it in…' : value ? 'Another picture…' : 'A picture…'}
        </button>
        <DropdownMenu.Root onOpenChange={(isOpen) => isOpen && load()}>
          <DropdownMenu.Trigger className={SMALL_BUTTON}>From the library</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="start" className={MENU}>
              {marks.length === 0 && (
                <p className="max-w-60 px-2 py-1 text-soft">
                  It is empty. Keep the picture of a mark that was worked out from a shot.
                </p>
              )}
              {marks.map(({ id, name, picture, width, height }) => (
                <DropdownMenu.Item key={id} className={MENU_ITEM} onSelect={() => onChange(picture)}>
                  <span className="block font-semibold">{name}</span>
                  <span className="block font-mono text-xs text-soft">
                    {width} × {height} px
                  </span>
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        {isKept && (
          <>
            <button type="button" className={SMALL_BUTTON} onClick={() => setKeeping(true)}>
              Keep in the library…
            </button>
            <a className={SMALL_BUTTON} href={pictureAddress(value)} download="mark.png">
              Save it
            </a>
            <KeepMark picture={value} at={at} isOpen={isKeeping} onClose={() => setKeeping(false)} />
          </>
        )}
      </span>
    </div>
  )
}
