/** Proofs in the database: asked for, called off, looked at. */
import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, isNull } from 'drizzle-orm'
import { LRUCache } from 'lru-cache'
import type { Snag } from '../core/snags/snags'
import { PROOF_MEASURE_IDS, snagsOfProofs, worstOf, type FrameProof } from '../core/proof/frameProof'
import type { FrameDigests, ProofChart, ProofStatus } from '../core/proof/proofStatus'
import { thinSeries } from '../core/proof/thinSeries'
import type { Database, Transaction } from './db/client.server'
import { proofFrames, proofs, versions } from './db/schema'
import { announce } from './events.server'
import { enqueue } from './jobs/queue.server'
import { findShot } from './shots.server'

/** After renders, before what is worked ahead. */
export const PROOF_ORDER = { priority: 1 } as const

/** The same proof asked for twice is done once. */
export const proofKey = (proofId: string): string => `prove:${proofId}`

const ofSubject = (shotId: string, versionId: string | null) =>
  and(
    eq(proofs.shotId, shotId),
    versionId === null ? isNull(proofs.versionId) : eq(proofs.versionId, versionId),
  )

/** Has workers measure a version, or the mends as they are. Asked twice, it is done once. @returns Whether there is such a thing. */
export async function askForProof(
  db: Database | Transaction,
  shotId: string,
  versionId: string | null,
): Promise<boolean> {
  return db.transaction(async (tx) => {
    const found = await findShot(tx, shotId)
    if (!found) return false
    let framesTotal = found.plate.frameCount
    if (versionId !== null) {
      const [version] = await tx
        .select({ first: versions.firstFrame, last: versions.lastFrame })
        .from(versions)
        .where(and(eq(versions.id, versionId), eq(versions.shotId, shotId), eq(versions.state, 'done')))
      if (!version) return false
      framesTotal = version.last - version.first + 1
    }
    const now = {
      state: 'waiting',
      framesDone: 0,
      framesTotal,
      startedAt: null,
      finishedAt: null,
      error: null,
    } as const
    const [row] = await tx
      .insert(proofs)
      .values({ id: randomUUID(), shotId, versionId, ...now })
      .onConflictDoUpdate({ target: [proofs.shotId, proofs.versionId], set: now })
      .returning({ id: proofs.id })
    await enqueue(tx, 'prove', { proofId: row!.id }, proofKey(row!.id), PROOF_ORDER)
    await announce(tx, { kind: 'proof', id: shotId })
    return true
  })
}

/** Calls it off. What was measured so far stays. */
export async function cancelProof(db: Database, shotId: string, versionId: string | null): Promise<void> {
  await db
    .update(proofs)
    .set({ state: 'cancelled' })
    .where(and(ofSubject(shotId, versionId), inArray(proofs.state, ['waiting', 'working'])))
  await announce(db, { kind: 'proof', id: shotId })
}

/** A chart shows no more points than this, each with its least and greatest value: one for two of the pixels that it is wide. */
export const CHART_POINTS = 400
/** More are in the report. */
const MAX_SNAGS = 2000

interface Row {
  readonly frame: number
  readonly changedOutside: number
  readonly isAsRendered: boolean | null
  readonly proof: FrameProof
}

/** @param mendId  Only of this mend; null: of all of them, the worst. */
export async function loadProof(
  db: Database | Transaction,
  shotId: string,
  versionId: string | null,
  mendId: string | null,
  nowMs = Date.now(),
): Promise<ProofStatus> {
  const [proof] = await db.select().from(proofs).where(ofSubject(shotId, versionId))
  const rows = proof ? await rowsOf(db, proof) : []
  const changed = rows.filter(({ changedOutside }) => changedOutside > 0)
  const hasFile = rows.some(({ isAsRendered }) => isAsRendered !== null)
  return {
    state: proof?.state ?? 'none',
    framesDone: proof?.framesDone ?? 0,
    framesTotal: proof?.framesTotal ?? 0,
    seconds: proof?.startedAt
      ? ((proof.finishedAt?.getTime() ?? nowMs) - proof.startedAt.getTime()) / 1000
      : null,
    error: proof?.error ?? null,
    revision: proof?.revision ?? 0,
    measured: rows.length,
    changedOutside: changed.reduce((sum, { changedOutside }) => sum + changedOutside, 0),
    changedFrames: changed.map(({ frame, changedOutside }) => ({ frame, count: changedOutside })),
    notAsRendered: hasFile
      ? rows.filter(({ isAsRendered }) => isAsRendered === false).map(({ frame }) => frame)
      : null,
    charts: chartsOf(rows, mendId),
    snags: snagsOf(rows, mendId),
  }
}

