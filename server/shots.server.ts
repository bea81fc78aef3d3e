/** Shots, their mends and their history, read from the database. */
import { and, asc, eq, gt, inArray, isNull, sql } from 'drizzle-orm'
import {
  DOCUMENT_FORMAT,
  DOCUMENT_VERSION,
  mendsInStackOrder,
  type MendDocument,
} from '../core/document/document'
import type { PackedEdit } from '../core/document/packedEdit'
import type { HistoryEntry } from '../core/document/history'
import type { MendRecord } from '../core/document/mend'
import { tracksById, type Track } from '../core/document/tracks'
import type { ShotDocument } from '../core/plan/shotDocument'
import { upgradeEdit, upgradeMend } from '../core/document/upgrade'
import type { Database, Transaction } from './db/client.server'
import { edits, mends, plates, productions, shots, tracks } from './db/schema'
import { loadScene } from './scenes.server'

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
    .where(and(eq(shots.id, shotId), isNull(shots.deletedAt), isNull(productions.deletedAt)))
  return row ?? null
}

/** Own productions first: what is brought in goes there unless told otherwise. */
export async function listProductions(
  db: Database | Transaction,
): Promise<{ readonly id: string; readonly name: string }[]> {
  return db
    .select({ id: productions.id, name: productions.name })
    .from(productions)
    .where(and(isNull(productions.archivedAt), isNull(productions.deletedAt)))
    .orderBy(asc(productions.isDemo), asc(productions.name))
}

/** Every shot with its plate, the oldest first; nothing of its mends. */
export async function listShots(db: Database | Transaction) {
  return db
    .select({ shot: shots, plate: plates, isDemo: productions.isDemo, productionName: productions.name })
    .from(shots)
    .innerJoin(plates, eq(plates.shotId, shots.id))
    .innerJoin(productions, eq(productions.id, shots.productionId))
    .where(and(isNull(shots.deletedAt), isNull(productions.archivedAt), isNull(productions.deletedAt)))
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

const areOf = (table: typeof mends | typeof tracks, shotId: string, ids?: readonly string[]) =>
  and(eq(table.shotId, shotId), ids && inArray(table.id, [...ids]))

/** @param ids  Those that are asked for; left out: all. */
export async function loadMends(
  db: Database | Transaction,
  shotId: string,
  ids?: readonly string[],
): Promise<MendRecord[]> {
  const rows = await db
    .select()
    .from(mends)
    .where(areOf(mends, shotId, ids))
  return rows.map((row) => upgradeMend(row.record) as MendRecord)
}

/** @param ids  Those that are asked for; left out: all. */
export async function loadTracks(
  db: Database | Transaction,
  shotId: string,
  ids?: readonly string[],
): Promise<Track[]> {
  const rows = await db
    .select()
    .from(tracks)
    .where(areOf(tracks, shotId, ids))
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

/** Of so many bytes of a history, as they are stored, a page is made in good time. */
const HISTORY_BYTES = 8 * 2 ** 20

/** The revision after which a history is short enough to be sent to a page; 0 where all of it is. */
export async function recentHistoryStart(
  db: Database | Transaction,
  shotId: string,
  mostBytes = HISTORY_BYTES,
): Promise<number> {
  // As compressed: nothing of it is read for that.
  const bytes = sql`sum(pg_column_size(${edits.edit})) over (order by ${edits.revision} desc)`.as('bytes')
  const sizes = db.select({ revision: edits.revision, bytes }).from(edits).where(eq(edits.shotId, shotId)).as('sizes') // prettier-ignore
  const [last] = await db
    .select({ revision: sql<number | null>`max(${sizes.revision})` })
    .from(sizes)
    .where(sql`${sizes.bytes} > ${mostBytes}`)
  return last?.revision ?? 0
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
    edit: upgradeEdit(edit) as PackedEdit,
  }))
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
