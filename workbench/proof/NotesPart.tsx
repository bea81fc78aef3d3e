/** Notes on a shot: written at a frame, a range or a place, answered, resolved. */
import { useState, type FormEvent } from 'react'
import type { Note } from '../../core/proof/notes'
import { useBench, useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { useAuthor } from './author'
import { useProofParts } from './ProofContext'

const FIELD = 'w-full rounded-sm bg-well px-2 py-1'

export function NotesPart() {
  const { notes, isWriting, setWriting } = useProofParts()
  const top = notes.filter(({ answerTo }) => answerTo === null)
  const open = top.filter(({ resolvedBy }) => resolvedBy === null)
  const resolved = top.filter(({ resolvedBy }) => resolvedBy !== null)
  return (
    <div className="flex flex-col gap-2 p-3">
      {isWriting ? (
        <NewNote onDone={() => setWriting(false)} />
      ) : (
        <button
          type="button"
          className={`${SMALL_BUTTON} self-start`}
          title="N"
          onClick={() => setWriting(true)}
        >
          Note here
        </button>
      )}
      {top.length === 0 && !isWriting && (
        <p className="text-soft">No notes yet. One is pinned to the frame that is looked at.</p>
      )}
      {[...open, ...resolved].map((note) => (
        <NoteCard key={note.id} note={note} answers={notes.filter(({ answerTo }) => answerTo === note.id)} />
      ))}
    </div>
  )
}

/** Who one is; asked until it is said. */
export function AuthorField() {
  const { name, call } = useAuthor()
  return (
    <label className="block">
      <span className="text-soft">Your name</span>
      <input
        className={FIELD}
        value={name}
        maxLength={80}
        required
        autoComplete="name"
        onChange={({ target }) => call(target.value)}
      />
    </label>
  )
}

function NewNote({ onDone }: { onDone: () => void }) {
  const { order, version, selected } = useProofParts()
  const frame = useBench((bench) => bench.frame)
  const plate = useBench((bench) => bench.plate)
  const author = useAuthor((one) => one.name)
  const [words, setWords] = useState('')
  const [lastFrame, setLastFrame] = useState<number | null>(null)
  const [hasPlace, setHasPlace] = useState(false)
  const place = selected?.frame === frame ? selected : null
  const send = (event: FormEvent) => {
    event.preventDefault()
    if (words.trim() === '' || author.trim() === '') return
    order({
      intent: 'note',
      versionId: version?.id ?? null,
      answerTo: null,
      firstFrame: frame,
      lastFrame: Math.max(frame, lastFrame ?? frame),
      x: hasPlace && place ? place.x : null,
      y: hasPlace && place ? place.y : null,
      words: words.trim(),
      author: author.trim(),
    })
    onDone()
  }
  return (
    <form
      className="flex flex-col gap-2 rounded-sm border border-line bg-raised p-2"
      onSubmit={send}
      aria-label="New note"
    >
      <AuthorField />
      <label>
        <span className="text-soft">Note on frame {frame}</span>
        <textarea
          autoFocus
          className={`${FIELD} h-20`}
          maxLength={4000}
          required
          value={words}
          onChange={({ target }) => setWords(target.value)}
        />{' '}
        {/* prettier-ignore */}
      </label>
      <label className="flex items-center gap-2">
        <span className="text-soft">to frame</span>
        <input
          type="number"
          className={`${FIELD} w-24 font-mono`}
          min={frame}
          max={plate.lastFrame}
          value={lastFrame ?? frame}
          onChange={({ target }) => setLastFrame(Number(target.value))}
        />
      </label>
      <label className={`flex items-center gap-2 ${place ? '' : 'opacity-50'}`}>
        <input
          type="checkbox"
          className="accent-thread"
          disabled={!place}
          checked={hasPlace && place !== null}
          onChange={({ target }) => setHasPlace(target.checked)}
        />{' '}
        {/* prettier-ignore */}
        At the place of the selected snag
      </label>
      <p className="flex gap-2">
        <button type="submit" className="rounded-sm bg-thread px-3 py-1 font-semibold text-well">
          Pin it
        </button>
        <button type="button" className={SMALL_BUTTON} onClick={onDone}>
          Leave it
        </button>
      </p>
    </form>
  )
}

function NoteCard({ note, answers }: { note: Note; answers: readonly Note[] }) {
  const { store } = useBenchParts()
  const { order } = useProofParts()
  const author = useAuthor((one) => one.name)
  const [answer, setAnswer] = useState<string | null>(null)
  const isResolved = note.resolvedBy !== null
  const frames =
    note.firstFrame === note.lastFrame ? String(note.firstFrame) : `${note.firstFrame}–${note.lastFrame}`
  const isNamed = author.trim() !== ''
  const sendAnswer = (event: FormEvent) => {
    event.preventDefault()
    if (!answer?.trim() || !isNamed) return
    const { firstFrame, lastFrame } = note
    order({ intent: 'note', versionId: null, answerTo: note.id, firstFrame, lastFrame, x: null, y: null, words: answer.trim(), author: author.trim() }) // prettier-ignore
    setAnswer(null)
  }
  return (
    <article
      className={`rounded-sm border border-line p-2 ${isResolved ? 'opacity-60' : 'bg-raised'}`}
      data-testid="note"
    >
      <header className="flex items-baseline gap-2">
        <button
          type="button"
          className="font-mono underline"
          onClick={() => store.getState().goTo(note.firstFrame)}
        >
          {frames}
        </button>
        <span className="font-semibold">{note.author}</span>
        {note.versionNumber !== null && <span className="text-soft">on version {note.versionNumber}</span>}
      </header>
      <p className="break-words whitespace-pre-wrap">{note.words}</p>
      {answers.map((one) => (
        <p key={one.id} className="mt-1 border-l-2 border-line pl-2">
          <span className="font-semibold">{one.author}</span> {one.words}
        </p>
      ))}
      {isResolved && <p className="text-soft">Resolved by {note.resolvedBy}</p>}
      {answer === null ? (
        <p className="flex gap-1.5 pt-1.5">
          <button type="button" className={SMALL_BUTTON} onClick={() => setAnswer('')}>
            Answer
          </button>
          <button
            type="button"
            className={SMALL_BUTTON}
            disabled={!isNamed}
            title={isNamed ? undefined : 'Say who you are first: write a note or an answer'}
            onClick={() =>
              order({ intent: 'resolve', noteId: note.id, isResolved: !isResolved, author: author.trim() })
            }
          >
            {isResolved ? 'Open again' : 'Resolve'}
          </button>
        </p>
      ) : (
        <form className="flex flex-col gap-1.5 pt-1.5" onSubmit={sendAnswer} aria-label="Answer">
          <AuthorField />
          <input
            autoFocus
            className={FIELD}
            aria-label="Answer"
            value={answer}
            maxLength={4000}
            required
            onChange={({ target }) => setAnswer(target.value)}
          />{' '}
          {/* prettier-ignore */}
          <p className="flex gap-1.5">
            <button type="submit" className={SMALL_BUTTON}>
              Send
            </button>
            <button type="button" className={SMALL_BUTTON} onClick={() => setAnswer(null)}>
              Leave it
            </button>
          </p>
        </form>
      )}
    </article>
  )
}
