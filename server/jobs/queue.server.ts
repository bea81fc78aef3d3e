/** Putting work into the queue. Jobs are rows in the same database, so a job and its data are stored together. */
import { sql } from 'drizzle-orm'
import { z } from 'zod'
import type { Database, Transaction } from '../db/client.server'

/** Each kind of job and what it needs to know. */
export const jobSchemas = {
  import_plate: z.strictObject({ importId: z.uuid() }),
  render_chunk: z.strictObject({ versionId: z.uuid(), index: z.int().min(0) }),
  assemble_version: z.strictObject({ versionId: z.uuid() }),
  /** Reviewed: only if mends have changed what must be left out since the last time. */
  work_out_scene: z.strictObject({ shotId: z.string(), isReview: z.boolean().optional() }),
  survey_plate: z.strictObject({ shotId: z.string() }),
  make_view: z.strictObject({ viewId: z.uuid() }),
  prove: z.strictObject({ proofId: z.uuid() }),
  gather_mend: z.strictObject({ shotId: z.string(), mendId: z.string() }),
} as const
export type JobName = keyof typeof jobSchemas
export type JobPayload<N extends JobName> = z.output<(typeof jobSchemas)[N]>

export const MAX_ATTEMPTS = 5 // a lost worker costs one; a job that fails by itself says so and is not tried again

/** How a job stands to others: lower priorities go first; of one queue one is done at a time. */
export interface JobOptions {
  readonly priority?: number
  readonly queue?: string
  /** Not before so many seconds; asked for again, they begin anew. */
  readonly delaySeconds?: number
}

/** Adds a job; the same key twice is one job. */
export async function enqueue<N extends JobName>(
  db: Database | Transaction,
  name: N,
  payload: JobPayload<N>,
  key: string,
  { priority = 0, queue, delaySeconds = 0 }: JobOptions = {},
): Promise<void> {
  await db.execute(
    sql`select graphile_worker.add_job(${name}, payload := ${JSON.stringify(payload)}::json, job_key := ${key}, max_attempts := ${MAX_ATTEMPTS}, priority := ${priority}, queue_name := ${queue ?? null}, run_at := now() + make_interval(secs => ${delaySeconds}))`,
  )
}
