import { z } from 'zod'
import { defineFill, knownPixels, type FillMethod, type Surroundings } from '../method'
import { bridgeUnread, readSource, sourceThere } from '../readSource'

const params = z.strictObject({})

/** What is said when a fill that copies has nowhere to copy from. */
export const NO_SOURCE = {
  ok: false,
  reason: 'no-source',
  detail: 'It has no source yet. Press Suggest places, or place one.',
} as const

/**
 * Clone: the picture at the mend's source, as it is. A shift by whole pixels brings the samples over unchanged.
 */
export const clone: FillMethod = defineFill<typeof params, Surroundings>({
  id: 'clone',
  version: 1,
  title: 'Clone',
  summary:
    'Copies from a place of your choice. Grain and texture are real; brightness must fit, or be agreed in the finish.',
  source: 'Common practice, no source.',
  params,
  needsPath: false,
  isCopy: true,
  needsSource: () => true,
  reach: () => ({ marginPx: 4 }),
  steady: {
    wants: () => ({ besideFrames: 0, anchor: false, clear: true }),
    prepare: (input) => sourceThere(input),
  },

  run(input, _settings, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    if (!input.source) return NO_SOURCE
    const { values, isSeen, grainKept, faults } = readSource(
      input,
      input.source,
      prepared,
      (i) => input.wanted[i]! > 0,
    )
    if (!bridgeUnread(input, values, isSeen, grainKept, knownPixels(input))) {
      return {
        ok: false,
        reason: 'no-source',
        detail:
          'Nothing of the source can be taken on this frame. Move it into the picture and clear of holdouts.',
      }
    }
    return { ok: true, values, grainKept, faults }
  },
})
