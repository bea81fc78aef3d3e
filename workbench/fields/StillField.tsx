import { useRef, useState } from 'react'
import { toast } from 'sonner'
import { useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'

export interface StillFieldProps {
  readonly title: string
  readonly help?: string
  /** The name under which a picture was brought in; empty when there is none. */
  readonly value: string
  onChange(value: string): void
}

/** Brings a still picture in; another size is scaled to cover the plate. */
export function StillField({ title, help, value, onChange }: StillFieldProps) {
  const { shotId } = useBenchParts()
  const input = useRef<HTMLInputElement>(null)
  const [isBusy, setBusy] = useState(false)
  const bringIn = async (file: File) => {
    setBusy(true)
    try {
      const response = await fetch(`/shots/${shotId}/stills?name=${encodeURIComponent(file.name)}`, {
        method: 'PUT',
        body: file,
      })
      const answer = (await response.json().catch(() => ({}))) as { name?: string; message?: string }
      if (!response.ok || !answer.name)
        throw new Error(answer.message ?? `The server answered ${response.status}.`)
      onChange(answer.name)
    } catch (cause) {
      toast.error(`The still was not brought in. ${(cause as Error).message}`)
    } finally {
      setBusy(false)
    }
  }
  return (
    <div className="grid grid-cols-[74px_1fr] items-center gap-2 py-1" title={help}>
      <span className="text-soft">{title}</span>
      <span className="flex items-center gap-2">
        <input
          ref={input}
          type="file"
          accept=".png,.jpg,.jpeg,.tif,.tiff,.webp"
          className="hidden"
          aria-label={`${title} picture`}
          onChange={(event) => {
            const [file] = event.target.files ?? []
            if (file) void bringIn(file)
            event.target.value = ''
          }}
        />
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={isBusy}
          onClick={() => input.current?.click()}
        >
          {isBusy ? 'Bringing it in…' : value ? 'Another picture…' : 'A picture…'}
        </button>
        <span className="truncate text-soft">{value ? 'in place' : 'none yet'}</span>
      </span>
    </div>
  )
}
