/** The frame number: clicked, or by key, a frame or a timecode can be typed to go there. */
import { useEffect, useState } from 'react'
import { frameFromWords } from '../../core/time'
import { useBench, useBenchParts } from '../BenchContext'

export const TYPE_FRAME_EVENT = 'fillagrant:type-frame'

export function FrameEntry() {
  const { store } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const [text, setText] = useState<string | null>(null)
  useEffect(() => {
    const open = () => setText('')
    window.addEventListener(TYPE_FRAME_EVENT, open)
    return () => window.removeEventListener(TYPE_FRAME_EVENT, open)
  }, [])
  if (text === null) {
    return (
      <button
        type="button"
        className="ml-1 rounded-sm px-1 font-mono text-xl font-bold hover:bg-raised"
        title="Type a frame or a timecode to go to"
        aria-label={`Frame ${frame}. Go to another.`}
        onClick={() => setText('')}
      >
        <span data-testid="frame">{frame}</span>
      </button>
    )
  }
  const target = frameFromWords(text, plate.firstFrame, plate.frameRate)
  const isInside = target !== null && target >= plate.firstFrame && target <= plate.lastFrame
  const isWrong = text.trim() !== '' && !isInside
  return (
    <form
      className="ml-1"
      onSubmit={(event) => {
        event.preventDefault()
        if (isWrong) return
        if (isInside) store.getState().goTo(target)
        setText(null)
      }}
    >
      <input
        autoFocus
        aria-label="Frame or timecode to go to"
        aria-invalid={isWrong}
        title={isWrong ? `The shot has the frames ${plate.firstFrame} to ${plate.lastFrame}` : undefined}
        placeholder={String(frame)}
        value={text}
        className={`w-36 rounded-sm border bg-well px-1 font-mono text-xl ${isWrong ? 'border-snag' : 'border-line'}`}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => setText(null)}
        onKeyDown={(event) => event.key === 'Escape' && setText(null)}
      />
    </form>
  )
}
