/**
 * Edits as they are sent and stored: areas of a mend that an edit leaves as they are are not told again. A brush has a
 * thousand strokes and an outline a key on every frame; told whole with each edit, a shot that was painted stroke by stroke
 * could soon neither be stored nor opened.
 */
import isSame from 'fast-deep-equal'
import { z } from 'zod'
import { areaSchema, type Area } from './areas'
import { editSchemaOf, type EditOf, type MendEdit, type MendRecords } from './edits'
import { areAreasOfMend, mendRecordSchema, MOST_AREAS, type MendRecord } from './mend'

const keptSchema = z.strictObject({
  shape: z.literal('kept'),
  from: z.int().min(0).max(MOST_AREAS),
  count: z.int().min(1).max(MOST_AREAS),
})

/** Areas that both sides of a change have, by numbers that both sides give them: `count` of them, numbered on from `from`. */
export type KeptAreas = z.output<typeof keptSchema>
export type PackedAreas = readonly (Area | KeptAreas)[]

const packedRecordSchema = mendRecordSchema.extend({
  areas: z.array(z.discriminatedUnion('shape', [areaSchema, keptSchema])).max(MOST_AREAS),
})

/** A mend of which some areas are told by number. */
export type PackedRecord = Omit<MendRecord, 'areas'> & { readonly areas: PackedAreas }
/** Every edit is a packed one that keeps nothing: so were those of earlier versions stored. */
export type PackedEdit = EditOf<PackedRecord>

export const packedEditSchema = editSchemaOf<PackedRecord>(packedRecordSchema)

/** Both sides of a change, what they share told by its place in the areas before. Those that are the same object cost nothing. */
export function packAreas(
  before: readonly Area[],
  after: readonly Area[],
): { readonly before: PackedAreas; readonly after: PackedAreas } {
  const placeOf = new Map(before.map((area, i) => [area.id, i]))
  const shared = new Set<number>()
  const kept = after.map((area) => {
    const place = placeOf.get(area.id)
    if (place === undefined || !isSame(before[place], area)) return null
    shared.add(place)
    return place
  })
  return {
    before: inRuns(before, (i) => (shared.has(i) ? i : null)),
    after: inRuns(after, (i) => kept[i]!),
  }
}

/** @param numberAt  Of the area at an index, by which the other side has it too; null where that has another. */
function inRuns(areas: readonly Area[], numberAt: (index: number) => number | null): PackedAreas {
  const packed: (Area | KeptAreas)[] = []
  for (const [i, area] of areas.entries()) {
    const number = numberAt(i)
    const last = packed.at(-1)
    if (number === null) packed.push(area)
    else if (last?.shape === 'kept' && last.from + last.count === number)
      packed[packed.length - 1] = { ...last, count: last.count + 1 }
    else packed.push({ shape: 'kept', from: number, count: 1 })
  }
  return packed
}

/** The areas, where those that are told by number are known; null where one is not. */
export function unpackAreas(
  packed: PackedAreas,
  numbered: (number: number) => Area | undefined,
): readonly Area[] | null {
  const areas: Area[] = []
  for (const one of packed) {
    if (one.shape !== 'kept') areas.push(one)
    else
      for (let i = 0; i < one.count; i++) {
        const area = numbered(one.from + i)
        if (!area) return null
        areas.push(area)
      }
  }
  return areas
}

/** What the numbers of one side stand for, told by its areas; null where those are not the ones that it speaks of. */
function numbersIn(packed: PackedAreas, areas: readonly Area[]): ReadonlyMap<number, Area> | null {
  const numbers = new Map<number, Area>()
  let at = 0
  for (const one of packed) {
    if (one.shape !== 'kept') {
      if (areas[at++]?.id !== one.id) return null
    } else {
      if (at + one.count > areas.length) return null
      for (let i = 0; i < one.count; i++) numbers.set(one.from + i, areas[at++]!)
    }
  }
  return at === areas.length ? numbers : null
}

export const packEdit = (edit: MendEdit): PackedEdit => ({
  ...edit,
  changes: edit.changes.map((change) => {
    const { id, before, after } = change
    if (!before || !after) return change
    const areas = packAreas(before.areas, after.areas)
    return { id, before: { ...before, areas: areas.before }, after: { ...after, areas: areas.after } }
  }),
})

const isPacked = (record: PackedRecord | null): boolean =>
  record?.areas.some(({ shape }) => shape === 'kept') ?? false

/** Ids of the mends without which an edit cannot be told whole. */
export const needsToUnpack = ({ changes }: PackedEdit): string[] =>
  changes.filter(({ before, after }) => isPacked(before) || isPacked(after)).map(({ id }) => id)

/**
 * An edit told whole.
 * @param records  The mends as they are right before it, or right after it.
 * @returns Null where those are not what it was made on, or led to; where they fit, but for fields that it tells itself.
 */
export function unpackEdit(
  packed: PackedEdit,
  records: MendRecords,
  side: 'before' | 'after' = 'before',
): MendEdit | null {
  const changes: MendEdit['changes'][number][] = []
  for (const { id, before, after } of packed.changes) {
    const known = (side === 'before' ? before : after)?.areas
    const areas = records.get(id)?.areas
    const needs = isPacked(before) || isPacked(after)
    const numbers = needs && known && areas ? numbersIn(known, areas) : NO_NUMBERS
    const [was, is] = [before, after].map((record) => record && whole(record, numbers))
    if (was === undefined || is === undefined) return null
    changes.push({ id, before: was, after: is })
  }
  return { ...packed, changes }
}

const NO_NUMBERS: ReadonlyMap<number, Area> = new Map()

function whole(record: PackedRecord, numbers: ReadonlyMap<number, Area> | null): MendRecord | undefined {
  const areas = numbers && unpackAreas(record.areas, (number) => numbers.get(number))
  return areas && areAreasOfMend(areas) ? { ...record, areas: [...areas] } : undefined
}
