import { and, eq } from 'drizzle-orm'
import { strangersOn } from '../../core/mend/place'
import type { ComputePool } from '../../workers/pool'
import type { ServerContext } from '../context.server'
import { scenes } from '../db/schema'
import { announce } from '../events.server'
import { log } from '../log.server'
import { plateReference } from '../plateFrames.server'
import { findShot, loadMends, loadTracks } from '../shots.server'
import type { JobPayload } from './queue.server'

const NEWS_EVERY_MS = 500

/** Works out how a shot's background moves. Run again after a lost worker, it begins anew. */
export async function workOutScene(
  context: ServerContext,
  pool: ComputePool,
  { shotId }: JobPayload<'work_out_scene'>,
  signal: AbortSignal,
): Promise<void> {
  const { db } = context.database
  const found = await findShot(db, shotId)
  if (!found) return // removed meanwhile
  const { plate, shot } = found
  const range = { firstFrame: plate.firstFrame, lastFrame: plate.firstFrame + plate.frameCount - 1 }
  const mends = await loadMends(db, shotId)
  const tracks = new Map((await loadTracks(db, shotId)).map((track) => [track.id, track]))
  const strangers = Object.fromEntries(
    Array.from({ length: plate.frameCount }, (_, i) => [range.firstFrame + i, strangersOn(mends, tracks, range.firstFrame + i)]),
  )
  const here = eq(scenes.shotId, shotId)
  await db
    .update(scenes)
    .set({ state: 'working', stepsDone: 0, stepsTotal: 2 * plate.frameCount, error: null })
    .where(here)
  let lastNews = 0
  const { scene } = await pool.run(
    {
      kind: 'scene',
      plate: plateReference(context, plate),
      request: { range, strangers },
    },
    {
      signal,
      onShare: (stepsDone, stepsTotal) => {
        if (Date.now() - lastNews < NEWS_EVERY_MS) return
        lastNews = Date.now()
        // Only news: the next one, or the end, makes up for one that is lost. The end is never taken back.
        void db
          .update(scenes)
          .set({ stepsDone, stepsTotal })
          .where(and(here, eq(scenes.state, 'working')))
          .then(() => announce(db, { kind: 'scene', id: shotId }))
          .catch((cause: unknown) => log.warn({ err: cause, shotId }, 'progress of a scene could not be told'))
      },
    },
  )
  if (!scene) throw new Error('The scene was stopped half way.') // this worker is going away: another begins anew
  await db.transaction(async (tx) => {
    await tx
      .update(scenes)
      .set({ state: 'done', scene, revision: shot.revision, stepsDone: 2 * plate.frameCount })
      .where(here)
    await announce(tx, { kind: 'scene', id: shotId })
  })
}

export async function failScene({ database: { db } }: ServerContext, shotId: string, error: string): Promise<void> {
  await db.update(scenes).set({ state: 'failed', error }).where(eq(scenes.shotId, shotId))
  await announce(db, { kind: 'scene', id: shotId })
}
