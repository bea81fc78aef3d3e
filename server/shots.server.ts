/** Shots and their mends in the database. */
import { randomUUID } from 'node:crypto'
import { and, asc, eq, gt, inArray, sql } from 'drizzle-orm'
import {
  DOCUMENT_FORMAT,
  DOCUMENT_VERSION,
  mendsInStackOrder,
  type MendDocument,
} from '../core/document/document'
import { editSchema, type MendEdit, type MendRecords } from '../core/document/edits'
import type { HistoryEntry, HistoryStep } from '../core/document/history'
import type { MendRecord } from '../core/document/mend'
import { tracksById, type Track } from '../core/document/tracks'
import type { ShotDocument } from '../core/plan/shotDocument'
import { upgradeEdit, upgradeMend } from '../core/document/upgrade'
import type { Database, Transaction } from './db/client.server'
import { edits, mends, plates, productions, shots, tracks } from './db/schema'
import { announce } from './events.server'
import { loadScene, reviewScene } from './scenes.server'

export type Plate = typeof plates.$inferSelect
export type Shot = typeof shots.$inferSelect

export async function findShot(
  db: Database | Transaction,
  shotId: string,
): Promise<{ shot: Shot; plate: Plate; productionName: string } | null> {
  const [row] = await db
    .select({ shot: shots, plate: plates, productionName: productions.name })
    .from(shots)
    .innerJoin(plates, eq(plates.shotId, shots.id))
    .innerJoin(productions, eq(productions.id, shots.productionId))
    .where(eq(shots.id, shotId))
  return row ?? null
}

/** Own productions first: what is brought in goes there unless told otherwise. */
export async function listProductions(
  db: Database | Transaction,
): Promise<{ readonly id: string; readonly name: string }[]> {
  return db
    .select({ id: productions.id, name: productions.name })
    .from(productions)
    .orderBy(asc(productions.isDemo), asc(productions.name))
}

/** Every shot with its plate, the oldest first; nothing of its mends. */
export async function listShots(db: Database | Transaction) {
  return db
    .select({ shot: shots, plate: plates, isDemo: productions.isDemo, productionName: productions.name })
    .from(shots)
    .innerJoin(plates, eq(plates.shotId, shots.id))
    .innerJoin(productions, eq(productions.id, shots.productionId))
    .orderBy(asc(shots.createdAt), asc(shots.id))
}

/** How many mends a shot has. */
export interface MendCount {
  readonly all: number
  readonly on: number
}

export async function countMends(db: Database | Transaction): Promise<ReadonlyMap<string, MendCount>> {
  const rows = await db
    .select({
      shotId: mends.shotId,
      all: sql<number>`count(*)::int`,
      on: sql<number>`(count(*) filter (where ${mends.isOn}))::int`,
    })
    .from(mends)
    .groupBy(mends.shotId)
  return new Map(rows.map(({ shotId, ...count }) => [shotId, count]))
}

export async function loadMends(db: Database | Transaction, shotId: string): Promise<MendRecord[]> {
  const rows = await db.select().from(mends).where(eq(mends.shotId, shotId))
  return rows.map((row) => upgradeMend(row.record) as MendRecord)
}

export async function loadTracks(db: Database | Transaction, shotId: string): Promise<Track[]> {
  const rows = await db.select().from(tracks).where(eq(tracks.shotId, shotId))
  return rows.map((row) => row.record)
}

/** All that frames of a shot are made from, and which revision of it that is. */
export async function loadShotDocument(
  db: Database | Transaction,
  shotId: string,
): Promise<{ readonly document: ShotDocument; readonly plate: Plate; readonly revision: number } | null> {
  const found = await findShot(db, shotId)
  if (!found) return null
  const { plate, shot } = found
  const [records, ofShot, { scene }] = await Promise.all([
    loadMends(db, shotId),
    loadTracks(db, shotId),
    loadScene(db, shotId),
  ])
  const { width, height, firstFrame, frameCount } = plate
  const range = { firstFrame, lastFrame: firstFrame + frameCount - 1 }
  const document = {
    mends: mendsInStackOrder(records),
    tracks: tracksById(ofShot),
    plate: { ...range, width, height },
    scene,
  }
  return { document, plate, revision: shot.revision }
}

export async function loadHistory(
  db: Database | Transaction,
  shotId: string,
  afterRevision = 0,
): Promise<HistoryEntry[]> {
  const rows = await db
    .select()
    .from(edits)
    .where(and(eq(edits.shotId, shotId), gt(edits.revision, afterRevision)))
    .orderBy(asc(edits.revision))
  return rows.map(({ revision, editId, role, targetId, edit }) => ({
    revision,
    editId,
    role,
    targetId,
    edit: upgradeEdit(edit) as MendEdit,
  }))
}

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
    if (!isFitting) return { ok: false, reason: 'mismatch' }
    const revision = shot.revision + 1
    for (const { id, after } of edit.changes) {
      if (after === null) await tx.delete(mends).where(and(eq(mends.shotId, shotId), eq(mends.id, id)))
      else {
        await tx
          .insert(mends)
          .values({ shotId, id, record: after })
          .onConflictDoUpdate({ target: [mends.shotId, mends.id], set: { record: after } })
      }
    }
    for (const { id, after } of edit.tracks) {
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
      edit: editSchema.parse(edit),
    })
    if (saved.ok) return { edit }
    if (saved.reason === 'mismatch') throw new Error(`an edit of ${shotId} does not fit what is stored`)
  }
  throw new Error(`${shotId} was changed by others ${MAX_TRIES} times in a row`)
}

/** The mends of a shot as the document that is exported and rendered. */
export function documentOf(
  shot: Shot,
  plate: Plate,
  records: readonly MendRecord[],
  shotTracks: readonly Track[],
): MendDocument {
  return {
    format: DOCUMENT_FORMAT,
    version: DOCUMENT_VERSION,
    plate: {
      name: shot.name,
      width: plate.width,
      height: plate.height,
      firstFrame: plate.firstFrame,
      frameCount: plate.frameCount,
      frameRate: { num: plate.rateNum, den: plate.rateDen },
    },
    mends: mendsInStackOrder(records),
    tracks: [...shotTracks].sort((a, b) => (a.id < b.id ? -1 : 1)),
  }
}

/** A shot's id from its name: lower case, safe in an address; numbered where it is taken. */
export async function freeShotId(db: Database | Transaction, name: string): Promise<string> {
  const stem =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 60) || 'shot'
  const taken = new Set(
    (
      await db
        .select({ id: shots.id })
        .from(shots)
        .where(sql`${shots.id} like ${`${stem}%`}`)
    ).map((row) => row.id),
  )
  if (!taken.has(stem)) return stem
  let number = 2
  while (taken.has(`${stem}-${number}`)) number++
  return `${stem}-${number}`
}
