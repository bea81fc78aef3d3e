/** Gathering a mend's frames ahead: asked for, called off, looked at. */
import { and, eq, inArray } from 'drizzle-orm'
import type { GatherStatus } from '../core/jobs/gather'
import type { Database } from './db/client.server'
import { gathers } from './db/schema'
import { announce } from './events.server'
import { enqueue } from './jobs/queue.server'
import { loadMends } from './shots.server'

/** After what people wait for, before what nobody does. */
const ORDER = { priority: 5 } as const

export const ofMend = (shotId: string, mendId: string) =>
  and(eq(gathers.shotId, shotId), eq(gathers.mendId, mendId))

/** Has workers gather all frames of a mend. Asked twice, it is done once. @returns Whether there is such a mend. */
export async function askForGather(db: Database, shotId: string, mendId: string): Promise<boolean> {
  return db.transaction(async (tx) => {
    if (!(await loadMends(tx, shotId)).some(({ id }) => id === mendId)) return false
    const now = { state: 'waiting', framesDone: 0, framesTotal: 0, startedAt: null, error: null } as const
    await tx
      .insert(gathers)
      .values({ shotId, mendId, ...now })
      .onConflictDoUpdate({ target: [gathers.shotId, gathers.mendId], set: now })
    await enqueue(tx, 'gather_mend', { shotId, mendId }, `gather:${shotId}:${mendId}`, ORDER)
    await announce(tx, { kind: 'gather', id: shotId })
    return true
  })
}

/** Calls it off. What was gathered so far is kept. */
export async function cancelGather(db: Database, shotId: string, mendId: string): Promise<void> {
  await db
    .update(gathers)
    .set({ state: 'cancelled' })
    .where(and(ofMend(shotId, mendId), inArray(gathers.state, ['waiting', 'working'])))
  await announce(db, { kind: 'gather', id: shotId })
}

export async function loadGather(
  db: Database,
  shotId: string,
  mendId: string,
  nowMs = Date.now(),
): Promise<GatherStatus> {
  const [row] = await db.select().from(gathers).where(ofMend(shotId, mendId))
  if (!row) return { state: 'none', framesDone: 0, framesTotal: 0, seconds: null, error: null }
  const { state, framesDone, framesTotal, startedAt, error } = row
  return { state, framesDone, framesTotal, seconds: startedAt && (nowMs - startedAt.getTime()) / 1000, error }
}
