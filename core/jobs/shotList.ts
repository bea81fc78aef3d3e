/** Which shots a list shows, and in which order. */
import { z } from 'zod'

export const SHOT_ORDERS = { oldest: 'Oldest first', latest: 'Latest first', name: 'By name', mends: 'Most mends first' } as const // prettier-ignore
export const SHOT_STATES = {
  all: 'Any state',
  untouched: 'Nothing mended yet',
  mended: 'Mended',
  notes: 'With open notes',
  'to-look-at': 'To look at',
  approved: 'Approved',
  'sent-back': 'Sent back',
} as const

export const shotFilterSchema = z.object({
  /** Words of a name, a title or a production; each must be there. */
  find: z.string().catch(''),
  production: z.string().catch(''),
  state: z.enum(Object.keys(SHOT_STATES) as [keyof typeof SHOT_STATES]).catch('all'),
  order: z.enum(Object.keys(SHOT_ORDERS) as [keyof typeof SHOT_ORDERS]).catch('oldest'),
})
export type ShotFilter = z.output<typeof shotFilterSchema>
export const EVERY_SHOT: ShotFilter = shotFilterSchema.parse({})

export interface ListedShot {
  readonly name: string
  readonly title: string
  readonly productionId: string
  readonly productionName: string
  readonly mends: { readonly all: number }
  readonly notes: number
  readonly standing: { readonly state: string } | null
}

/** @param shots  The oldest first. Numbers within names are in their order: LM_9 before LM_10. */
export function shotsShown<S extends ListedShot>(
  shots: readonly S[],
  { find, production, state, order }: ShotFilter,
): S[] {
  const words = find.toLowerCase().split(/\s+/).filter(Boolean)
  const isFound = ({ name, title, productionName }: S): boolean => {
    const text = `${name} ${title} ${productionName}`.toLowerCase()
    return words.every((word) => text.includes(word))
  }
  const shown = shots.filter((shot) => isFound(shot) && (production === '' || shot.productionId === production) && isIn(state, shot)) // prettier-ignore
  if (order === 'latest') return shown.reverse()
  if (order === 'name') return shown.sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
  return order === 'mends' ? shown.sort((a, b) => b.mends.all - a.mends.all) : shown
}

function isIn(state: ShotFilter['state'], { mends, notes, standing }: ListedShot): boolean {
  if (state === 'all') return true
  if (state === 'untouched') return mends.all === 0
  if (state === 'mended') return mends.all > 0
  return state === 'notes' ? notes > 0 : standing?.state === state
}
