/**
 * Change as a value: every step an artist makes is an edit that can be undone, squashed, sent and
 * replayed. The history of a shot is the list of all its edits; undo and redo are edits too.
 */
import { z } from 'zod'
import { mendRecordSchema, type MendRecord } from './mend'
import { trackSchema, type Track } from './tracks'

/** One record before and after a step; null where it was not there. */
export interface Change<R> {
  readonly id: string
  readonly before: R | null
  readonly after: R | null
}

/** One step as plain JSON. At most one change for each id. */
export interface MendEdit {
  readonly label: string
  readonly changes: readonly Change<MendRecord>[]
  readonly tracks: readonly Change<Track>[]
}

export type MendRecords = ReadonlyMap<string, MendRecord>

/** Everything of a shot that edits change. */
export interface ShotState {
  readonly records: MendRecords
  readonly tracks: ReadonlyMap<string, Track>
}

const changesOf = <R extends { readonly id: string }>(record: z.ZodType<R>) =>
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

export const editSchema = z
  .strictObject({
    label: z.string().min(1).max(200),
    changes: changesOf(mendRecordSchema),
    tracks: changesOf(trackSchema),
  })
  .refine(({ changes, tracks }) => changes.length + tracks.length > 0, {
    message: 'an edit must change something',
  })

/** What an edit is to the history: a step, or a step back or forward in it. */
export const editRoleSchema = z.enum(['do', 'undo', 'redo'])
export type EditRole = z.output<typeof editRoleSchema>

export interface HistoryEntry {
  readonly revision: number
  readonly role: EditRole
  readonly edit: MendEdit
}

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

export const invertEdit = (edit: MendEdit): MendEdit => ({
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
export const touchedBy = ({ changes, tracks }: MendEdit): string[] =>
  [...changes, ...tracks].map((change) => change.id)

export interface UndoStacks {
  /** Edits that undo would take back, the latest last. */
  readonly done: readonly MendEdit[]
  /** Edits that redo would make again, the next one last. */
  readonly undone: readonly MendEdit[]
}

export const emptyStacks: UndoStacks = { done: [], undone: [] }

/** The undo stacks after one more entry of the history. */
export function advanceStacks({ done, undone }: UndoStacks, role: EditRole, edit: MendEdit): UndoStacks {
  switch (role) {
    case 'do':
      return { done: [...done, edit], undone: [] }
    case 'undo':
      return { done: done.slice(0, -1), undone: [...undone, invertEdit(edit)] }
    case 'redo':
      return { done: [...done, edit], undone: undone.slice(0, -1) }
  }
}

/** The undo stacks that a whole history leaves, so that undo reaches back across sessions. */
export const stacksOf = (history: readonly HistoryEntry[]): UndoStacks =>
  history.reduce((stacks, { role, edit }) => advanceStacks(stacks, role, edit), emptyStacks)
