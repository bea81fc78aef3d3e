import { and, eq, inArray } from 'drizzle-orm'
import { otherMendsOn } from '../../core/plan/planFrame'
import type { ComputePool } from '../../workers/pool'
import type { ServerContext } from '../context.server'
import { scenes } from '../db/schema'
import { announce } from '../events.server'
import { log } from '../log.server'
import { plateReference } from '../plateFrames.server'
import { findShot, loadMends, loadTracks } from '../shots.server'
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
  const found = await findShot(db, shotId)
  if (!found) return // removed meanwhile
  const { plate, shot } = found
  const range = { firstFrame: plate.firstFrame, lastFrame: plate.firstFrame + plate.frameCount - 1 }
  const mends = await loadMends(db, shotId)
  const tracks = new Map((await loadTracks(db, shotId)).map((track) => [track.id, track]))
  const otherMends = Object.fromEntries(
    Array.from({ length: plate.frameCount }, (_, i) => [
      range.firstFrame + i,
      otherMendsOn(mends, tracks, range.firstFrame + i),
    ]),
  )
  const here = eq(scenes.shotId, shotId)
  const begin = { state: 'working', stepsDone: 0, stepsTotal: 2 * plate.frameCount, error: null } as const
  const [row] = await db.select().from(scenes).where(here)
  // One that is yet to be worked out will see the mends as they are then. Under way it is this very job, taken over from a lost worker.
  if (isReview && (!row?.scene || !['done', 'working'].includes(row.state))) return
  if (!isReview) await db.update(scenes).set(begin).where(here)
  let hasBegun = !isReview
  let lastNews = 0
  let news: Promise<void> = Promise.resolve()
  const { scene, isSame } = await pool.run(
    {
      kind: 'scene',
      plate: plateReference(context, plate),
      request: { range, otherMends },
      ...(isReview && row?.scene ? { last: row.scene } : {}),
    },
    {
      signal,
      onShare: (stepsDone, stepsTotal) => {
        if (Date.now() - lastNews < NEWS_EVERY_MS) return
        lastNews = Date.now()
        // Only news: the next one, or the end, makes up for one that is lost. The end is never taken back.
        const isFirst = !hasBegun
        hasBegun = true
        news = db
          .update(scenes)
          .set(isFirst ? { ...begin, stepsDone, stepsTotal } : { stepsDone, stepsTotal })
          .where(and(here, inArray(scenes.state, isFirst ? ['done', 'working'] : ['working'])))
          .then(() => announce(db, { kind: 'scene', id: shotId }))
          .catch((cause: unknown) =>
            log.warn({ err: cause, shotId }, 'progress of a scene could not be told'),
          )
      },
    },
  )
  if (isSame) {
    await db.update(scenes).set({ state: 'done', revision: shot.revision }).where(here)
    return
  }
  if (!scene) throw new Error('The scene was stopped half way.') // this worker is going away: another begins anew
  await news
  await db.transaction(async (tx) => {
    await tx
      .update(scenes)
      .set({ state: 'done', scene, revision: shot.revision, stepsDone: 2 * plate.frameCount })
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
