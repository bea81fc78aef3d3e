import { useState } from 'react'
import { toast } from 'sonner'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useFilePick } from './FilePick'

export interface MarkFieldProps {
  readonly title: string
  readonly help?: string
  /** The name under which the picture is kept; empty when there is none. */
  readonly value: string
  onChange(value: string): void
}

const addressOf = (name: string): string => `/marks/${encodeURIComponent(name.slice('mark:'.length))}`

/** The picture of a mark: seen, saved as a file, or brought in. */
export function MarkField({ title, help, value, onChange }: MarkFieldProps) {
  const [isBusy, setBusy] = useState(false)
  const bringIn = async (file: File) => {
    setBusy(true)
    try {
      const response = await fetch('/marks', { method: 'PUT', body: file })
      const answer = (await response.json().catch(() => ({}))) as { name?: string; message?: string }
      if (!response.ok || !answer.name)
        throw new Error(answer.message ?? `The server answered ${response.status}.`)
      onChange(answer.name)
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
      <span className="flex flex-wrap items-center gap-2">
        {isKept && (
          <img
            src={addressOf(value)}
            alt="The mark by itself"
            className="max-h-16 w-full rounded-sm bg-well object-contain"
          />
        )}
        {input}
        <button type="button" className={SMALL_BUTTON} disabled={isBusy} onClick={pick}>
          {isBusy ? 'Bringing it in…' : value ? 'Another picture…' : 'A picture…'}
        </button>
        {isKept && (
          <a className={SMALL_BUTTON} href={addressOf(value)} download="mark.png">
            Save it
          </a>
        )}
      </span>
    </div>
  )
}
