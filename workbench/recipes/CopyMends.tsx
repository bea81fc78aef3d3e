/** Mends copied to other shots. */
import { Dialog } from 'radix-ui'
import { useEffect } from 'react'
import { useFetcher } from 'react-router'
import type { CopyCommand, CopyTarget } from '../../core/document/copyAcross'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useChosen } from '../fields/useChosen'
import { MAIN_BUTTON } from '../shell/Modal'
import { useCommands } from '../useCommands'

export function CopyMends({ mends, onDone }: { mends: readonly MendRecord[]; onDone: () => void }) {
  const { shotId } = useBenchParts()
  const isSaved = useBench((bench) => bench.saveState === 'saved')
  const { chosen, toggle } = useChosen()
  const { data, load } = useFetcher<{ readonly shots: readonly CopyTarget[] }>()
  const { send, isBusy } = useCommands<CopyCommand>(`/shots/${shotId}/copies`, onDone)
  useEffect(() => void load(`/shots/${shotId}/copies`), [load, shotId])
  if (!data) return <p className="text-soft">Looking for shots…</p>
  if (data.shots.length === 0) return <p className="text-soft">There is no other shot.</p>
  return (
    <>
      <p className="text-soft">
        {mends.map(({ name }) => name).join(', ')}: as {mends.length === 1 ? 'it is' : 'they are'} here,
        scaled with the picture. Tracks stay behind.
      </p>
      <ul>
        {data.shots.map(({ id, name, width, height, scale }) => (
          <li key={id} className="border-b border-line">
            <label className={`flex items-center gap-2 py-1.5 ${scale === null ? 'text-soft' : ''}`}>
              <input
                type="checkbox"
                className="accent-thread"
                checked={chosen.has(id)}
                disabled={scale === null}
                onChange={() => toggle(id)}
              />
              <span className="font-mono font-bold">{name}</span>
              <span className="grow" />
              <span className="font-mono text-xs text-soft">
                {width}×{height}
                {scale === null ? ', another shape' : scale === 1 ? '' : `, ${Math.round(100 * scale)} %`}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <div className="flex gap-2 pt-1">
        <button
          type="button"
          className={MAIN_BUTTON}
          disabled={chosen.size === 0 || isBusy || !isSaved}
          onClick={() => send({ mendIds: mends.map(({ id }) => id), shotIds: [...chosen] })}
        >
          Copy to {chosen.size} {chosen.size === 1 ? 'shot' : 'shots'}
        </button>
        <Dialog.Close className={SMALL_BUTTON}>Cancel</Dialog.Close>
      </div>
    </>
  )
}
