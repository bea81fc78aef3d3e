import { and, eq, inArray } from 'drizzle-orm'
import type { ComputePool } from '../../workers/pool'
import type { ServerContext } from '../context.server'
import { scenes } from '../db/schema'
import { announce } from '../events.server'
import { log } from '../log.server'
import { plateReference } from '../plateFrames.server'
import { loadShotDocument } from '../shots.server'
import type { JobPayload } from './queue.server'

const NEWS_EVERY_MS = 500

/**
 * Works out how a shot's background moves; reviewed, only where mends have changed what must be left out. Run again after a lost
 * worker, it begins anew.
 */
export async function workOutScene(
  context: ServerContext,
  pool: ComputePool,
  { shotId, isReview = false }: JobPayload<'work_out_scene'>,
  signal: AbortSignal,
): Promise<void> {
  const { db } = context.database
  const found = await loadShotDocument(db, shotId)
  if (!found) return // removed meanwhile
  const { document, plate, revision } = found
  const here = eq(scenes.shotId, shotId)
  const begin = { state: 'working', stepsDone: 0, stepsTotal: 2 * plate.frameCount, error: null } as const
  const [row] = await db.select().from(scenes).where(here)
  // One that is yet to be worked out will see the mends as they are then. Under way it is this very job, taken over from a lost worker.
  if (isReview && (!row?.scene || !['done', 'working'].includes(row.state))) return
  if (!isReview) await db.update(scenes).set(begin).where(here)
  let hasBegun = !isReview
  let lastNews = 0
  let news: Promise<void> = Promise.resolve()
  const onShare = (stepsDone: number, stepsTotal: number) => {
    if (Date.now() - lastNews < NEWS_EVERY_MS) return
    lastNews = Date.now()
    // Only news: the next one, or the end, makes up for one that is lost. The end is never taken back.
    const isFirst = !hasBegun
    hasBegun = true
    news = db
      .update(scenes)
      .set(isFirst ? { ...begin, stepsDone, stepsTotal } : { stepsDone, stepsTotal })
      .where(and(here, inArray(scenes.state, isFirst ? ['done', 'working'] : ['working'])))
      .then(() => {
        const step = { part: null, done: stepsDone, total: stepsTotal, seconds: null }
        return announce(db, { kind: 'scene', id: shotId, step })
      })
      .catch((cause: unknown) => log.warn({ err: cause, shotId }, 'progress of a scene could not be told'))
  }
  const reference = plateReference(context, plate)
  const { scene, isSame } = await pool.withDocument(document, (documentId) =>
    pool.run({ kind: 'scene', plate: reference, documentId, isReview }, { signal, onShare }),
  )
  if (isSame) {
    await db.update(scenes).set({ state: 'done', revision }).where(here)
    return
  }
  if (!scene) throw new Error('The scene was stopped half way.') // this worker is going away: another begins anew
  await news
  await db.transaction(async (tx) => {
    await tx
      .update(scenes)
      .set({ state: 'done', scene, revision, stepsDone: 2 * plate.frameCount })
      .where(here)
    await announce(tx, { kind: 'scene', id: shotId })
  })
}

export async function failScene(
  { database: { db } }: ServerContext,
  shotId: string,
  error: string,
): Promise<void> {
  await db.update(scenes).set({ state: 'failed', error }).where(eq(scenes.shotId, shotId))
  await announce(db, { kind: 'scene', id: shotId })
}
