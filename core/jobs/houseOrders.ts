/** What can be asked of the house: productions and shots made, named, moved, put away. One schema for page and server. */
import { z } from 'zod'

/** As people write it. */
const name = z.string().trim().min(1, 'A name is needed.').max(80, 'A name may have 80 characters at most.')
const shotIds = z.array(z.string().min(1).max(200)).min(1).max(1000)
const productionId = z.string().min(1).max(200)

/** What is brought in beside the footage. */
export const BESIDE_KINDS = ['still', 'matte', 'mark'] as const
export type BesideKind = (typeof BESIDE_KINDS)[number]
/** As people call it. */
export const BESIDE_TITLES: Readonly<Record<BesideKind, string>> = {
  still: 'Still',
  matte: 'Matte',
  mark: 'Mark',
}

export const houseOrderSchema = z.discriminatedUnion('intent', [
  z.strictObject({ intent: z.literal('rename-shot'), shotId: z.string().min(1).max(200), name, title: z.string().trim().max(200) }), // prettier-ignore
  z.strictObject({ intent: z.literal('move-shots'), shotIds, productionId }),
  z.strictObject({ intent: z.literal('delete-shots'), shotIds }),
  z.strictObject({ intent: z.literal('put-back-shots'), shotIds }),
  z.strictObject({ intent: z.literal('delete-beside'), kind: z.enum(BESIDE_KINDS), id: z.uuid() }),
  z.strictObject({ intent: z.literal('put-back-beside'), kind: z.enum(BESIDE_KINDS), id: z.uuid() }),
  z.strictObject({ intent: z.literal('delete-version'), versionId: z.uuid() }),
  z.strictObject({ intent: z.literal('make-production'), name }),
  z.strictObject({ intent: z.literal('rename-production'), productionId, name }),
  z.strictObject({ intent: z.literal('archive-production'), productionId, isArchived: z.boolean() }),
  z.strictObject({ intent: z.literal('delete-production'), productionId }),
  z.strictObject({ intent: z.literal('put-back-production'), productionId }),
  z.strictObject({ intent: z.literal('empty-bin') }),
])
export type HouseOrder = z.output<typeof houseOrderSchema>

export interface HouseAnswer {
  readonly ok: boolean
  readonly message: string
}

/** How long what is deleted can be put back, days. */
export const BIN_DAYS = 30
