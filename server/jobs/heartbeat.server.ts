/** Signs of life between workers, so that a lost worker's jobs go on elsewhere within seconds. */
import { sql } from 'drizzle-orm'
import type { Database } from '../db/client.server'
import { workerBeats } from '../db/schema'
import { log } from '../log.server'

const BEAT_MS = 2000
const SILENT_SECONDS = 6
/** A worker that is given a job has it in hand long before. */
const UNCLAIMED_SECONDS = 10

/** A worker of this process, as far as the queue knows it. */
export interface OwnWorker {
  readonly workerId: string
  /** The job that it is at just now; null while it is at none. */
  jobId(): string | null
}

/**
 * Beats for this process's workers and takes jobs from those that have fallen silent.
 * @param workers  Asked for anew at every beat. @param afterLoss  Run at each beat: some may have been found lost, perhaps by others. @returns How to stop.
 */
export function startHeartbeat(
  db: Database,
  workers: () => readonly OwnWorker[],
  afterLoss: () => Promise<void>,
): () => Promise<void> {
  const beat = async () => {
    for (const { workerId } of workers()) {
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
    await putBack(db, workers)
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

/**
 * Puts back what workers of this process were given and do not know of: the database was lost between giving a job and saying
 * so, or between its end and writing that down.
 */
async function putBack(db: Database, workers: () => readonly OwnWorker[]): Promise<void> {
  const ids = workers().map(({ workerId }) => sql`${workerId}`)
  if (ids.length === 0) return
  const ours = sql`locked_by = any(array[${sql.join(ids, sql`, `)}]::text[])`
  const { rows } = await db.execute<{ id: string }>(
    sql`select id::text from graphile_worker._private_jobs where ${ours} and locked_at < now() - make_interval(secs => ${UNCLAIMED_SECONDS})`,
  )
  // Asked only now: one that has ended meanwhile is no longer theirs.
  const atWork = new Set(workers().map((worker) => worker.jobId()))
  const unknown = rows.map(({ id }) => id).filter((id) => !atWork.has(id))
  if (unknown.length === 0) return
  log.warn({ jobs: unknown }, 'jobs are in nobody’s hands; they are done anew')
  const lost = sql`id = any(array[${sql.join(unknown.map((id) => sql`${id}`), sql`, `)}]::bigint[])` // prettier-ignore
  await db.transaction(async (tx) => {
    const freed = await tx.execute<{ queue: number | null }>(
      sql`update graphile_worker._private_jobs set locked_by = null, locked_at = null where ${lost} and ${ours} returning job_queue_id as queue`,
    )
    const queues = freed.rows.flatMap(({ queue }) => (queue === null ? [] : [sql`${queue}`]))
    if (queues.length > 0)
      await tx.execute(
        sql`update graphile_worker._private_job_queues set locked_by = null, locked_at = null where id in (${sql.join(queues, sql`, `)}) and ${ours}`,
      )
  })
}
