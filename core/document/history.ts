/**
 * The history of a shot: all its edits in their order. Undo and redo are edits too; each names the step that it takes back
 * or makes again, so that several people can work on a shot and nobody takes back what another has done.
 */
import { z } from 'zod'
import { invertEdit } from './edits'
import type { PackedEdit } from './packedEdit'

/** What an edit is to the history: a step, or a step back or forward in it. */
export const editRoleSchema = z.enum(['do', 'undo', 'redo'])
export type EditRole = z.output<typeof editRoleSchema>

/** An edit on its way into the history. */
export interface HistoryStep {
  readonly editId: string
  readonly role: EditRole
  /** The edit that an undo takes back or a redo makes again; null for a step, and where earlier versions did not say. */
  readonly targetId: string | null
  readonly edit: PackedEdit
}

export interface HistoryEntry extends HistoryStep {
  readonly revision: number
}

/** A step that was made, under the id of its edit. */
export interface Step {
  readonly id: string
  readonly edit: PackedEdit
}

export interface UndoStacks {
  /** Steps that undo would take back, the latest last. */
  readonly done: readonly Step[]
  /** Steps that redo would make again, the next one last. */
  readonly undone: readonly Step[]
}

export const emptyStacks: UndoStacks = { done: [], undone: [] }

/** The undo stacks after one more entry of the history. */
export function advanceStacks(stacks: UndoStacks, { editId, role, targetId, edit }: HistoryStep): UndoStacks {
  const { done, undone } = stacks
  switch (role) {
    case 'do':
      return { done: [...done, { id: editId, edit }], undone: [] }
    case 'undo': {
      const id = targetId ?? done.at(-1)?.id
      return { done: without(done, id), undone: [...undone, { id: id ?? editId, edit: invertEdit(edit) }] }
    }
    case 'redo': {
      const id = targetId ?? undone.at(-1)?.id
      return { done: [...done, { id: id ?? editId, edit }], undone: without(undone, id) }
    }
  }
}

/** The undo stacks after an entry that somebody else has made: steps of theirs are theirs to take back. */
export function afterOthers(stacks: UndoStacks, { role, targetId }: HistoryStep): UndoStacks {
  if (role === 'do' || targetId === null) return stacks
  return dropStep(stacks, targetId)
}

/** Without a step that can neither be taken back nor made again. */
export const dropStep = ({ done, undone }: UndoStacks, id: string): UndoStacks => ({
  done: without(done, id),
  undone: without(undone, id),
})

const without = (steps: readonly Step[], id: string | undefined): readonly Step[] =>
  steps.some((step) => step.id === id) ? steps.filter((step) => step.id !== id) : steps

/** The undo stacks that a whole history leaves, so that undo reaches back across sessions. */
export const stacksOf = (history: readonly HistoryEntry[]): UndoStacks =>
  history.reduce<UndoStacks>(advanceStacks, emptyStacks)
