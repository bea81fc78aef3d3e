import { z } from 'zod'
import { stepAt, stepNumber } from '../../stepKeys'
import { labelled } from '../../parameter'
import {
  finished,
  gatherAround,
  gatherFramesOf,
  GATHER_REACH,
  toEntries,
  lightParam,
  nothingWanted,
  steadyUnseen,
  unseenParam,
  wantedEntries,
} from '../gathered/gatherAround'
import { defineFill, type FillMethod } from '../method'

const MAX_AWAY = 240
const USUAL_AWAY = -5 // common practice: five frames earlier are tried first

const params = z.strictObject({
  away: labelled(stepNumber(-MAX_AWAY, MAX_AWAY, USUAL_AWAY), {
    title: 'Away',
    unit: 'frames',
    help: 'From so many frames later the place is taken; below 0, earlier. Keyed, it holds until the next key.',
    step: 1,
  }),
  compensate: labelled(z.enum(['on', 'off']).default('on'), {
    title: 'Compensate',
    unit: '',
    help: 'On, the place is found again where the camera has moved. Off, it is taken pixel by pixel, whatever it shows.',
    choices: { on: 'On', off: 'Off' },
  }),
  light: lightParam,
  unseen: unseenParam,
})

/** The frame that is borrowed from: where the plate has none so far away, as far the other way; null when neither is there. */
export function borrowedFrame(
  away: number,
  frame: number,
  { firstFrame, lastFrame }: { firstFrame: number; lastFrame: number },
): number | null {
  const there = [frame + away, frame - away].find(
    (other) => other !== frame && other >= firstFrame && other <= lastFrame,
  )
  return there ?? null
}

/**
 * Borrow: the same place some frames earlier or later, for things that swing clear of what is behind them.
 */
export const borrow: FillMethod = defineFill<typeof params, unknown>({
  id: 'borrow',
  version: 1,
  title: 'Borrow',
  summary:
    'Takes the same place from one other frame, grain and all. For things that are somewhere else a few frames earlier or later.',
  source: 'Common practice, no source.',
  params,
  needsPath: false,
  reach: () => GATHER_REACH,
  steady: {
    ...steadyUnseen,
    gathers: ({ away, compensate }, frame, plate) => {
      const other = borrowedFrame(stepAt(away, frame), frame, plate)
      return { frames: other === null ? [] : [other], motion: compensate === 'on' ? 'scene' : 'none' }
    },
  },

  run(input, { compensate, light, unseen }, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const frames = gatherFramesOf(prepared)
    const hidden = wantedEntries(input)
    if (hidden.length === 0) return nothingWanted(input)
    if (frames.length === 0) {
      return {
        ok: false,
        reason: 'no-source',
        detail: 'The plate has no frame so far away, earlier or later. Borrow from nearer.',
      }
    }
    const gathered = gatherAround(
      input,
      hidden,
      frames,
      { registers: compensate === 'on', relights: light === 'agreed' },
      context,
    )
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While borrowing.' }
    return finished(input, toEntries(input, hidden, gathered), unseen, context)
  },
})
