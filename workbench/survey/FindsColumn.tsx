/** The work column of the Survey stage: the scan, the table of finds, and what is done with them. */
import { useState } from 'react'
import type { FindKind } from '../../core/survey/finds'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { ShortcutKey } from '../shell/ShortcutKey'
import { ProgressBar } from '../progress/ProgressBar'
import { progressOf, progressWords } from '../progress/progress'
import { FindsTable } from './FindsTable'
import { KIND_WORDS } from './findWords'
import { sureFinds, useSurveyParts } from './SurveyContext'

export function FindsColumn() {
  const { status, finds } = useSurveyParts()
  const [kind, setKind] = useState<FindKind | null>(null)
  const accepted = finds.filter(({ state }) => state === 'accepted').length
  return (
    <section aria-label="Finds" className="flex w-80 shrink-0 flex-col border-r border-line bg-panel">
      <header className="flex h-11 shrink-0 items-center gap-2 border-b border-line px-3">
        <h1 className="font-semibold">Finds</h1>
        <span className="font-mono text-soft" data-testid="find-count">
          {finds.length}
          {accepted > 0 && ` · ${accepted} accepted`}
        </span>
        <span className="grow" />
        <ScanButton />
      </header>
      <ScanProgress />
      {finds.length > 0 && <KindFilter kind={kind} onChange={setKind} />}
      <div className="min-h-0 grow overflow-y-auto">
        {finds.length > 0 ? <FindsTable kind={kind} /> : <Nothing isScanned={status.about !== null} />}
      </div>
      {finds.length > 0 && <Footer />}
    </section>
  )
}

function ScanButton() {
  const { status, actions } = useSurveyParts()
  if (status.state === 'waiting' || status.state === 'working') {
    return (
      <button type="button" className={SMALL_BUTTON} onClick={actions.cancel}>
        Cancel
      </button>
    )
  }
  const look = status.about ? SMALL_BUTTON : 'rounded-sm bg-thread px-3 py-1 font-semibold text-well'
  return (
    <button type="button" className={look} title="S" onClick={actions.scan}>
      {status.about ? 'Scan again' : 'Scan'}
    </button>
  )
}

function ScanProgress() {
  const { status } = useSurveyParts()
  if (status.state === 'failed')
    return (
      <p role="alert" className="border-b border-line px-3 py-2 text-snag">
        {status.error} The finds below are those of the last scan.
      </p>
    )
  if (status.state !== 'waiting' && status.state !== 'working') return null
  const { framesDone, framesTotal, seconds } = status
  return (
    <div className="border-b border-line px-3 py-2" data-testid="scan-progress">
      <ProgressBar share={framesTotal ? framesDone / framesTotal : null} label="Frames looked through" />
      <p role="status" className="pt-1 font-mono text-xs text-soft">
        {status.state === 'waiting'
          ? 'waits for a worker'
          : progressWords(progressOf(framesDone, framesTotal, seconds))}
      </p>
    </div>
  )
}

function Nothing({ isScanned }: { isScanned: boolean }) {
  return (
    <div className="p-4 text-soft">
      <p className="text-ink">{isScanned ? 'Nothing was found.' : 'Not looked through yet.'}</p>
      <p className="mt-1">
        {isScanned
          ? 'Look for yourself with the pictures on the right: Boosted shows faint dust, the mean of all frames what stays. What you see is mended on the Mend stage.'
          : 'Scan goes through all frames once and lists bad sensor pixels, dust and still marks. Nothing is changed until you accept.'}
      </p>
    </div>
  )
}

function KindFilter({
  kind,
  onChange,
}: {
  kind: FindKind | null
  onChange: (kind: FindKind | null) => void
}) {
  const { finds } = useSurveyParts()
  const kinds = (Object.keys(KIND_WORDS) as FindKind[])
    .map((one) => ({ one, count: finds.filter(({ find }) => find.kind === one).length }))
    .filter(({ count }) => count > 0)
  const button = (isOn: boolean) =>
    `rounded-sm px-2 py-0.5 ${isOn ? 'bg-lifted text-ink' : 'text-soft hover:text-ink'}`
  return (
    <div
      role="group"
      aria-label="Kinds of finds"
      className="flex shrink-0 flex-wrap gap-1 border-b border-line px-2 py-1.5"
    >
      <button
        type="button"
        aria-pressed={kind === null}
        className={button(kind === null)}
        onClick={() => onChange(null)}
      >
        All {finds.length}
      </button>
      {kinds.map(({ one, count }) => (
        <button
          key={one}
          type="button"
          aria-pressed={kind === one}
          className={button(kind === one)}
          onClick={() => onChange(one)}
        >
          {KIND_WORDS[one].many} {count}
        </button>
      ))}
    </div>
  )
}

function Footer() {
  const parts = useSurveyParts()
  const { selectedId, finds, sureFrom, setSureFrom, acceptSure, accept, toggleDismissed } = parts
  const sure = sureFinds(parts).length
  const selected = finds.find(({ find }) => find.id === selectedId)
  return (
    <footer className="shrink-0 border-t border-line px-3 py-2">
      {selected && (
        <div className="pb-2">
          <p className="text-soft" data-testid="find-why">
            {selected.find.why}
          </p>
          <div className="flex gap-2 pt-1.5">
            <button
              type="button"
              className={SMALL_BUTTON}
              disabled={selected.state === 'accepted'}
              onClick={() => accept([selected.find.id])}
            >
              Accept <ShortcutKey id="accept" />
            </button>
            <button
              type="button"
              className={SMALL_BUTTON}
              disabled={selected.state === 'accepted'}
              onClick={() => toggleDismissed(selected.find.id)}
            >
              {selected.state === 'dismissed' ? 'Take back' : 'Dismiss'} <ShortcutKey id="dismiss" />
            </button>
          </div>
        </div>
      )}
      <div className="flex items-center gap-2">
        <button
          type="button"
          className="rounded-sm bg-thread px-3 py-1.5 font-semibold text-well disabled:bg-lifted disabled:text-soft"
          disabled={sure === 0}
          title="Shift Enter"
          onClick={acceptSure}
        >
          Accept {sure} sure {sure === 1 ? 'one' : 'ones'}
        </button>
        <label className="flex items-center gap-1 text-soft">
          from
          <input
            type="number"
            min={0}
            max={1}
            step={0.05}
            value={sureFrom}
            className="w-16 rounded-sm bg-well px-1.5 py-0.5 text-right font-mono text-ink"
            onChange={(event) => {
              const next = Number(event.target.value)
              if (event.target.value !== '' && next >= 0 && next <= 1) setSureFrom(next)
            }}
          />
        </label>
      </div>
    </footer>
  )
}
