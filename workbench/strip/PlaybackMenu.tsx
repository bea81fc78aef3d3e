/** How the shot is played: the range, what comes at its end, pace and speed. */
import { Repeat } from 'lucide-react'
import { Popover } from 'radix-ui'
import { PLAIN_PLAYBACK, playbackSchema } from '../../core/view/playback'
import { useBench, useBenchParts } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { NumberField } from '../fields/NumberField'
import { SchemaForm } from '../fields/SchemaForm'
import { playedRange } from '../store/benchState'

export function PlaybackMenu() {
  const { store } = useBenchParts()
  const { firstFrame, lastFrame } = useBench((bench) => bench.plate)
  const playback = useBench((bench) => bench.playback)
  const playRange = useBench((bench) => bench.playRange)
  const range = playedRange(store.getState())
  const { setPlayback, setPlayRange } = store.getState()
  const isPlain = playRange === null && Object.entries(PLAIN_PLAYBACK).every(([name, value]) => playback[name as keyof typeof playback] === value) // prettier-ignore
  return (
    <Popover.Root>
      <Popover.Trigger
        className={`rounded-sm p-1.5 hover:bg-lifted ${isPlain ? 'bg-well' : 'bg-lifted text-thread'}`}
        aria-label={`Playback${playRange ? `: frames ${playRange.firstFrame} to ${playRange.lastFrame}` : ''}`}
        title="Range, pace and speed of playing"
      >
        <Repeat aria-hidden className="size-4" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          sideOffset={6}
          className="z-20 w-80 rounded-sm border border-line bg-raised p-3 shadow-xl"
          aria-label="Playback"
        >
          <NumberField
            title="From"
            unit=""
            value={range.firstFrame}
            min={firstFrame}
            max={lastFrame}
            step={1}
            onChange={(from) => setPlayRange({ firstFrame: Math.round(from), lastFrame: Math.max(range.lastFrame, Math.round(from)) })} // prettier-ignore
            onEnd={() => undefined}
          />
          <NumberField
            title="To"
            unit=""
            value={range.lastFrame}
            min={firstFrame}
            max={lastFrame}
            step={1}
            onChange={(to) => setPlayRange({ firstFrame: Math.min(range.firstFrame, Math.round(to)), lastFrame: Math.round(to) })} // prettier-ignore
            onEnd={() => undefined}
          />
          <SchemaForm
            schema={playbackSchema}
            values={playback}
            names={['repeat', 'pace', 'speed']}
            onChange={(name, value) => setPlayback({ [name]: value })}
            onEnd={() => undefined}
          />
          <button
            type="button"
            className={`${SMALL_BUTTON} mt-1`}
            disabled={!playRange}
            onClick={() => setPlayRange(null)}
          >
            All frames
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
