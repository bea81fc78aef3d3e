/**
 * The mend document: what is removed from a shot, where, how and when.
 *
 * One schema for each thing feeds validation, storage, the exported file and its JSON Schema. Frames
 * are the numbers people read; positions and sizes are px of the full-size picture, corner at 0.
 */
import { z } from 'zod'
import { defaultsOf, findFill } from '../fill/registry'
import { labelled } from '../parameter'
import { areaSchema, type Area } from './areas'
import { idSchema } from './basics'
import { fillSettingsSchema, type FillSettings } from './fillSettings'
import { KINDS, type Kind } from './kinds'
import { sourceSchema } from './source'
import { spanSchema } from './span'

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

/** Kinds are named by what is wrong; a kind only chooses what a mend starts with. */
export const mendKindSchema = z.enum(Object.keys(KINDS) as [MendKind, ...MendKind[]])
export type MendKind = keyof typeof KINDS

/** A thousand strokes of a brush, and as many more. */
export const MOST_AREAS = 2000

export const haveOneIdEach = (areas: readonly { readonly id: string }[]): boolean =>
  new Set(areas.map((area) => area.id)).size === areas.length
export const ONE_ID_EACH = { message: 'one id for each area' }

/** Whether areas, each of them right, are together those of a mend. */
export const areAreasOfMend = (areas: readonly Area[]): boolean =>
  areas.length > 0 && areas.length <= MOST_AREAS && haveOneIdEach(areas)

export const mendSchema = z.strictObject({
  id: idSchema,
  kind: mendKindSchema,
  name: z.string().trim().min(1).max(80),
  isOn: z.boolean(),
  areas: z.array(areaSchema).min(1).max(MOST_AREAS).refine(haveOneIdEach, ONE_ID_EACH),
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

export type Finish = z.output<typeof finishSchema>
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
