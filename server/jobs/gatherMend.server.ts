import { and, eq } from 'drizzle-orm'
import type { ComputePool } from '../../workers/pool'
import type { ServerContext } from '../context.server'
import { gathers } from '../db/schema'
import { announce } from '../events.server'
import { ofMend } from '../gathers.server'
import { plateReference } from '../plateFrames.server'
import { loadShotDocument } from '../shots.server'
import type { JobPayload } from './queue.server'

const NEWS_EVERY_MS = 500

/**
 * Works out the frames of a mend, so that what they gather is stored when it is wanted. Run again, what is stored is
 * only read: it goes on where it stopped.
 */
export async function gatherMend(
  context: ServerContext,
  pool: ComputePool,
  { shotId, mendId }: JobPayload<'gather_mend'>,
  signal: AbortSignal,
): Promise<void> {
  const { db } = context.database
  const here = ofMend(shotId, mendId)
  const found = await loadShotDocument(db, shotId)
  const [row] = await db.select().from(gathers).where(here)
  if (!found || !row || row.state === 'cancelled') return
  const { document, plate } = found
  const at = document.mends.findIndex(({ id }) => id === mendId)
  if (at < 0) {
    await db.delete(gathers).where(here) // removed meanwhile
    return
  }
  const { span } = document.mends[at]!
  const frames = {
    firstFrame: Math.max(document.plate.firstFrame, span.firstFrame),
    lastFrame: Math.min(document.plate.lastFrame, span.lastFrame),
  }
  const framesTotal = Math.max(0, frames.lastFrame - frames.firstFrame + 1)
  const begun = Date.now()
  await db
    .update(gathers)
    .set({ state: 'working', framesDone: 0, framesTotal, startedAt: new Date(begun), error: null })
    .where(here)
  await announce(db, { kind: 'gather', id: shotId })
  let [lastNews, isCalledOff] = [0, false]
  const tell = async (framesDone: number) => {
    if (Date.now() - lastNews < NEWS_EVERY_MS) return
    lastNews = Date.now()
    const told = await db
      .update(gathers)
      .set({ framesDone })
      .where(and(here, eq(gathers.state, 'working')))
      .returning({ mendId: gathers.mendId })
    isCalledOff ||= told.length === 0
    if (isCalledOff) return
    const step = { part: mendId, done: framesDone, total: framesTotal, seconds: (Date.now() - begun) / 1000 }
    await announce(db, { kind: 'gather', id: shotId, step })
  }
  // What lies above it is made after it.
  const stack = { ...document, mends: document.mends.slice(0, at + 1) }
  const framesDone = await pool.withDocument(stack, async (documentId) => {
    const request = {
      kind: 'evaluate',
      plate: plateReference(context, plate),
      documentId,
      isDraft: false,
    } as const
    let [next, done] = [frames.firstFrame, 0]
    const work = async () => {
      while (next <= frames.lastFrame && !isCalledOff) {
        await pool.run({ ...request, frame: next++ }, { signal })
        await tell(++done)
      }
    }
    await Promise.all(Array.from({ length: pool.size }, work))
    return done
  })
  if (!isCalledOff) await finish(context, shotId, mendId, framesDone, framesTotal)
}

async function finish(
  { database: { db } }: ServerContext,
  shotId: string,
  mendId: string,
  framesDone: number,
  framesTotal: number,
): Promise<void> {
  await db
    .update(gathers)
    .set({ state: 'done', framesDone, framesTotal })
    .where(and(ofMend(shotId, mendId), eq(gathers.state, 'working')))
  await announce(db, { kind: 'gather', id: shotId })
}

export async function failGather(
  { database: { db } }: ServerContext,
  { shotId, mendId }: JobPayload<'gather_mend'>,
  error: string,
): Promise<void> {
  await db.update(gathers).set({ state: 'failed', error }).where(ofMend(shotId, mendId))
  await announce(db, { kind: 'gather', id: shotId })
}
