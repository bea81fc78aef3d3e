/** A file that is chosen by a button or a menu elsewhere: `pick` opens the system's own dialog. */
import { useRef, type ReactNode } from 'react'

interface FilePick {
  pick(): void
  /** To be put where it outlives what was clicked. */
  readonly input: ReactNode
}

/** @param label  What it is, for those who cannot see. @param accept  Endings of names. */
export function useFilePick(label: string, accept: string, onFile: (file: File) => void): FilePick {
  const ref = useRef<HTMLInputElement>(null)
  return {
    pick: () => ref.current?.click(),
    input: (
      <input
        ref={ref}
        type="file"
        accept={accept}
        className="hidden"
        aria-label={label}
        onChange={(event) => {
          const [file] = event.target.files ?? []
          if (file) onFile(file)
          event.target.value = '' // the same file can be chosen again
        }}
      />
    ),
  }
}
