/** What can be done with the library of marks: one schema for who asks and who carries it out. */
import { z } from 'zod'

const shotIdSchema = z.string().min(1).max(80)
const nameSchema = z.string().trim().min(1, { message: 'the mark needs a name' }).max(80)
const placePxSchema = z.number().min(-100_000).max(100_000)

/** Where its upper left corner lies, px, in a picture of a size. */
export const markPlaceSchema = z.strictObject({
  leftPx: placePxSchema,
  topPx: placePxSchema,
  width: z.int().min(1).max(100_000),
  height: z.int().min(1).max(100_000),
})
export type KeptPlace = z.output<typeof markPlaceSchema>

export const markCommandSchema = z.discriminatedUnion('intent', [
  /** A picture that the server has gets a name; from a shot, it is known where it lay there. */
  z.strictObject({
    intent: z.literal('keep'),
    picture: z.string().regex(/^mark:[0-9a-f-]{36}$/),
    name: nameSchema,
    productionId: z.string().max(80).nullable(),
    shotId: shotIdSchema.nullable(),
    place: markPlaceSchema.nullable(),
  }),
  z.strictObject({ intent: z.literal('rename'), id: z.uuid(), name: nameSchema }),
  z.strictObject({ intent: z.literal('remove'), id: z.uuid() }),
  z.strictObject({
    intent: z.literal('apply'),
    id: z.uuid(),
    shotIds: z.array(shotIdSchema).min(1).max(1000),
  }),
])
export type MarkCommand = z.output<typeof markCommandSchema>

/** A mark of the library. */
export interface ListedMark {
  readonly id: string
  readonly name: string
  readonly productionName: string
  /** The name under which fills know its picture. */
  readonly picture: string
  readonly width: number
  readonly height: number
  readonly place: KeptPlace | null
}

/** The mark that an order was about, or that came of it. */
export interface MarkDone {
  readonly markId: string | null
}
