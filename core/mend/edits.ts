/**
 * Change as a value: every step an artist makes is an edit that can be undone, squashed, sent and
 * replayed. The history of a shot is the list of all its edits; undo and redo are edits too.
 */
import { z } from 'zod'
import { mendRecordSchema, type MendRecord } from './schema'

/** One record before and after a step; null where it was not there. */
export interface Change<R> {
  readonly id: string
  readonly before: R | null
  readonly after: R | null
}

/** One step as plain JSON. At most one change for each id. */
export interface Edit<R> {
  readonly label: string
  readonly changes: readonly Change<R>[]
}

export type MendEdit = Edit<MendRecord>
export type MendRecords = ReadonlyMap<string, MendRecord>

const changeSchema = z
  .strictObject({ id: z.string(), before: mendRecordSchema.nullable(), after: mendRecordSchema.nullable() })
  .refine(({ id, before, after }) => (before ?? after) !== null && [before, after].every((record) => record === null || record.id === id), {
    message: 'a change needs a record, and its records carry its id',
  })

export const editSchema = z
  .strictObject({ label: z.string().min(1).max(200), changes: z.array(changeSchema).min(1).max(1000) })
  .refine(({ changes }) => new Set(changes.map((change) => change.id)).size === changes.length, { message: 'one change for each id' })

/** What an edit is to the history: a step, or a step back or forward in it. */
export const editRoleSchema = z.enum(['do', 'undo', 'redo'])
export type EditRole = z.output<typeof editRoleSchema>

export interface HistoryEntry {
  readonly revision: number
  readonly role: EditRole
  readonly edit: MendEdit
}

export function invertEdit<R>(edit: Edit<R>): Edit<R> {
  return { ...edit, changes: edit.changes.map(({ id, before, after }) => ({ id, before: after, after: before })) }
}

/** Two steps, made one after the other, as one. What came and went again leaves no trace. */
export function squashEdits<R>(first: Edit<R>, second: Edit<R>): Edit<R> {
  const byId = new Map(first.changes.map((change) => [change.id, change]))
  for (const { id, before, after } of second.changes) {
    byId.set(id, { id, before: byId.has(id) ? byId.get(id)!.before : before, after })
  }
  return { ...first, changes: [...byId.values()].filter((change) => change.before !== null || change.after !== null) }
}

/** The records after an edit. The given map stays as it is. */
export function applyEdit<R>(records: ReadonlyMap<string, R>, edit: Edit<R>): Map<string, R> {
  const next = new Map(records)
  for (const { id, after } of edit.changes) {
    if (after === null) next.delete(id)
    else next.set(id, after)
  }
  return next
}

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