const readRows = (db: Database | Transaction, proofId: string): Promise<Row[]> =>
  db
    .select({
      frame: proofFrames.frame,
      changedOutside: proofFrames.changedOutside,
      isAsRendered: proofFrames.isAsRendered,
      proof: proofFrames.proof,
    })
    .from(proofFrames)
    .where(eq(proofFrames.proofId, proofId))
    .orderBy(asc(proofFrames.frame))

/** Proofs that are done, as they were read: those of long shots are some megabytes, and asked for again with each mend that is looked at alone. */
const readLately = new LRUCache<string, readonly Row[]>({ max: 3 })

/** A proof that is done changes only when it is asked for again: then it is done at another time. */
async function rowsOf(
  db: Database | Transaction,
  proof: typeof proofs.$inferSelect,
): Promise<readonly Row[]> {
  if (proof.state !== 'done' || !proof.finishedAt) return readRows(db, proof.id)
  const key = `${proof.id} ${proof.finishedAt.getTime()}`
  const rows = readLately.get(key) ?? (await readRows(db, proof.id))
  readLately.set(key, rows)
  return rows
}

function chartsOf(rows: readonly Row[], mendId: string | null): ProofChart[] {
  const [first, last] = [rows[0]?.frame, rows.at(-1)?.frame]
  if (first === undefined || last === undefined) return []
  return PROOF_MEASURE_IDS.map((measure) => {
    const values: (number | null)[] = Array.from({ length: last - first + 1 }, () => null)
    for (const { frame, proof } of rows)
      values[frame - first] = worstOf(
        measure,
        proof.mends
          .filter((mend) => mendId === null || mend.mendId === mendId)
          .map(({ numbers }) => numbers[measure]),
      )
    return { measure, points: thinSeries(values, first, CHART_POINTS) }
  })
}

const snagsOf = (rows: readonly Row[], mendId: string | null): Snag[] =>
  snagsOfProofs(rows.map(({ proof }) => proof))
    .filter((snag) => mendId === null || snag.mendId === mendId)
    .sort((a, b) => b.weight - a.weight || a.frame - b.frame)
    .slice(0, MAX_SNAGS)

/** The digests of frames; none where nothing was measured. */
export async function loadDigests(
  db: Database | Transaction,
  shotId: string,
  versionId: string | null,
): Promise<FrameDigests[]> {
  return db
    .select({
      frame: proofFrames.frame,
      plateSha256: proofFrames.plateSha256,
      resultSha256: proofFrames.resultSha256,
      changedOutside: proofFrames.changedOutside,
    })
    .from(proofFrames)
    .innerJoin(proofs, eq(proofs.id, proofFrames.proofId))
    .where(ofSubject(shotId, versionId))
    .orderBy(asc(proofFrames.frame))
}

/** Every frame that was measured, whole. */
export async function loadFrameProofs(
  db: Database | Transaction,
  shotId: string,
  versionId: string | null,
): Promise<FrameProof[]> {
  const rows = await db
    .select({ proof: proofFrames.proof })
    .from(proofFrames)
    .innerJoin(proofs, eq(proofs.id, proofFrames.proofId))
    .where(ofSubject(shotId, versionId))
    .orderBy(asc(proofFrames.frame))
  return rows.map(({ proof }) => proof)
}
