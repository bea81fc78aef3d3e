import type { MendEdit } from './edits'
import type { MendRecord } from './mend'

/** A step that changes one mend. */
export const recordEdit = (before: MendRecord, after: MendRecord, label: string): MendEdit => ({
  label,
  changes: [{ id: before.id, before, after }],
  tracks: [],
})
