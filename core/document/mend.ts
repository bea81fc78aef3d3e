/**
 * The mend document: what is removed from a shot, where, how and when.
 *
 * One schema for each thing feeds validation, storage, the exported file and its JSON Schema. Frames
 * are the numbers people read; positions and sizes are px of the full-size picture, corner at 0.
 */
import { z } from 'zod'
import { defaultsOf, fillMethods, findFill } from '../fill/registry'
import { labelled } from '../parameter'
import { areaSchema, frameSchema, idSchema } from './areas'
import { sourceSchema } from './source'
import { KINDS, type Kind } from './kinds'

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
      context.addIssue({
        code: 'custom',
        path: ['methodId'],
        message: `no fill is called "${fill.methodId}"; there is: ${known}`,
      })
      return
    }
    if (fill.methodVersion > method.version) {
      context.addIssue({
        code: 'custom',
        path: ['methodVersion'],
        message: `"${fill.methodId}" is at version ${method.version} here`,
      })
    }
    const result = method.params.safeParse(fill.params)
    for (const issue of result.error?.issues ?? []) {
      context.addIssue({ code: 'custom', path: ['params', ...issue.path], message: issue.message })
    }
  })

export const finishSchema = z.strictObject({
  featherOutPx: labelled(z.number().min(0).max(64).default(1.5), {
    title: 'Feather out',
    unit: 'px',
    help: 'How far the edge takes to fade outside the area.',
    step: 0.1,
  }),
  featherInPx: labelled(z.number().min(0).max(64).default(0), {
    title: 'Feather in',
    unit: 'px',
    help: 'How far inside the area the edge begins to fade.',
    step: 0.1,
  }),
  growPx: labelled(z.number().min(-32).max(64).default(0.5), {
    title: 'Grow',
    unit: 'px',
    help: 'Widens the area on each side, below 0 narrows it.',
    step: 0.1,
  }),
  agree: labelled(z.number().min(0).max(1).default(1), {
    title: 'Agree',
    help: 'How far brightness and colour of a copy are brought to those of its new place, measured around the area.',
    unit: '',
    step: 0.05,
  }),
  exposureStops: labelled(z.number().min(-4).max(4).default(0), {
    title: 'Exposure',
    help: 'Brightens or darkens the fill.',
    unit: 'stops',
    step: 0.05,
  }),
  saturation: labelled(z.number().min(0).max(2).default(1), {
    title: 'Saturation',
    help: 'Colour of the fill: 0 grey, 1 as it is.',
    unit: '×',
    step: 0.02,
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
  grainFrom: labelled(z.enum(['made', 'carried']).default('made'), {
    title: 'Grain from',
    help: 'Made anew, as measured around the area; or carried over from the plate beside it, fine texture and all.',
    unit: '',
    choices: { made: 'Made', carried: 'Carried' },
  }),
})

const rampSchema = z.int().min(0).max(1000).default(0)

/** The frames where a mend is on; over its ramps it comes and goes bit by bit. */
export const spanSchema = z
  .strictObject({
    firstFrame: frameSchema,
    lastFrame: frameSchema,
    rampInFrames: rampSchema.meta({ description: 'Frames over which it comes, counted from the first' }),
    rampOutFrames: rampSchema.meta({ description: 'Frames over which it goes, counted back from the last' }),
  })
  .refine((span) => span.lastFrame >= span.firstFrame, {
    message: 'the last frame must not come before the first',
  })

/** How far it is on at a frame of its span, 0 to 1: even steps, the first of them above 0. */
export function rampAt({ firstFrame, lastFrame, rampInFrames, rampOutFrames }: Span, frame: number): number {
  if (frame < firstFrame || frame > lastFrame) return 0
  return Math.min(
    1,
    (frame - firstFrame + 1) / (rampInFrames + 1),
    (lastFrame - frame + 1) / (rampOutFrames + 1),
  )
}

/** Kinds are named by what is wrong; a kind only chooses what a mend starts with. */
export const mendKindSchema = z.enum(Object.keys(KINDS) as [MendKind, ...MendKind[]])
export type MendKind = keyof typeof KINDS

export const mendSchema = z.strictObject({
  id: idSchema,
  kind: mendKindSchema,
  name: z.string().trim().min(1).max(80),
  isOn: z.boolean(),
  areas: z
    .array(areaSchema)
    .min(1)
    .max(2000)
    .refine((areas) => new Set(areas.map((area) => area.id)).size === areas.length, {
      message: 'one id for each area',
    }),
  fill: fillSettingsSchema,
  otherFills: z.array(fillSettingsSchema).max(50).optional().meta({
    description: 'Fills that were chosen before, with their settings: chosen again, they are as they were',
  }),
  source: sourceSchema.nullable().meta({ description: 'Where fills that copy take their pixels from' }),
  finish: finishSchema,
  span: spanSchema,
})

/** A mend as it lies in a shot's stack; lower `order` is applied first. */
export const mendRecordSchema = mendSchema.extend({ stackIndex: z.number() })

export type FillSettings = z.output<typeof fillSettingsSchema>
export type Finish = z.output<typeof finishSchema>
export type Span = z.output<typeof spanSchema>
export type Mend = z.output<typeof mendSchema>
export type MendRecord = z.output<typeof mendRecordSchema>

export const DEFAULT_FINISH: Finish = finishSchema.parse({})

/** The fill and finish that a new mend of a kind starts with. */
export function startingFill(kind: MendKind = 'wire'): FillSettings {
  const { fill, params }: Kind = KINDS[kind]
  const method = findFill(fill)!
  return {
    methodId: method.id,
    methodVersion: method.version,
    params: { ...defaultsOf(method), ...params },
  }
}

export const startingFinish = (kind: MendKind): Finish => ({ ...DEFAULT_FINISH, ...KINDS[kind].finish })
