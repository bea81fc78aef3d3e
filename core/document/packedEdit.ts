/**
 * Edits as they are sent and stored: areas of a mend, keys of an area and frames of a track that an edit leaves as they are
 * are not told again. A brush has a thousand strokes and an outline a hundred keys; told whole with each edit, a shot that was
 * worked on could soon neither be stored nor opened.
 */
import { z } from 'zod'
import {
  areaSchema,
  boxAreaSchema,
  ellipseAreaSchema,
  keyFaults,
  keySchemas,
  matteAreaSchema,
  MOST_KEYS,
  outlineAreaSchema,
  pathAreaSchema,
  type Area,
} from './areas'
import { editSchemaOf, type EditOf, type MendEdit, type ShotState } from './edits'
import {
  areAreasOfMend,
  haveOneIdEach,
  mendRecordSchema,
  MOST_AREAS,
  ONE_ID_EACH,
  type MendRecord,
} from './mend'
import {
  isKeptRun,
  isPackedList,
  keptRunSchema,
  numbersIn,
  packLists,
  unpackList,
  type PackedList,
} from './packedList'
import { looseTrackSchema, MOST_ROWS, rowFaults, trackRowSchema, type Track, type TrackRow } from './tracks'

const packedKeys = <K extends z.ZodType>(key: K) =>
  z
    .array(z.union([keptRunSchema, key]))
    .min(1)
    .max(MOST_KEYS)

const packedAreaSchema = z
  .discriminatedUnion('shape', [
    keptRunSchema,
    pathAreaSchema.extend({ keys: packedKeys(keySchemas.path) }),
    ellipseAreaSchema.extend({ keys: packedKeys(keySchemas.ellipse) }),
    boxAreaSchema.extend({ keys: packedKeys(keySchemas.box) }),
    outlineAreaSchema.extend({ keys: packedKeys(keySchemas.outline) }),
    matteAreaSchema,
  ])
  .superRefine((area, context) => {
    if (isKeptRun(area) || isPackedList(area.keys)) return // looked at once it is whole
    for (const { key, of, message } of keyFaults(area.keys as Area['keys']))
      context.addIssue({ code: 'custom', path: ['keys', key, of], message })
  })

const packedRecordSchema = mendRecordSchema.extend({
  areas: z
    .array(packedAreaSchema)
    .min(1)
    .max(MOST_AREAS)
    .refine((areas) => haveOneIdEach(areas.filter((area) => !isKeptRun(area))), ONE_ID_EACH),
})

const packedTrackSchema = looseTrackSchema
  .extend({ frames: z.array(z.union([keptRunSchema, trackRowSchema])).max(MOST_ROWS) })
  .superRefine(({ frames }, context) => {
    if (isPackedList(frames)) return
    for (const { row, message } of rowFaults(frames as TrackRow[]))
      context.addIssue({ code: 'custom', path: ['frames', row], message })
  })

type Key = Area['keys'][number]
/** An area of which some keys are told by number. */
export type PackedArea = Omit<Area, 'keys' | 'shape'> & {
  readonly shape: Area['shape']
  readonly keys: PackedList<Key>
}
export type PackedAreas = PackedList<PackedArea>
export type PackedRecord = Omit<MendRecord, 'areas'> & { readonly areas: PackedAreas }
export type PackedTrack = Omit<Track, 'frames'> & { readonly frames: PackedList<TrackRow> }
/** Every edit is a packed one that keeps nothing: so were those of earlier versions stored. */
export type PackedEdit = EditOf<PackedRecord, PackedTrack>

export const packedEditSchema: z.ZodType<PackedEdit> = editSchemaOf<PackedRecord, PackedTrack>(
  packedRecordSchema,
  packedTrackSchema,
)

const nameOfArea = ({ id }: { readonly id: string }) => id
const nameOfKey = ({ frame }: Key) => frame
const nameOfRow = ([frame]: TrackRow) => frame
const toldIn = (areas: PackedAreas): Map<string, PackedArea> =>
  new Map(areas.flatMap((area) => (isKeptRun(area) ? [] : [[area.id, area]])))

/** Areas on both sides of a change, what they share told by its place in those before. */
export function packAreas(
  before: readonly Area[],
  after: readonly Area[],
): { readonly before: PackedAreas; readonly after: PackedAreas } {
  const packed = packLists(before, after, nameOfArea)
  const [was, is] = [toldIn(packed.before), toldIn(packed.after)]
  const keys = new Map<string, { readonly before: PackedList<Key>; readonly after: PackedList<Key> }>()
  for (const [id, area] of is) {
    const other = was.get(id)
    if (other?.shape === area.shape)
      keys.set(id, packLists<Key>(other.keys as Key[], area.keys as Key[], nameOfKey))
  }
  const withKeys = (areas: PackedAreas, side: 'before' | 'after'): PackedAreas =>
    areas.map((area) =>
      isKeptRun(area) || !keys.has(area.id) ? area : { ...area, keys: keys.get(area.id)![side] },
    )
  return { before: withKeys(packed.before, 'before'), after: withKeys(packed.after, 'after') }
}

/** What the numbers of packed areas stand for. */
interface KnownAreas {
  area(number: number): Area | undefined
  /** Of the area with an id, by number. */
  key(id: string, number: number): Key | undefined
}

/** Numbers as `packAreas` gives them: places in the areas before. */
export function knownBefore(areas: readonly Area[]): KnownAreas {
  const byId = new Map(areas.map((area) => [area.id, area]))
  return { area: (place) => areas[place], key: (id, place) => byId.get(id)?.keys[place] }
}

