/** Tones of a skin: learnt on frames, added and taken away in the picture; each is shown by its colour. */
import { useState } from 'react'
import { Minus, Plus, X } from 'lucide-react'
import { coloursOf } from '../../core/colour/ycc'
import type { LightChange } from '../../core/skin/lightChanges'
import type { Tone } from '../../core/skin/tone'
import type { SetTone } from '../../core/skin/tonesSet'
import { useBench, useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { drawTool } from '../tools/tool'
import { keepTones } from '../tracking/learnTones'
import { useTracking } from '../tracking/useTracking'

interface TonesFieldProps {
  readonly title: string
  readonly help: string
  readonly tones: readonly SetTone[]
  onChange(tones: SetTone[]): void
}

export function TonesField({ title, help, tones, onChange }: TonesFieldProps) {
  const parts = useBenchParts()
  const { store } = parts
  const { learnTone, findLightChanges } = useTracking()
  const mendId = useBench((bench) => bench.selectedId)
  const isBusy = useBench((bench) => bench.following !== null)
  const [changes, setChanges] = useState<readonly LightChange[]>([])
  if (!mendId) return null
  const { setTool } = store.getState()
  const click = (use: 'added' | 'taken') => setTool(drawTool('ellipse', { for: 'tone', mendId, use }))
  const button = (words: string, about: string, onClick: () => void) => (
    <button type="button" className={SMALL_BUTTON} disabled={isBusy} title={about} onClick={onClick}>
      {words}
    </button>
  )
  return (
    <div className="grid grid-cols-[74px_1fr] items-start gap-2 py-1" title={help}>
      <span className="text-soft">{title}</span>
      <div className="flex flex-wrap items-center gap-1.5">
        {tones.length === 0 && <span className="text-soft">Found on each frame</span>}
        {tones.map((one, index) => (
          <ToneChip
            key={index}
            one={one}
            onGo={() => store.getState().goTo(one.frame)}
            onRemove={() => onChange(tones.filter((other) => other !== one))}
          />
        ))}
        {button(
          'Learn on this frame',
          'From now on this tone holds, until the next one that was learnt',
          () => learnTone(mendId, 'learnt', null),
        )}
        {button('Add…', 'Click skin that is missing, or drag over it', () => click('added'))}
        {button('Take away…', 'Click what is no skin, or drag over it', () => click('taken'))}
        {button('Light changes', 'Looks through all frames for changes of the light', () => {
          void findLightChanges(mendId).then((found) => setChanges(found ?? []))
        })}
        {changes.map((change) => (
          <LightRow
            key={change.from.frame}
            change={change}
            isBusy={isBusy}
            onGo={(frame) => store.getState().goTo(frame)}
            onLearn={() => {
              const both = [change.from, change.to].map(
                (at) => ({ use: 'learnt', beside: null, ...at }) as const,
              )
              keepTones(parts, mendId, both, `Learn the tone before and after ${change.to.frame}`)
              setChanges(changes.filter((other) => other !== change))
            }}
          />
        ))}
      </div>
    </div>
  )
}

const USES = { learnt: 'learnt on', added: 'added on', taken: 'taken away on' } as const

function ToneChip({ one, onGo, onRemove }: { one: SetTone; onGo(): void; onRemove(): void }) {
  const words = `Tone ${USES[one.use]} ${one.frame}`
  return (
    <span className="inline-flex items-center gap-1 rounded-sm bg-well px-1 py-0.5">
      {one.use === 'added' && <Plus aria-hidden className="size-3" />}
      {one.use === 'taken' && <Minus aria-hidden className="size-3" />}
      <span
        aria-hidden
        className="size-3 rounded-full border border-line"
        style={{ background: cssOf(one.tone) }}
      />
      <button type="button" className="font-mono" title={words} aria-label={words} onClick={onGo}>
        {one.frame}
      </button>
      <button type="button" aria-label={`Remove the tone ${USES[one.use]} ${one.frame}`} onClick={onRemove}>
        <X aria-hidden className="size-3" />
      </button>
    </span>
  )
}

function LightRow({
  change: { from, to },
  isBusy,
  onGo,
  onLearn,
}: {
  readonly change: LightChange
  readonly isBusy: boolean
  onGo(frame: number): void
  onLearn(): void
}) {
  const frame = (at: number) => (
    <button type="button" className="font-mono text-ink underline" onClick={() => onGo(at)}>
      {at}
    </button>
  )
  return (
    <p
      role="note"
      className="flex w-full flex-wrap items-center gap-1.5 rounded-sm border border-line px-2 py-1 text-soft"
    >
      <span>
        The light changes from {frame(from.frame)} to {frame(to.frame)}.
      </span>
      <button type="button" className={SMALL_BUTTON} disabled={isBusy} onClick={onLearn}>
        Learn on both
      </button>
    </p>
  )
}

const cssOf = ({ brightness, blue, red }: Tone): string =>
  `rgb(${coloursOf(brightness, blue, red)
    .map((value) => Math.round(255 * Math.min(1, Math.max(0, value))))
    .join(' ')})`
