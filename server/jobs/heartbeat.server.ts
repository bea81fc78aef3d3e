/** Signs of life between workers, so that a lost worker's jobs go on elsewhere within seconds. */
import { sql } from 'drizzle-orm'
import type { Database } from '../db/client.server'
import { workerBeats } from '../db/schema'
import { log } from '../log.server'

const BEAT_MS = 2000
const SILENT_SECONDS = 6

/**
 * Beats for this process's workers and takes jobs from those that have fallen silent.
 * @param workerIds  Asked for anew at every beat. @param afterLoss  Run at each beat: some may have been found lost, perhaps by others. @returns How to stop.
 */
export function startHeartbeat(
  db: Database,
  workerIds: () => readonly string[],
  afterLoss: () => Promise<void>,
): () => Promise<void> {
  const beat = async () => {
    for (const workerId of workerIds()) {
      await db
        .insert(workerBeats)
        .values({ workerId })
        .onConflictDoUpdate({ target: workerBeats.workerId, set: { at: sql`now()` } })
    }
    const lost = await db.execute<{ worker_id: string }>(
      sql`delete from worker_beats where at < now() - make_interval(secs => ${SILENT_SECONDS}) returning worker_id`,
    )
    // Some die before their first beat, with a job in hand: nobody else would ever miss them.
    const unheard = await db.execute<{ worker_id: string }>(sql`
      select locked_by as worker_id from graphile_worker._private_jobs
        where locked_at < now() - make_interval(secs => ${SILENT_SECONDS}) and locked_by not in (select worker_id from worker_beats)
      union select locked_by from graphile_worker._private_job_queues
        where locked_at < now() - make_interval(secs => ${SILENT_SECONDS}) and locked_by not in (select worker_id from worker_beats)`)
    const ids = [...lost.rows, ...unheard.rows].map((row) => row.worker_id)
    if (ids.length > 0) {
      log.warn({ ids }, 'workers have fallen silent; their jobs go to others')
      await db.execute(
        sql`select graphile_worker.force_unlock_workers(array[${sql.join(
          ids.map((id) => sql`${id}`),
          sql`, `,
        )}]::text[])`,
      )
    }
    await afterLoss()
  }
  let running: Promise<void> = Promise.resolve()
  const tick = () => {
    running = running.then(beat).catch((cause: unknown) => log.warn({ err: cause }, 'a heartbeat failed'))
  }
  tick()
  const timer = setInterval(tick, BEAT_MS)
  return async () => {
    clearInterval(timer)
    await running
  }
}
