/** The work column of the Proof stage: what is proved, what it came to, snags and notes, and what is decided. */
import { useState } from 'react'
import { Tabs } from 'radix-ui'
import { useNavigate } from 'react-router'
import { progressOf, progressWords } from '../progress/progress'
import { ProgressBar } from '../progress/ProgressBar'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useBench, useBenchParts } from '../BenchContext'
import { inStackOrder } from '../../core/document/document'
import { NotesPart } from './NotesPart'
import { useProofParts } from './ProofContext'
import { ReviewPart } from './ReviewPart'
import { SnagList } from './SnagList'

export function ProofColumn() {
  const { status, notes, isWriting } = useProofParts()
  const [chosen, choose] = useState<'snags' | 'notes'>('snags')
  // Writing a note opens their list, and it stays open.
  if (isWriting && chosen !== 'notes') choose('notes')
  const open = notes.filter(({ answerTo, resolvedBy }) => answerTo === null && resolvedBy === null).length
  const tab =
    'grow border-b-2 border-transparent py-1.5 text-soft data-[state=active]:border-thread data-[state=active]:text-ink'
  return (
    <section aria-label="Proof" className="flex w-80 shrink-0 flex-col border-r border-line bg-panel">
      <Subject />
      <Verdict />
      <Tabs.Root
        value={chosen}
        onValueChange={(value) => choose(value as 'snags' | 'notes')}
        className="flex min-h-0 grow flex-col"
      >
        <Tabs.List aria-label="What is listed" className="flex shrink-0 border-b border-line">
          <Tabs.Trigger value="snags" className={tab}>
            Snags <span className="font-mono">{status.snags.length}</span>
          </Tabs.Trigger>
          <Tabs.Trigger value="notes" className={tab}>
            Notes <span className="font-mono">{open}</span>
          </Tabs.Trigger>
        </Tabs.List>
        <Tabs.Content value="snags" className="flex min-h-0 grow flex-col">
          <MendFilter />
          <SnagList />
        </Tabs.Content>
        <Tabs.Content value="notes" className="min-h-0 grow overflow-y-auto">
          <NotesPart />
        </Tabs.Content>
      </Tabs.Root>
      <ReviewPart />
    </section>
  )
}

/** What is looked at, and measuring it. */
function Subject() {
  const { shotId } = useBenchParts()
  const { version, provable, status, measure, cancel } = useProofParts()
  const navigate = useNavigate()
  const isOpen = status.state === 'waiting' || status.state === 'working'
  const look = status.measured > 0 ? SMALL_BUTTON : 'rounded-sm bg-thread px-3 py-1 font-semibold text-well'
  return (
    <header className="flex h-11 shrink-0 items-center gap-2 border-b border-line px-3">
      <h1 className="sr-only">Proof</h1>
      <select
        aria-label="What is proved"
        className="min-w-0 grow rounded-sm bg-well px-1.5 py-1"
        value={version?.id ?? ''}
        onChange={({ target }) =>
          void navigate(`/shots/${shotId}/proof${target.value ? `?version=${target.value}` : ''}`)
        }
      >
        <option value="">The mends as they are</option>
        {provable.map(({ id, number, formatTitle }) => (
          <option key={id} value={id}>
            Version {number}, {formatTitle}
          </option>
        ))}
      </select>
      {isOpen ? (
        <button type="button" className={SMALL_BUTTON} onClick={cancel}>
          Cancel
        </button>
      ) : (
        <button type="button" className={look} title="M" onClick={measure}>
          {status.measured > 0 ? 'Measure again' : 'Measure'}
        </button>
      )}
    </header>
  )
}

/** Whether anything outside of the mends has changed, in words. */
function Verdict() {
  const { store, saving } = useBenchParts()
  const { status, version } = useProofParts()
  const isSaved = useBench((bench) => bench.saveState === 'saved')
  const {
    state,
    framesDone,
    framesTotal,
    seconds,
    measured,
    changedOutside,
    changedFrames,
    notAsRendered,
    error,
  } = status
  if (state === 'waiting' || state === 'working')
    return (
      <div className="border-b border-line px-3 py-2" data-testid="proof-progress">
        <ProgressBar share={framesTotal ? framesDone / framesTotal : null} label="Frames measured" />
        <p role="status" className="pt-1 font-mono text-xs text-soft">
          {state === 'waiting'
            ? 'waits for a worker'
            : progressWords(progressOf(framesDone, framesTotal, seconds))}
        </p>
      </div>
    )
  return (
    <div className="border-b border-line px-3 py-2" data-testid="verdict" data-state={state}>
      {state === 'failed' && (
        <p role="alert" className="text-snag">
          {error}
        </p>
      )}
      {measured === 0 ? (
        <p className="text-soft">
          Not measured yet. Measuring looks at every frame: what shows, how much, and that nothing outside of
          the mends has changed.
        </p>
      ) : changedOutside === 0 ? (
        <p>
          <strong className="text-thread">0 samples</strong> changed outside every mend, on {measured} frames
          {version && !version.isLossless ? ', before it was encoded: this format is not lossless' : ''}.
        </p>
      ) : (
        <p role="alert" className="text-snag">
          {changedOutside === 1 ? '1 sample has' : `${changedOutside} samples have`} changed outside every
          mend, first on frame{' '}
          <button
            type="button"
            className="underline"
            onClick={() => store.getState().goTo(changedFrames[0]!.frame)}
          >
            {changedFrames[0]!.frame}
          </button>
          . Make the version once more; if it stays, its file was changed by something else.
        </p>
      )}
      {version === null && measured > 0 && isSaved && saving.revision !== status.revision && (
        <p className="text-caution" data-testid="outdated">
          The mends have changed since. Measure again: only what has changed is looked at.
        </p>
      )}
      {notAsRendered && notAsRendered.length > 0 && (
        <p role="alert" className="text-snag">
          The file is not what was rendered on {notAsRendered.length === 1 ? 'frame' : 'frames'}{' '}
          {notAsRendered.slice(0, 8).join(', ')}
          {notAsRendered.length > 8 ? ' …' : ''}.
        </p>
      )}
      {version && measured > 0 && (
        <p className="pt-1 text-soft">
          Report:{' '}
          <a
            className="text-ink underline"
            href={`/versions/${version.id}/report/html`}
            target="_blank"
            rel="noreferrer"
          >
            page
          </a>
          ,{' '}
          <a className="text-ink underline" href={`/versions/${version.id}/report/csv`} download>
            table
          </a>
        </p>
      )}
    </div>
  )
}

function MendFilter() {
  const { mendId, filterBy } = useProofParts()
  const records = useBench((bench) => bench.records)
  if (records.size < 2) return null
  return (
    <label className="flex shrink-0 items-center gap-2 border-b border-line px-3 py-1.5">
      <span className="text-soft">Of</span>
      <select
        className="min-w-0 grow rounded-sm bg-well px-1.5 py-0.5"
        value={mendId ?? ''}
        onChange={({ target }) => filterBy(target.value || null)}
      >
        <option value="">all mends</option>
        {inStackOrder(records.values()).map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    </label>
  )
}
