/** Change as a value: every step an artist makes is an edit that can be undone, squashed, sent and replayed. */
import isSame from 'fast-deep-equal'
import { z } from 'zod'
import { mendRecordSchema, type MendRecord } from './mend'
import { trackSchema, type Track } from './tracks'

/** One record before and after a step; null where it was not there. */
export interface Change<R> {
  readonly id: string
  readonly before: R | null
  readonly after: R | null
}

/** One step, whatever form its mends and tracks have. At most one change for each id. */
export interface EditOf<R, T> {
  readonly label: string
  readonly changes: readonly Change<R>[]
  readonly tracks: readonly Change<T>[]
}

/** One step as plain JSON. */
export type MendEdit = EditOf<MendRecord, Track>

export type MendRecords = ReadonlyMap<string, MendRecord>

/** Everything of a shot that edits change. */
export interface ShotState {
  readonly records: MendRecords
  readonly tracks: ReadonlyMap<string, Track>
}

interface Named {
  readonly id: string
}

const changesOf = <R extends Named>(record: z.ZodType<R>) =>
  z
    .array(
      z
        .strictObject({ id: z.string(), before: z.nullable(record), after: z.nullable(record) })
        .refine(
          (change: Change<R>) =>
            (change.before ?? change.after) !== null &&
            [change.before, change.after].every((one) => one === null || one.id === change.id),
          {
            message: 'a change needs a record, and its records carry its id',
          },
        ),
    )
    .max(2000)
    .refine((changes) => new Set(changes.map((change) => change.id)).size === changes.length, {
      message: 'one change for each id',
    })

/** An edit whose mends and tracks have the forms that schemas describe. */
export const editSchemaOf = <R extends Named, T extends Named>(record: z.ZodType<R>, track: z.ZodType<T>) =>
  z
    .strictObject({
      label: z.string().min(1).max(200),
      changes: changesOf(record),
      tracks: changesOf(track),
    })
    .refine(({ changes, tracks }) => changes.length + tracks.length > 0, {
      message: 'an edit must change something',
    })

export const editSchema = editSchemaOf(mendRecordSchema, trackSchema)

export const invertChanges = <R>(changes: readonly Change<R>[]): Change<R>[] =>
  changes.map(({ id, before, after }) => ({ id, before: after, after: before }))

/** Two steps' changes as those of one. What came and went again leaves no trace. */
export function squashChanges<R>(first: readonly Change<R>[], second: readonly Change<R>[]): Change<R>[] {
  const byId = new Map(first.map((change) => [change.id, change]))
  for (const { id, before, after } of second) {
    byId.set(id, { id, before: byId.has(id) ? byId.get(id)!.before : before, after })
  }
  return [...byId.values()].filter((change) => change.before !== null || change.after !== null)
}

/** The records after changes. The given map stays as it is. */
export function applyChanges<R>(
  records: ReadonlyMap<string, R>,
  changes: readonly Change<R>[],
): ReadonlyMap<string, R> {
  if (changes.length === 0) return records
  const next = new Map(records)
  for (const { id, after } of changes) {
    if (after === null) next.delete(id)
    else next.set(id, after)
  }
  return next
}

export const invertEdit = <R, T>(edit: EditOf<R, T>): EditOf<R, T> => ({
  ...edit,
  changes: invertChanges(edit.changes),
  tracks: invertChanges(edit.tracks),
})

/** Two steps, made one after the other, as one. */
export const squashEdits = (first: MendEdit, second: MendEdit): MendEdit => ({
  ...first,
  changes: squashChanges(first.changes, second.changes),
  tracks: squashChanges(first.tracks, second.tracks),
})

export const applyEdit = ({ records, tracks }: ShotState, edit: MendEdit): ShotState => ({
  records: applyChanges(records, edit.changes),
  tracks: applyChanges(tracks, edit.tracks),
})

/** Ids that an edit touches, of mends and tracks alike. */
export const touchedBy = ({ changes, tracks }: EditOf<unknown, unknown>): string[] =>
  [...changes, ...tracks].map((change) => change.id)

/** Whether all that an edit says was there is there: then it can be made. */
export const fitsOn = ({ records, tracks }: ShotState, edit: MendEdit): boolean =>
  edit.changes.every(({ id, before }) => isSame(records.get(id) ?? null, before)) &&
  edit.tracks.every(({ id, before }) => isSame(tracks.get(id) ?? null, before))
