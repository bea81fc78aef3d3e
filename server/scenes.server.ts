/** The motion of shots' backgrounds in the database: asked for, looked at. */
import { eq, sql } from 'drizzle-orm'
import type { SceneStatus } from '../core/jobs/scene'
import type { Database, Transaction } from './db/client.server'
import { scenes } from './db/schema'
import { announce } from './events.server'
import { enqueue } from './jobs/queue.server'

/** After what people wait for, imports and renders; and one at a time, so that a core stays free for these. */
const ORDER = { priority: 10, queue: 'scenes' } as const

/** Has the scene worked out, with what mends cover now left out. Asked twice, it is done once. */
export async function askForScene(db: Database | Transaction, shotId: string): Promise<void> {
  const now = { state: 'waiting', stepsDone: 0, stepsTotal: 0, error: null } as const
  await db
    .insert(scenes)
    .values({ shotId, ...now })
    .onConflictDoUpdate({ target: scenes.shotId, set: now })
  await enqueue(db, 'work_out_scene', { shotId }, `scene:${shotId}`, ORDER)
  await announce(db, { kind: 'scene', id: shotId })
}

/** Edits come in bursts: the scene is looked at when they have paused. */
const REVIEW_AFTER_SECONDS = 20

/** Has it looked at whether what mends cover still is what the scene was worked out without; done again where it is not. */
export const reviewScene = (db: Database | Transaction, shotId: string): Promise<void> =>
  enqueue(db, 'work_out_scene', { shotId, isReview: true }, `review-scene:${shotId}`, {
    ...ORDER,
    delaySeconds: REVIEW_AFTER_SECONDS,
  })

export async function loadScene(db: Database | Transaction, shotId: string): Promise<SceneStatus> {
  const [row] = await db.select().from(scenes).where(eq(scenes.shotId, shotId))
  return row ?? { state: 'none', stepsDone: 0, stepsTotal: 0, scene: null, error: null }
}

/** Asks for the scene of every shot that never had one: shots of an earlier version. */
export async function askForMissingScenes(db: Database): Promise<void> {
  const rows = await db.execute<{ id: string }>(
    sql`select id from shots where not exists (select 1 from scenes where scenes.shot_id = shots.id)`,
  )
  for (const { id } of rows.rows) await askForScene(db, id)
}
