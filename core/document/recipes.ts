/** Recipes: a mend's settings without its place, to use again in any shot. */
import { z } from 'zod'
import { defaultsOf, findFill } from '../fill/registry'
import { parameterFields } from '../parameterFields'
import type { Frame } from '../time'
import { together } from './commands'
import type { MendEdit } from './edits'
import { finishSchema, mendKindSchema, type MendRecord } from './mend'
import { fillSettingsSchema, type FillSettings } from './fillSettings'
import { spanSchema } from './span'

const RECIPE_FORMAT = 'fillagrant-recipe'

const recipeNameSchema = z.string().trim().min(1, 'A recipe needs a name.').max(80)

export const recipeSchema = z.strictObject({
  format: z.literal(RECIPE_FORMAT),
  version: z.literal(1),
  name: recipeNameSchema,
  kind: mendKindSchema.meta({ description: 'What was wrong where it was made' }),
  fill: fillSettingsSchema,
  finish: finishSchema,
  rampInFrames: spanSchema.shape.rampInFrames,
  rampOutFrames: spanSchema.shape.rampOutFrames,
})
export type Recipe = z.output<typeof recipeSchema>

export const recipeCommandSchema = z.discriminatedUnion('intent', [
  /** In the production of the shot; in place of one of the same name. */
  z.strictObject({ intent: z.literal('keep'), shotId: z.string().max(80), recipe: recipeSchema }),
  z.strictObject({ intent: z.literal('rename'), id: z.uuid(), name: recipeNameSchema }),
  z.strictObject({ intent: z.literal('remove'), id: z.uuid() }),
])
export type RecipeCommand = z.output<typeof recipeCommandSchema>

/** As it is kept. */
export interface ListedRecipe {
  readonly id: string
  readonly recipe: Recipe
}

/** What of a fill belongs to one shot alone: frames, pictures, and where these lie. */
const OF_A_SHOT: ReadonlySet<string> = new Set(['frame', 'still', 'corners', 'curve', 'tones'])

/** Settings of a fill with what belongs to one shot as it starts there. @param frame  The one that is looked at. */
export function fillForShot(fill: FillSettings, frame?: Frame): FillSettings {
  const method = findFill(fill.methodId)
  if (!method) return fill
  const starts = defaultsOf(method, frame)
  const own = parameterFields(method.params).filter(({ kind }) => OF_A_SHOT.has(kind))
  return {
    ...fill,
    params: { ...fill.params, ...Object.fromEntries(own.map(({ name }) => [name, starts[name]])) },
  }
}

/** The settings of a mend: fill, finish and ramps. */
export const recipeOf = ({ kind, fill, finish, span }: MendRecord, name: string): Recipe => ({
  format: RECIPE_FORMAT,
  version: 1,
  name,
  kind,
  fill: fillForShot(fill),
  finish,
  rampInFrames: span.rampInFrames,
  rampOutFrames: span.rampOutFrames,
})

/** A mend with a recipe's settings; its place, its motion, its frames and what it copies from stay. */
export function cooked(mend: MendRecord, recipe: Recipe, frame: Frame): MendRecord {
  const { finish, rampInFrames, rampOutFrames } = recipe
  return {
    ...mend,
    fill: fillForShot(recipe.fill, frame),
    finish,
    span: { ...mend.span, rampInFrames, rampOutFrames },
  }
}

/** Whether a recipe's fill can fill a mend: some only know paths. */
export const suits = (recipe: Recipe, { areas }: Pick<MendRecord, 'areas'>): boolean =>
  !findFill(recipe.fill.methodId)?.needsPath ||
  areas.every((area) => area.role === 'holdout' || area.shape === 'path')

/** One edit that gives mends a recipe's settings; null where it suits none of them. */
export function applyRecipe(mends: readonly MendRecord[], recipe: Recipe, frame: Frame): MendEdit | null {
  const edits = mends
    .filter((mend) => suits(recipe, mend))
    .map((mend): MendEdit => ({
      label: `${recipe.name} for ${mend.name}`,
      changes: [{ id: mend.id, before: mend, after: cooked(mend, recipe, frame) }],
      tracks: [],
    })) // prettier-ignore
  return edits.length > 0 ? together(edits, `${recipe.name} for ${edits.length} mends`) : null
}
