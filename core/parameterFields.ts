import { z } from 'zod'
import type { ParameterLabel } from './parameter'

/** One line of a form, read from a schema. */
export type ParameterField = ParameterLabel & { readonly name: string } & (
    | { readonly kind: 'number'; readonly min: number; readonly max: number; readonly step: number; readonly default: number }
    | { readonly kind: 'choice'; readonly values: readonly string[]; readonly default: string }
    /** `#rrggbb`. */
    | { readonly kind: 'colour'; readonly default: string }
    /** The name of a picture. */
    | { readonly kind: 'still'; readonly default: string }
  )

type PropertySchema = Partial<ParameterLabel> & {
  readonly type?: string
  readonly enum?: readonly string[]
  readonly minimum?: number
  readonly maximum?: number
  readonly default?: unknown
  readonly pattern?: string
}

/**
 * The form of a settings schema, in the order of its declaration.
 * @throws TypeError when a parameter lacks what a form needs: a label, a range, a default.
 */
export function parameterFields(schema: z.ZodObject): ParameterField[] {
  const { properties = {} } = z.toJSONSchema(schema, { io: 'input' }) as { properties?: Record<string, PropertySchema> }
  return Object.entries(properties).map(([name, property]) => {
    const { title, help, unit = '', step, choices, shownWhen } = property
    if (!title || !help) throw new TypeError(`the parameter ${name} needs a title and a help text`)
    const label = { name, title, help, unit, choices, shownWhen }
    if (property.enum) return { ...label, kind: 'choice', values: property.enum, default: String(property.default) }
    if (property.type === 'string') return { ...label, kind: property.pattern ? 'colour' : 'still', default: String(property.default) }
    const { minimum: min, maximum: max, default: start } = property
    if (min === undefined || max === undefined || typeof start !== 'number') throw new TypeError(`the parameter ${name} needs a range and a default`)
    return { ...label, kind: 'number', min, max, step: step ?? (max - min) / 100, default: start }
  })
}
