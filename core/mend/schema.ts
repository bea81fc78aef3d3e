/**
 * The mend document: what is removed from a shot, where, how and when.
 *
 * One schema for each thing feeds validation, storage, the exported file and its JSON Schema. Frames
 * are the numbers people read; positions and sizes are px of the full-size picture, corner at 0.
 */
import { z } from 'zod'
import { defaultsOf, fillMethods, findFill } from '../fill/registry'
import { labelled } from '../parameter'

const MAX_COORDINATE_PX = 100_000
const MAX_FRAME = 10_000_000

export const frameSchema = z.int().min(0).max(MAX_FRAME).meta({ description: 'Frame number as read on the timeline' })
const coordinateSchema = z.number().min(-MAX_COORDINATE_PX).max(MAX_COORDINATE_PX)

/** The limits of a path's width, shared by form, handles and file. */
export const WIDTH_PX = { min: 0.5, max: 400 } as const

export const pathPointSchema = z
  .strictObject({
    x: coordinateSchema.meta({ description: 'px from the left edge of the picture' }),
    y: coordinateSchema.meta({ description: 'px from the top edge of the picture' }),
    widthPx: z.number().min(WIDTH_PX.min).max(WIDTH_PX.max).meta({ description: 'Full width of the area at this point' }),
  })
  .meta({ description: 'A point of a path' })

const pathKeySchema = z.strictObject({
  frame: frameSchema,
  points: z.array(pathPointSchema).min(2).max(64),
})

export const pathAreaSchema = z
  .strictObject({
    shape: z.literal('path'),
    travel: z.enum(['smooth', 'linear']).default('smooth').meta({ description: 'How points move between keys' }),
    keys: z.array(pathKeySchema).min(1).max(10_000),
  })
  .superRefine((area, context) => {
    for (let i = 1; i < area.keys.length; i++) {
      if (area.keys[i]!.frame <= area.keys[i - 1]!.frame) {
        context.addIssue({ code: 'custom', path: ['keys', i, 'frame'], message: 'keys must be in rising order of frames, one for each frame' })
      }
      if (area.keys[i]!.points.length !== area.keys[0]!.points.length) {
        context.addIssue({ code: 'custom', path: ['keys', i, 'points'], message: 'every key must have the same number of points' })
      }
    }
  })
  .meta({ description: 'An open area: a centreline with a width' })

/** A fill and its settings; the settings are checked by the fill's own schema. */
export const fillSettingsSchema = z
  .strictObject({
    methodId: z.string(),
    methodVersion: z.int().min(1),
    params: z.record(z.string(), z.unknown()),
  })
  .superRefine((fill, context) => {
    const method = findFill(fill.methodId)
    if (!method) {
      const known = fillMethods.map((one) => one.id).join(', ')
      context.addIssue({ code: 'custom', path: ['methodId'], message: `no fill is called "${fill.methodId}"; there is: ${known}` })
      return
    }
    if (fill.methodVersion > method.version) {
      context.addIssue({ code: 'custom', path: ['methodVersion'], message: `"${fill.methodId}" is at version ${method.version} here` })
    }
    const result = method.params.safeParse(fill.params)
    for (const issue of result.error?.issues ?? []) {
      context.addIssue({ code: 'custom', path: ['params', ...issue.path], message: issue.message })
    }
  })

export const finishSchema = z.strictObject({
  featherPx: labelled(z.number().min(0).max(64).default(1.5), {
    title: 'Feather',
    unit: 'px',
    help: 'How far the edge takes to fade outside the area.',
    step: 0.1,
  }),
  growPx: labelled(z.number().min(-32).max(64).default(0.5), {
    title: 'Grow',
    unit: 'px',
    help: 'Widens the area on each side, below 0 narrows it.',
    step: 0.1,
  }),
  strength: labelled(z.number().min(0).max(1).default(1), {
    title: 'Strength',
    unit: '',
    help: 'How much of the plate is replaced: 1 all of it.',
    step: 0.01,
  }),
  grain: labelled(z.number().min(0).max(2).default(1), {
    title: 'Grain',
    unit: '×',
    help: 'Grain put back where the fill is smoother than the plate around it: 1 matches.',
    step: 0.05,
  }),
})

export const spanSchema = z
  .strictObject({ firstFrame: frameSchema, lastFrame: frameSchema })
  .refine((span) => span.lastFrame >= span.firstFrame, { message: 'the last frame must not come before the first' })

/** Kinds are named by what is wrong; a kind only chooses what a mend starts with. */
export const mendKindSchema = z.enum(['wire'])

export const mendSchema = z.strictObject({
  id: z.string().regex(/^[A-Za-z0-9_-]{1,64}$/, 'an id has 1 to 64 letters, digits, - or _'),
  kind: mendKindSchema,
  name: z.string().trim().min(1).max(80),
  isOn: z.boolean(),
  area: pathAreaSchema,
  fill: fillSettingsSchema,
  finish: finishSchema,
  span: spanSchema,
})

/** A mend as it lies in a shot's stack; lower `order` is applied first. */
export const mendRecordSchema = mendSchema.extend({ order: z.number() })

export type PathKey = z.output<typeof pathKeySchema>
export type PathArea = z.output<typeof pathAreaSchema>
export type FillSettings = z.output<typeof fillSettingsSchema>
export type Finish = z.output<typeof finishSchema>
export type Span = z.output<typeof spanSchema>
export type MendKind = z.output<typeof mendKindSchema>
export type Mend = z.output<typeof mendSchema>
export type MendRecord = z.output<typeof mendRecordSchema>

export const DEFAULT_FINISH: Finish = finishSchema.parse({})

/** The fill that a new mend starts with. */
export function startingFill(): FillSettings {
  const method = fillMethods[0]!
  return { methodId: method.id, methodVersion: method.version, params: defaultsOf(method) }
}
