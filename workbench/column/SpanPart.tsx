/** The Span part: the frames where a mend is on, its ramps, and handing over to another mend of the same thing. */
import { useState } from 'react'
import { v4 as newId } from 'uuid'
import { handOver, setSpan, splitMend } from '../../core/document/commands'
import type { MendRecord } from '../../core/document/mend'
import type { Span } from '../../core/document/span'
import { useBench, useBenchParts } from '../BenchContext'
import { NumberField } from '../fields/NumberField'
import { SMALL_BUTTON } from './buttonStyles'

const USUAL_DISSOLVE_FRAMES = 8
const LONGEST_RAMP_FRAMES = 100

/** No ramp is longer than the mend is on. */
const longestRampFrames = ({ firstFrame, lastFrame }: Span): number =>
  Math.min(LONGEST_RAMP_FRAMES, Math.max(1, lastFrame - firstFrame))

export function SpanPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const [dissolveFrames, setDissolveFrames] = useState(USUAL_DISSOLVE_FRAMES)
  const { preview, endGesture, commit } = store.getState()
  const { firstFrame, lastFrame } = mend.span
  return (
    <>
      <SpanFields
        span={mend.span}
        onChange={(span) => preview(setSpan(store.getState().records.get(mend.id)!, span))}
        onEnd={endGesture}
      />
      <p className="flex flex-wrap gap-1.5 pt-1">
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={frame > lastFrame}
          onClick={() => commit(setSpan(mend, { ...mend.span, firstFrame: frame }))}
        >
          Begin at {frame}
        </button>
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={frame < firstFrame}
          onClick={() => commit(setSpan(mend, { ...mend.span, lastFrame: frame }))}
        >
          End at {frame}
        </button>
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={frame <= firstFrame || frame > lastFrame}
          title="Two mends of one: from this frame on a second one that can be changed by itself."
          onClick={() => {
            const edit = splitMend(store.getState().records, mend, newId(), frame)
            if (edit) commit(edit)
          }}
        >
          Split at {frame}
        </button>
      </p>
      <NumberField
        title="Dissolve"
        help="How long a handover to another mend of the same thing takes."
        unit="frames"
        value={dissolveFrames}
        min={0}
        max={longestRampFrames(mend.span)}
        step={1}
        onChange={(value) => setDissolveFrames(Math.round(value))}
        onEnd={() => undefined}
      />
      <button
        type="button"
        className={SMALL_BUTTON}
        disabled={frame <= firstFrame || frame > lastFrame}
        title="A copy takes over from this frame on: give it another fill, and it dissolves in over the first."
        onClick={() => {
          const edit = handOver(store.getState().records, mend, newId(), frame, dissolveFrames)
          if (edit) commit(edit)
        }}
      >
        Hand over at {frame}
      </button>
    </>
  )
}

/** First and last frame and the ramps between them. */
export function SpanFields({
  span,
  onChange,
  onEnd,
}: {
  span: Span
  onChange: (span: Span) => void
  onEnd: () => void
}) {
  const plate = useBench((bench) => bench.plate)
  const { firstFrame, lastFrame } = span
  const longestRamp = longestRampFrames(span)
  const field = (title: string, part: keyof Span, min: number, max: number, unit = '', help?: string) => (
    <NumberField
      title={title}
      help={help}
      unit={unit}
      value={span[part]}
      min={min}
      max={max}
      step={1}
      hasSlider={part.startsWith('ramp')}
      onChange={(value) => onChange({ ...span, [part]: Math.round(value) })}
      onEnd={onEnd}
    />
  )
  return (
    <>
      {field('First frame', 'firstFrame', plate.firstFrame, lastFrame)}
      {field('Last frame', 'lastFrame', firstFrame, plate.lastFrame)}
      {field('Ramp in', 'rampInFrames', 0, longestRamp, 'frames', 'Over so many frames it comes bit by bit.')}
      {field(
        'Ramp out',
        'rampOutFrames',
        0,
        longestRamp,
        'frames',
        'Over so many frames it goes bit by bit.',
      )}
    </>
  )
}
