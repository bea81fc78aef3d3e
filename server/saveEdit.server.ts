/** Stores steps of a shot: one at a time, all or nothing. */
import { randomUUID } from 'node:crypto'
import { and, eq, inArray } from 'drizzle-orm'
import { editSchema, type MendEdit, type MendRecords, type ShotState } from '../core/document/edits'
import { needsToUnpack, packEdit, unpackEdit, type PackedEdit } from '../core/document/packedEdit'
import type { HistoryEntry, HistoryStep } from '../core/document/history'
import type { Database, Transaction } from './db/client.server'
import { edits, mends, shots, tracks } from './db/schema'
import { announce } from './events.server'
import { reviewScene } from './scenes.server'
import { findShot, loadHistory, loadMends, loadTracks, type Plate, type Shot } from './shots.server'

export type SaveResult =
  | { readonly ok: true; readonly revision: number }
  | {
      readonly ok: false
      readonly reason: 'behind'
      readonly revision: number
      readonly newer: readonly HistoryEntry[]
    }
  | { readonly ok: false; readonly reason: 'no-shot' | 'mismatch' }

/**
 * Stores one edit on top of `baseRevision`. All or nothing; the same `editId` again changes nothing
 * and gives the revision it got the first time, so a retry is harmless.
 *
 * When others were faster the newer edits are returned and nothing is stored.
 */
export async function saveEdit(
  db: Database,
  shotId: string,
  { editId, baseRevision, role, targetId, edit }: HistoryStep & { readonly baseRevision: number },
): Promise<SaveResult> {
  return db.transaction(async (tx) => {
    const [shot] = await tx
      .select({ revision: shots.revision })
      .from(shots)
      .where(eq(shots.id, shotId))
      .for('update')
    if (!shot) return { ok: false, reason: 'no-shot' }
    const [stored] = await tx
      .select({ revision: edits.revision, shotId: edits.shotId })
      .from(edits)
      .where(eq(edits.editId, editId))
    if (stored)
      return stored.shotId === shotId
        ? { ok: true, revision: stored.revision }
        : { ok: false, reason: 'mismatch' }
    if (shot.revision !== baseRevision) {
      return {
        ok: false,
        reason: 'behind',
        revision: shot.revision,
        newer: await loadHistory(tx, shotId, baseRevision),
      }
    }
    const isFitting =
      (await areAsSaid(tx, mends, shotId, edit.changes)) &&
      (await areAsSaid(tx, tracks, shotId, edit.tracks)) &&
      (targetId === null || (await isStepOf(tx, shotId, targetId)))
    const whole = isFitting && unpackEdit(edit, await stateToUnpack(tx, shotId, edit))
    if (!whole) return { ok: false, reason: 'mismatch' }
    const revision = shot.revision + 1
    for (const { id, after } of whole.changes) {
      if (after === null) await tx.delete(mends).where(and(eq(mends.shotId, shotId), eq(mends.id, id)))
      else {
        await tx
          .insert(mends)
          .values({ shotId, id, record: after })
          .onConflictDoUpdate({ target: [mends.shotId, mends.id], set: { record: after } })
      }
    }
    for (const { id, after } of whole.tracks) {
      if (after === null) await tx.delete(tracks).where(and(eq(tracks.shotId, shotId), eq(tracks.id, id)))
      else {
        await tx
          .insert(tracks)
          .values({ shotId, id, record: after })
          .onConflictDoUpdate({ target: [tracks.shotId, tracks.id], set: { record: after } })
      }
    }
    await tx.insert(edits).values({ shotId, revision, editId, role, targetId, edit })
    await tx.update(shots).set({ revision }).where(eq(shots.id, shotId))
    await announce(tx, { kind: 'shot', id: shotId })
    await reviewScene(tx, shotId)
    return { ok: true, revision }
  })
}

/** Of a shot what an edit cannot be told whole without. */
async function stateToUnpack(tx: Transaction, shotId: string, edit: PackedEdit): Promise<ShotState> {
  const needs = needsToUnpack(edit)
  return {
    records: byId(needs.mends.length > 0 ? await loadMends(tx, shotId, needs.mends) : []),
    tracks: byId(needs.tracks.length > 0 ? await loadTracks(tx, shotId, needs.tracks) : []),
  }
}

const byId = <T extends { readonly id: string }>(some: readonly T[]): ReadonlyMap<string, T> =>
  new Map(some.map((one) => [one.id, one]))

/** What an edit says was there must be there: else undo would bring back something that never was. */
async function areAsSaid(
  tx: Transaction,
  table: typeof mends | typeof tracks,
  shotId: string,
  changes: readonly { readonly id: string; readonly before: unknown }[],
): Promise<boolean> {
  if (changes.length === 0) return true
  const ids = changes.map(({ id }) => id)
  const rows = await tx
    .select({ id: table.id })
    .from(table)
    .where(and(eq(table.shotId, shotId), inArray(table.id, ids)))
  const present = new Set(rows.map(({ id }) => id))
  return changes.every(({ id, before }) => (before !== null) === present.has(id))
}

async function isStepOf(tx: Transaction, shotId: string, editId: string): Promise<boolean> {
  const [row] = await tx
    .select({ role: edits.role })
    .from(edits)
    .where(and(eq(edits.shotId, shotId), eq(edits.editId, editId)))
  return row?.role === 'do'
}

const MAX_TRIES = 5

/**
 * Changes a shot from the server's side, as one step that undo takes back; tried again where others were faster.
 * @param change  Makes the edit from the mends as they are; null where there is nothing to do.
 * @returns The edit that was stored; null where there is no such shot. @throws Error when others are always faster, or the edit does not fit.
 */
export async function changeShot(
  db: Database,
  shotId: string,
  change: (now: {
    readonly shot: Shot
    readonly plate: Plate
    readonly records: MendRecords
  }) => MendEdit | null,
): Promise<{ readonly edit: MendEdit | null } | null> {
  for (let tried = 0; tried < MAX_TRIES; tried++) {
    const found = await findShot(db, shotId)
    if (!found) return null
    const records = new Map((await loadMends(db, shotId)).map((mend) => [mend.id, mend]))
    const edit = change({ ...found, records })
    if (!edit) return { edit: null }
    const saved = await saveEdit(db, shotId, {
      editId: randomUUID(),
      baseRevision: found.shot.revision,
      role: 'do',
      targetId: null,
      edit: packEdit(editSchema.parse(edit)),
    })
    if (saved.ok) return { edit }
    if (saved.reason === 'mismatch') throw new Error(`an edit of ${shotId} does not fit what is stored`)
  }
  throw new Error(`${shotId} was changed by others ${MAX_TRIES} times in a row`)
}
