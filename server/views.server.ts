/** Straight views of all-round shots: asked for, listed, and what a version takes of them. */
import { randomUUID } from 'node:crypto'
import { and, asc, eq } from 'drizzle-orm'
import { z } from 'zod'
import type { VersionView, ViewStatus } from '../core/jobs/view'
import type { MendOfView } from '../core/proof/proofStatus'
import { mayBeAllRound, straightViewSchema } from '../core/sphere/straightView'
import type { Database, Transaction } from './db/client.server'
import { shots, views } from './db/schema'
import { announce } from './events.server'
import { enqueue } from './jobs/queue.server'
import { loadScene } from './scenes.server'
import { documentOf, findShot, loadMends, loadTracks } from './shots.server'

/** What the page of an all-round shot asks for. */
export const aroundRequestSchema = z.discriminatedUnion('intent', [
  z.strictObject({ intent: z.literal('confirm'), isAllRound: z.boolean() }),
  z.strictObject({
    intent: z.literal('make'),
    name: z.string().trim().min(1).max(40),
    view: straightViewSchema,
  }),
])
export type AroundRequest = z.output<typeof aroundRequestSchema>

export type AroundAnswer = { readonly ok: true } | { readonly ok: false; readonly message: string }

export async function changeAround(
  db: Database,
  shotId: string,
  request: AroundRequest,
): Promise<AroundAnswer> {
  const found = await findShot(db, shotId)
  if (!found) return { ok: false, message: 'There is no such shot. It may have been removed.' }
  const { plate, shot } = found
  if (request.intent === 'confirm') {
    if (request.isAllRound && !mayBeAllRound(plate))
      return { ok: false, message: `An all-round picture is twice as wide as high, or its file says what it is. This one has ${plate.width}×${plate.height} pixels.` } // prettier-ignore
    await db.update(shots).set({ isAllRound: request.isAllRound }).where(eq(shots.id, shotId))
    await announce(db, { kind: 'shot', id: shotId })
    return { ok: true }
  }
  if (!shot.isAllRound) return { ok: false, message: 'Say first that the picture is all-round.' }
  const id = randomUUID()
  await db.transaction(async (tx) => {
    const { name, view } = request
    await tx.insert(views).values({ id, shotId, name, view, state: 'waiting', framesTotal: plate.frameCount })
    await enqueue(tx, 'make_view', { viewId: id }, `view:${id}`)
    await announce(tx, { kind: 'view', id: shotId })
  })
  return { ok: true }
}

export async function listViews(db: Database | Transaction, shotId: string): Promise<readonly ViewStatus[]> {
  const rows = await db.select().from(views).where(eq(views.shotId, shotId)).orderBy(asc(views.createdAt))
  const now = Date.now()
  return rows.map(({ id, name, view, state, framesDone, framesTotal, startedAt, error, madeShotId }) => ({
    id,
    name,
    view,
    state,
    framesDone,
    framesTotal,
    seconds: startedAt ? (now - startedAt.getTime()) / 1000 : null,
    error,
    madeShotId,
  }))
}

/** The all-round shot that a shot is a view of; null of any other shot. */
export async function allRoundOf(
  db: Database | Transaction,
  shotId: string,
): Promise<{ readonly id: string; readonly name: string } | null> {
  const [row] = await db
    .select({ id: shots.id, name: shots.name })
    .from(views)
    .innerJoin(shots, eq(shots.id, views.shotId))
    .where(eq(views.madeShotId, shotId))
  return row ?? null
}

/** What is mended in the views of a shot now; those without mends are left out. */
export async function viewsForVersion(tx: Transaction, shotId: string): Promise<readonly VersionView[]> {
  const rows = await tx
    .select({ view: views.view, madeShotId: views.madeShotId })
    .from(views)
    .where(and(eq(views.shotId, shotId), eq(views.state, 'done')))
    .orderBy(asc(views.createdAt))
  const out: VersionView[] = []
  for (const { view, madeShotId } of rows) {
    const found = madeShotId && (await findShot(tx, madeShotId))
    if (!found) continue
    const { shot, plate } = found
    const document = documentOf(shot, plate, await loadMends(tx, shot.id), await loadTracks(tx, shot.id))
    if (!document.mends.some((mend) => mend.isOn)) continue
    const { scene } = await loadScene(tx, shot.id)
    out.push({ shotId: shot.id, view, document, scene })
  }
  return out
}

/** The mends of an all-round picture's views, and where they are worked on. */
export async function mendsOfViews(tx: Transaction, shotId: string): Promise<MendOfView[]> {
  const all = await viewsForVersion(tx, shotId)
  return all.flatMap(({ shotId: viewId, document }) =>
    document.mends.map(({ id, name }) => ({ mendId: id, shotId: viewId, name })),
  )
}
