/** Which frames the selected mend takes pixels from on the frame that is looked at: thin lines to hollow rings; keys of it are pins. */
import { isStepKeys, withoutStepKeyAt } from '../../core/stepKeys'
import { setFillParam } from '../../core/document/commands'
import { framesGathered, plannedMend } from '../../core/plan/plannedMend'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'

export function GatherRow({ mend, share }: { mend: MendRecord; share: (frame: number) => string }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const plate = useBench((bench) => bench.plate)
  const isOn = mend.isOn && frame >= mend.span.firstFrame && frame <= mend.span.lastFrame
  const frames = framesGathered(plannedMend(mend), frame, plate)?.frames
  if (!frames) return null
  const held = Object.entries(mend.fill.params).flatMap(([name, value]) =>
    isStepKeys(value) && value.length > 1 ? [{ name, keys: value }] : [],
  )
  const { goTo, commit } = store.getState()
  const ends = isOn && frames.length > 0 ? [Math.min(frame, ...frames), Math.max(frame, ...frames)] : null
  const words = frames.length === 1 ? `From ${frames[0]}` : `From ${frames.length} frames`
  return (
    <div
      className="relative h-5"
      data-testid="gather-row"
      aria-label={isOn ? words : 'Off here'}
      role="group"
    >
      {ends && (
        <>
          <span
            className="absolute top-2 h-px bg-soft"
            style={{ left: share(ends[0]!), width: `calc(${share(ends[1]!)} - ${share(ends[0]!)})` }}
            aria-hidden
          />
          {frames.map((other) => (
            <span
              key={other}
              className="absolute top-[5px] size-[7px] -translate-x-1/2 rounded-full border border-ink bg-panel"
              style={{ left: share(other) }}
              aria-hidden
            />
          ))}
          {frames.length === 1 && (
            <span
              className={`absolute top-0 font-mono text-xs text-soft ${frames[0]! < frame ? '-translate-x-[calc(100%+8px)]' : 'translate-x-2'}`}
              style={{ left: share(frames[0]!) }}
            >
              {frames[0]}
            </span>
          )}
        </>
      )}
      {held.flatMap(({ name, keys }) =>
        keys.map((key) => (
          <button
            key={`${name} ${key.frame}`}
            type="button"
            aria-label={`${key.value} frames away from ${key.frame} on. Delete removes the key.`}
            title={`${key.value > 0 ? '+' : ''}${key.value} frames from ${key.frame} on`}
            className="absolute -top-0.5 h-5 w-4 -translate-x-1/2"
            style={{ left: share(Math.max(plate.firstFrame, key.frame)) }}
            onClick={() => goTo(Math.max(plate.firstFrame, key.frame))}
            onKeyDown={(event) => {
              if (event.key !== 'Delete' && event.key !== 'Backspace') return
              event.preventDefault()
              event.stopPropagation()
              commit(setFillParam(mend, name, withoutStepKeyAt(keys, key.frame), 'Remove a key'))
            }}
          >
            <svg
              viewBox="0 0 16 20"
              className="size-full"
              aria-hidden
              fill="none"
              stroke={key.frame === frame ? 'var(--color-thread)' : 'var(--color-ink)'}
              strokeWidth={1.6}
            >
              <path d="M8 2.4l3.4 3.4L8 9.2 4.6 5.8zM8 9.2V18" />
            </svg>
          </button>
        )),
      )}
    </div>
  )
}
