/** How a shot is played: which frames, in which order, how fast. */
import { z } from 'zod'
import { labelled } from '../parameter'
import type { Frame, FrameRange } from '../time'

export const playbackSchema = z.strictObject({
  repeat: labelled(z.enum(['loop', 'once', 'to-and-fro']).default('loop'), {
    title: 'At the end',
    help: 'Loop: from the start again. To and fro: back the way it came.',
    unit: '',
    choices: { loop: 'Loop', once: 'Stop', 'to-and-fro': 'To and fro' },
  }),
  pace: labelled(z.enum(['every', 'real']).default('every'), {
    title: 'Pace',
    help: 'Every frame: one that is not ready is waited for. Real time: the clock is kept, and frames that are late are left out and counted.',
    unit: '',
    choices: { every: 'Every frame', real: 'Real time' },
  }),
  speed: labelled(z.enum(['half', 'full', 'double']).default('full'), {
    title: 'Speed',
    help: 'Of the shot’s own rate.',
    unit: '',
    choices: { half: '½ ×', full: '1 ×', double: '2 ×' },
  }),
})
export type Playback = z.output<typeof playbackSchema>

export const PLAIN_PLAYBACK: Playback = playbackSchema.parse({})

export const SPEEDS: Readonly<Record<Playback['speed'], number>> = { half: 0.5, full: 1, double: 2 }

/** A frame that is played, and which way on: 1 or −1. */
export interface Played {
  readonly frame: Frame
  readonly way: 1 | -1
}

/** The next frame in a range; null where playing ends. A frame outside of the range goes into it. */
export function playedAfter(
  { frame, way }: Played,
  { firstFrame, lastFrame }: FrameRange,
  repeat: Playback['repeat'],
): Played | null {
  if (frame < firstFrame || frame > lastFrame) return { frame: firstFrame, way: 1 }
  const next = frame + (repeat === 'to-and-fro' ? way : 1)
  if (next >= firstFrame && next <= lastFrame) return { frame: next, way: repeat === 'to-and-fro' ? way : 1 }
  if (repeat === 'once') return null
  if (repeat === 'loop' || firstFrame === lastFrame) return { frame: firstFrame, way: 1 }
  return way === 1 ? { frame: lastFrame - 1, way: -1 } : { frame: firstFrame + 1, way: 1 }
}
