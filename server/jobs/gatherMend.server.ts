import { and, eq } from 'drizzle-orm'
import { planFrame } from '../../core/plan/planFrame'
import { mendsInStackOrder } from '../../core/document/document'
import type { ComputePool } from '../../workers/pool'
import type { ServerContext } from '../context.server'
import { gathers } from '../db/schema'
import { announce } from '../events.server'
import { pruneResults } from '../results/resultStore.server'
import { ofMend } from '../gathers.server'
import { plateReference } from '../plateFrames.server'
import { loadScene } from '../scenes.server'
import { findShot, loadMends, loadTracks } from '../shots.server'
import type { JobPayload } from './queue.server'

const NEWS_EVERY_MS = 500
/** Frames under way at once: a core for each, no more. */
const FRAMES_AT_ONCE = 2

/**
 * Works out the frames of a mend, so that what they gather lies on the shelf when it is wanted. Run again, what is on the shelf is
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
  const found = await findShot(db, shotId)
  const [row] = await db.select().from(gathers).where(here)
  if (!found || !row || row.state === 'cancelled') return
  await pruneResults(context.folders.gathered)
  const { plate } = found
  const mends = mendsInStackOrder(await loadMends(db, shotId))
  const mend = mends.find(({ id }) => id === mendId)
  if (!mend) {
    await db.delete(gathers).where(here) // removed meanwhile
    return
  }
  // What lies above it is made after it.
  const stack = mends.slice(0, mends.indexOf(mend) + 1)
  const tracks = new Map((await loadTracks(db, shotId)).map((track) => [track.id, track]))
  const { scene } = await loadScene(db, shotId)
  const range = { firstFrame: plate.firstFrame, lastFrame: plate.firstFrame + plate.frameCount - 1 }
  const [first, last] = [
    Math.max(range.firstFrame, mend.span.firstFrame),
    Math.min(range.lastFrame, mend.span.lastFrame),
  ]
  const framesTotal = Math.max(0, last - first + 1)
  await db
    .update(gathers)
    .set({ state: 'working', framesDone: 0, framesTotal, startedAt: new Date(), error: null })
    .where(here)
  await announce(db, { kind: 'gather', id: shotId })

  const reference = plateReference(context, plate)
  let [next, framesDone, lastNews, isCalledOff] = [first, 0, 0, false]
  const work = async () => {
    while (next <= last && !isCalledOff) {
      const plan = planFrame(stack, tracks, next++, range, scene)
      await pool.run({ kind: 'evaluate', plate: reference, plan, isDraft: false }, { signal })
      framesDone++
      if (Date.now() - lastNews < NEWS_EVERY_MS) continue
      lastNews = Date.now()
      const told = await db
        .update(gathers)
        .set({ framesDone })
        .where(and(here, eq(gathers.state, 'working')))
        .returning()
      isCalledOff ||= told.length === 0
      await announce(db, { kind: 'gather', id: shotId })
    }
  }
  await Promise.all(Array.from({ length: FRAMES_AT_ONCE }, work))
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
