import { z } from 'zod'
import { motionModels } from '../geometry/estimate'
import { labelled } from '../parameter'
import { trackerInputSchema } from './input'

/** How a track looks for its subject: one form, one stored object, for every kind of track. */
export const trackSettingsSchema = trackerInputSchema.extend({
  patchPx: labelled(z.number().min(9).max(101).default(21), {
    title: 'Patch',
    help: 'Side of the square around a point that must look alike. Larger holds better, smaller bends better.',
    unit: 'px',
    step: 2,
  }),
  searchPx: labelled(z.number().min(2).max(200).default(24), {
    title: 'Search',
    help: 'How far from where it is expected the subject may be on the next frame.',
    unit: 'px',
    step: 1,
  }),
  reference: labelled(z.enum(['start', 'refreshed']).default('start'), {
    title: 'Compare',
    help: 'With the frame it started on: no drift. Refreshed: with the last good frame, drawn back to the start where that still fits.',
    unit: '',
    choices: { start: 'Start', refreshed: 'Refreshed' },
  }),
  bridgeFrames: labelled(z.int().min(0).max(48).default(8), {
    title: 'Bridge',
    help: 'For how many frames a subject may be covered before the track counts as lost.',
    unit: 'frames',
    step: 1,
  }),
  model: labelled(z.enum(motionModels).default('perspective'), {
    title: 'Model',
    help: 'What a planar or many-point motion may do, from a plain shift to perspective.',
    unit: '',
    choices: { translation: 'Shift', similarity: 'Turn, scale', affine: 'Skew', perspective: 'Perspective' },
  }),
})
export type TrackSettings = z.output<typeof trackSettingsSchema>
export const DEFAULT_TRACK_SETTINGS: TrackSettings = trackSettingsSchema.parse({})
