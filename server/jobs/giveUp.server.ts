/** What becomes of a job that is not tried again: it says so where people look, and leaves nothing half done. */
import { readdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { eq, sql } from 'drizzle-orm'
import type { ServerContext } from '../context.server'
import { imports, versions } from '../db/schema'
import { announce } from '../events.server'
import { log } from '../log.server'
import { uploadFolder } from '../imports.server'
import { versionFolder } from '../versions.server'
import { failGather } from './gatherMend.server'
import { failView } from './makeView.server'
import { failProof } from './proveFrames.server'
import { jobSchemas, MAX_ATTEMPTS, type JobName, type JobPayload } from './queue.server'
import { failSurvey } from './surveyShot.server'
import { failScene } from './workOutScene.server'

type GiveUps = { readonly [N in JobName]: (context: ServerContext, job: JobPayload<N>, error: string) => Promise<void> } // prettier-ignore

const GIVE_UP: GiveUps = {
  async import_plate(context, { importId }, error) {
    const { db } = context.database
    await db.update(imports).set({ state: 'failed', error }).where(eq(imports.id, importId))
    await context.frames.sweep(importId)
    await rm(uploadFolder(context, importId), { recursive: true, force: true })
    await announce(db, { kind: 'import', id: importId })
  },
  render_chunk: (context, { versionId }, error) => failVersion(context, versionId, error),
  assemble_version: (context, { versionId }, error) => failVersion(context, versionId, error),
  work_out_scene: (context, { shotId }, error) => failScene(context, shotId, error),
  gather_mend: failGather,
  survey_plate: (context, { shotId }, error) => failSurvey(context, shotId, error),
  async make_view(context, { viewId }, error) {
    await context.frames.sweep(viewId)
    await failView(context, viewId, error)
  },
  prove: (context, { proofId }, error) => failProof(context, proofId, error),
}

async function failVersion(context: ServerContext, versionId: string, error: string): Promise<void> {
  const { db } = context.database
  await db.update(versions).set({ state: 'failed', error, finishedAt: new Date() }).where(eq(versions.id, versionId)) // prettier-ignore
  const folder = versionFolder(context, versionId)
  // Chunks that are finished stay: tried again, only the others are rendered.
  for (const name of await readdir(folder).catch(() => []))
    if (name.endsWith('.partial')) await rm(join(folder, name), { recursive: true, force: true })
  await announce(db, { kind: 'version', id: versionId })
}

/** @param words  For whoever waits: what has happened, and what to do. */
export function giveUp<N extends JobName>(
  context: ServerContext,
  name: N,
  payload: JobPayload<N>,
  words: string,
): Promise<void> {
  return GIVE_UP[name](context, payload, words)
}

/** @param why  A whole sentence. */
export const triedOften = (why: string): string => `It failed: ${why} Try again, or look at the worker's log.`

const isJobName = (name: string): name is JobName => name in jobSchemas

/**
 * Jobs whose worker has died under them as often as they may be tried: the queue would never touch them again, and
 * whoever waits would wait for ever.
 */
export async function giveUpLostJobs(context: ServerContext): Promise<void> {
  const { db } = context.database
  const lost = await db.execute<{ id: string; name: string }>(
    sql`select id, task_identifier as name from graphile_worker.jobs where attempts >= max_attempts and locked_at is null`,
  )
  for (const { id, name } of lost.rows) {
    const taken = await db.execute<{ payload: unknown }>(
      sql`select payload from graphile_worker.complete_jobs(array[${id}]::bigint[])`,
    )
    const payload = taken.rows[0]?.payload
    if (payload === undefined || !isJobName(name)) continue // somebody else was faster
    log.error({ name, payload }, 'a job is given up: its worker has died each time')
    const job = jobSchemas[name].safeParse(payload)
    if (job.success)
      await giveUp(context, name, job.data, triedOften(`the worker ended ${MAX_ATTEMPTS} times while it was at this.`)) // prettier-ignore
  }
}
