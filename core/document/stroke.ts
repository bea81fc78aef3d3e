/** What a brush lays down along a path. */
import { z } from 'zod'
import { labelled } from '../parameter'
import { fillSettingsSchema } from './fillSettings'
import { sourceSchema } from './source'
import { spanSchema } from './span'

/** What a tip is like, whatever it lays down. */
export const tipSchema = z.strictObject({
  softness: labelled(z.number().min(0).max(1).default(0.5), {
    title: 'Softness',
    help: 'How much of the tip fades: 0 a hard edge, 1 from the middle on.',
    unit: '',
    step: 0.05,
  }),
  strength: labelled(z.number().min(0).max(1).default(1), {
    title: 'Strength',
    help: 'How much of the picture a stroke replaces: 1 all of it. Strokes over each other build up.',
    unit: '',
    step: 0.05,
  }),
  spacing: labelled(z.number().min(0).max(5).default(0), {
    title: 'Spacing',
    help: 'Dabs lie so many sizes of the tip apart; below 0.1 the stroke is unbroken.',
    unit: '×',
    step: 0.05,
  }),
})

export const strokeSchema = tipSchema
  .extend({
    fill: fillSettingsSchema,
    source: sourceSchema.nullable().meta({ description: 'Where a stroke that copies takes its pixels from' }),
    span: spanSchema.meta({ description: 'Frames on which it is there, within those of its mend' }),
    isHidden: z.boolean(),
  })
  .meta({ description: 'A stroke of a brush' })

export type Stroke = z.output<typeof strokeSchema>
