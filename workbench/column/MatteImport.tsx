import { useRef, useState } from 'react'
import { toast } from 'sonner'
import { v4 as newId } from 'uuid'
import { addArea } from '../../core/document/areaCommands'
import type { MendRecord } from '../../core/document/mend'
import { useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from './buttonStyles'

/** Brings a matte sequence in: numbered pictures whose numbers are the shot's frames. */
export function MatteImport({ mend }: { mend: MendRecord }) {
  const { store, shotId } = useBenchParts()
  const input = useRef<HTMLInputElement>(null)
  const [progress, setProgress] = useState<string | null>(null)

  const bringIn = async (files: readonly File[]) => {
    const matteId = newId()
    const numbered = files.flatMap((file) => {
      const match = /(\d+)(\.(?:png|tiff?|exr))$/i.exec(file.name)
      return match ? [{ file, frame: Number(match[1]), ending: match[2]!.toLowerCase() }] : []
    })
    if (numbered.length === 0)
      return void toast.error(
        'These are no numbered PNG, TIFF or EXR pictures. Their numbers must be the frames of the shot.',
      )
    const begun = performance.now()
    try {
      for (const [index, { file, frame, ending }] of numbered.entries()) {
        const seconds = (performance.now() - begun) / 1000
        const left = index > 0 ? ` · ${Math.ceil(((numbered.length - index) * seconds) / index)} s left` : ''
        setProgress(`${index} of ${numbered.length}${left}`)
        const response = await fetch(
          `/shots/${shotId}/mattes/${matteId}/${frame}?ending=${ending}&name=${encodeURIComponent(file.name)}`,
          {
            method: 'PUT',
            body: file,
          },
        )
        const answer = (await response.json().catch(() => ({}))) as { message?: string }
        if (!response.ok)
          throw new Error(answer.message ?? `${file.name}: the server answered ${response.status}.`)
      }
      const { records, commit } = store.getState()
      const now = records.get(mend.id)
      const area = {
        shape: 'matte' as const,
        id: matteId.slice(0, 8),
        role: 'cover' as const,
        interpolation: 'smooth' as const,
        follow: null,
        pattern: `matte:${matteId}`,
        keys: [],
      }
      if (now) commit(addArea(now, area))
    } catch (cause) {
      toast.error(`The matte was not brought in. ${(cause as Error).message}`)
    } finally {
      setProgress(null)
    }
  }
  return (
    <>
      <input
        ref={input}
        type="file"
        multiple
        accept=".png,.tif,.tiff,.exr"
        className="hidden"
        aria-label="Matte pictures"
        onChange={(event) => {
          void bringIn([...(event.target.files ?? [])])
          event.target.value = ''
        }}
      />
      <button
        type="button"
        className={SMALL_BUTTON}
        disabled={progress !== null}
        onClick={() => input.current?.click()}
      >
        {progress ?? 'Matte sequence…'}
      </button>
    </>
  )
}