/** Told by one side of a change and the areas of that side; null where those are not the ones that it speaks of. */
function knownBy(packed: PackedAreas, areas: readonly Area[]): KnownAreas | null {
  const numbers = numbersIn<PackedArea, Area>(packed, areas, nameOfArea)
  if (!numbers) return null
  const told = toldIn(packed)
  const keys = new Map<string, ReadonlyMap<number, Key>>()
  for (const { id, keys: own } of areas) {
    const ofArea = told.has(id) && numbersIn<Key, Key>(told.get(id)!.keys, own, nameOfKey)
    if (ofArea === null) return null
    if (ofArea) keys.set(id, ofArea)
  }
  return { area: (number) => numbers.get(number), key: (id, number) => keys.get(id)?.get(number) }
}

/** Areas told whole; null where a number stands for nothing. Those that were kept are the same objects. */
export function unpackAreas(packed: PackedAreas, known: KnownAreas): Area[] | null {
  const areas = unpackList<PackedArea>(packed, known.area, MOST_AREAS)
  const whole: Area[] = []
  for (const area of areas ?? []) {
    const keys = isPackedList(area.keys) ? unpackList(area.keys, (number) => known.key(area.id, number), MOST_KEYS) : area.keys // prettier-ignore
    if (!keys) return null
    whole.push((keys === area.keys ? area : { ...area, keys }) as Area)
  }
  return areas && whole
}

export const packEdit = (edit: MendEdit): PackedEdit => ({
  ...edit,
  changes: edit.changes.map((change) => {
    const { id, before, after } = change
    if (!before || !after) return change
    const areas = packAreas(before.areas, after.areas)
    return { id, before: { ...before, areas: areas.before }, after: { ...after, areas: areas.after } }
  }),
  tracks: edit.tracks.map((change) => {
    const { id, before, after } = change
    if (!before || !after) return change
    const frames = packLists(before.frames, after.frames, nameOfRow)
    return { id, before: { ...before, frames: frames.before }, after: { ...after, frames: frames.after } }
  }),
})

const isPackedRecord = (record: PackedRecord | null): boolean =>
  record?.areas.some((area) => isKeptRun(area) || isPackedList(area.keys)) ?? false
const isPackedTrack = (track: PackedTrack | null): boolean => track !== null && isPackedList(track.frames)

/** Ids of the mends and tracks without which an edit cannot be told whole. */
export const needsToUnpack = ({ changes, tracks }: PackedEdit) => ({
  mends: changes
    .filter(({ before, after }) => isPackedRecord(before) || isPackedRecord(after))
    .map(({ id }) => id),
  tracks: tracks
    .filter(({ before, after }) => isPackedTrack(before) || isPackedTrack(after))
    .map(({ id }) => id),
})

/**
 * An edit told whole.
 * @param state  Mends and tracks as they are right before it, or right after it.
 * @returns Null where those are not what it was made on, or led to, or what comes out is neither mend nor track. Fields that the edit tells itself are not compared.
 */
export function unpackEdit(
  packed: PackedEdit,
  state: ShotState,
  side: 'before' | 'after' = 'before',
): MendEdit | null {
  const needs = needsToUnpack(packed)
  const [mends, tracks] = [new Set(needs.mends), new Set(needs.tracks)]
  const changes = packed.changes.map((change) => {
    if (!mends.has(change.id)) return change as MendEdit['changes'][number]
    const [told, own] = [change[side]?.areas, state.records.get(change.id)?.areas]
    const known = told && own ? knownBy(told, own) : null
    return known && wholeChange(change, (record) => wholeRecord(record, known))
  })
  const rows = packed.tracks.map((change) => {
    if (!tracks.has(change.id)) return change as MendEdit['tracks'][number]
    const [told, own] = [change[side]?.frames, state.tracks.get(change.id)?.frames]
    const known = told && own ? numbersIn<TrackRow, TrackRow>(told, own, nameOfRow) : null
    return known && wholeChange(change, (track) => wholeTrack(track, known))
  })
  return changes.every((one) => one !== null) && rows.every((one) => one !== null)
    ? { ...packed, changes, tracks: rows }
    : null
}

interface Sides<R> {
  readonly id: string
  readonly before: R | null
  readonly after: R | null
}

function wholeChange<P, R>({ id, before, after }: Sides<P>, whole: (side: P) => R | null): Sides<R> | null {
  const [was, is] = [before && whole(before), after && whole(after)]
  return (before && !was) || (after && !is) ? null : { id, before: was, after: is }
}

/** Keys that come from elsewhere must be those of such an area. */
function wholeRecord(record: PackedRecord, known: KnownAreas): MendRecord | null {
  const areas = unpackAreas(record.areas, known)
  const told = toldIn(record.areas)
  const isPacked = ({ id }: Area) => isPackedList(told.get(id)?.keys ?? [])
  const isMend = areas && areAreasOfMend(areas) && areas.every((area) => !isPacked(area) || areaSchema.safeParse(area).success) // prettier-ignore
  return isMend ? { ...record, areas } : null
}

function wholeTrack(track: PackedTrack, known: ReadonlyMap<number, TrackRow>): Track | null {
  const frames = unpackList(track.frames, (number) => known.get(number), MOST_ROWS)
  return frames && rowFaults(frames).length === 0 ? { ...track, frames } : null
}
