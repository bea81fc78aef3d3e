/** Marks of the library, below the cameras; pictures with alpha are brought in here. */
import { FileUp } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import type { ListedMark } from '../../core/document/markLibrary'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useFilePick } from '../fields/FilePick'
import { bringInMark, pictureAddress, useMarkCommand } from './markLibrary'

interface MarkListProps {
  readonly marks: readonly ListedMark[]
  readonly productionId: string | null
  readonly openId: string | null
  onOpen(markId: string | null): void
}

export function MarkList({ marks, productionId, openId, onOpen }: MarkListProps) {
  return (
    <section aria-label="Marks" className="flex min-h-0 flex-col border-t border-line">
      <header className="flex h-11 shrink-0 items-center gap-2 border-b border-line px-3">
        <h2 className="font-semibold">Marks</h2>
        <span className="font-mono text-soft">{marks.length}</span>
        <span className="grow" />
        <BringIn productionId={productionId} names={marks.map(({ name }) => name)} onOpen={onOpen} />
      </header>
      {marks.length === 0 ? (
        <p className="p-4 text-soft">
          None yet. Take a mark off a shot and keep its picture, or bring in a picture with alpha.
        </p>
      ) : (
        <ul className="min-h-0 grow overflow-y-auto py-1">
          {marks.map(({ id, name, picture, width, height }) => (
            <li key={id} data-testid="library-mark">
              <Link
                to={`?mark=${id}`}
                aria-current={id === openId ? 'page' : undefined}
                className={`flex items-center gap-2 px-3 py-1.5 ${id === openId ? 'bg-raised shadow-[inset_3px_0_0_var(--color-thread)]' : 'hover:bg-raised'}`}
              >
                <img
                  src={pictureAddress(picture)}
                  alt=""
                  className="h-8 w-14 rounded-xs bg-well object-contain"
                />
                <span className="min-w-0 grow truncate">{name}</span>
                <span className="font-mono text-xs text-soft">
                  {width} × {height}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}

function BringIn({
  productionId,
  names,
  onOpen,
}: Pick<MarkListProps, 'productionId' | 'onOpen'> & { readonly names: readonly string[] }) {
  const [isBusy, setBusy] = useState(false)
  const { send } = useMarkCommand(onOpen)
  const bringIn = async (file: File) => {
    setBusy(true)
    try {
      const picture = await bringInMark(file)
      const name = freeName(file.name.replace(/\.[^.]+$/, '').slice(0, 70) || 'Mark', names)
      send({ intent: 'keep', picture, name, productionId, shotId: null, place: null })
    } catch (cause) {
      toast.error(`The picture was not brought in. ${(cause as Error).message}`)
    } finally {
      setBusy(false)
    }
  }
  const { pick, input } = useFilePick(
    'Picture of a mark',
    '.png,.tif,.tiff,.webp',
    (file) => void bringIn(file),
  )
  return (
    <>
      <button
        type="button"
        className={SMALL_BUTTON}
        disabled={isBusy || productionId === null}
        onClick={pick}
      >
        <FileUp aria-hidden className="inline size-3.5" /> {isBusy ? 'Bringing it in…' : 'Bring in'}
      </button>
      {input}
    </>
  )
}

function freeName(name: string, taken: readonly string[]): string {
  if (!taken.includes(name)) return name
  let number = 2
  while (taken.includes(`${name} ${number}`)) number++
  return `${name} ${number}`
}
