import { z } from 'zod'
import type { CurveKey } from './curveKeys'
import type { StepKey } from './stepKeys'
import type { ParameterLabel } from './parameter'

/** One line of a form, read from a schema. */
export type ParameterField = ParameterLabel & { readonly name: string } & (
    | {
        readonly kind: 'number'
        readonly min: number
        readonly max: number
        readonly step: number
        readonly default: number
      }
    | { readonly kind: 'choice'; readonly values: readonly string[]; readonly default: string }
    /** A whole number, keyed: see `stepKeys.ts`. */
    | {
        readonly kind: 'held'
        readonly min: number
        readonly max: number
        readonly step: number
        readonly default: readonly StepKey[]
      }
    /** A number, keyed, straight between keys: see `curveKeys.ts`. */
    | {
        readonly kind: 'curve'
        readonly min: number
        readonly max: number
        readonly step: number
        readonly default: readonly CurveKey[]
      }
    /** The number of a frame. */
    | { readonly kind: 'frame'; readonly min: number; readonly max: number; readonly default: number }
    /** x, y of four corners, or none as long as they are the picture's own. */
    | {
        readonly kind: 'corners'
        readonly min: number
        readonly max: number
        readonly default: readonly number[]
      }
    /** `#rrggbb`. */
    | { readonly kind: 'colour'; readonly default: string }
    /** Tones of a skin: see `skin/tonesSet.ts`. */
    | { readonly kind: 'tones'; readonly default: readonly [] }
    /** The name of a picture. */
    | { readonly kind: 'still' | 'mark'; readonly default: string }
  )

type PropertySchema = Partial<ParameterLabel> & {
  readonly type?: string
  readonly enum?: readonly string[]
  readonly minimum?: number
  readonly maximum?: number
  readonly default?: unknown
  readonly pattern?: string
  readonly items?: PropertySchema & { readonly properties?: Readonly<Record<string, PropertySchema>> }
}

/**
 * The form of a settings schema, in the order of its declaration.
 * @throws TypeError when a parameter lacks what a form needs: a label, a range, a default.
 */
export function parameterFields(schema: z.ZodObject): ParameterField[] {
  const { properties = {} } = z.toJSONSchema(schema, { io: 'input' }) as {
    properties?: Record<string, PropertySchema>
  }
  return Object.entries(properties).map(([name, property]) => {
    const { title, help, unit = '', step, choices, shownWhen } = property
    if (!title || !help) throw new TypeError(`the parameter ${name} needs a title and a help text`)
    const label = { name, title, help, unit, choices, shownWhen }
    if (property.enum)
      return { ...label, kind: 'choice', values: property.enum, default: String(property.default) }
    if (property.type === 'string')
      return { ...label, kind: kindOfText(property), default: String(property.default) }
    if (property.areTones) return { ...label, kind: 'tones', default: [] }
    if (property.type === 'array') return { ...label, ...listField(name, property) }
    const { minimum: min, maximum: max, default: start } = property
    if (min === undefined || max === undefined || typeof start !== 'number')
      throw new TypeError(`the parameter ${name} needs a range and a default`)
    if (property.isFrame) return { ...label, kind: 'frame', min, max, default: start }
    return { ...label, kind: 'number', min, max, step: step ?? (max - min) / 100, default: start }
  })
}

const kindOfText = ({ pattern, isMark }: PropertySchema) => (pattern ? 'colour' : isMark ? 'mark' : 'still')

function listField(name: string, { items, step, default: start }: PropertySchema) {
  const { value: held, level } = items?.properties ?? {}
  const value = held ?? level ?? items
  const { minimum: min, maximum: max } = value ?? {}
  if (min === undefined || max === undefined || !Array.isArray(start))
    throw new TypeError(`the parameter ${name} needs a range and a default`)
  if (level) return { kind: 'curve', min, max, step: step ?? 0.01, default: start as CurveKey[] } as const
  return items?.properties
    ? ({ kind: 'held', min, max, step: step ?? 1, default: start as StepKey[] } as const)
    : ({ kind: 'corners', min, max, default: start as number[] } as const)
}
