/**
 * A worker process: takes jobs from the queue and does them. Start as many as there are machines that
 * reach the database and the data folder.
 */
import { availableParallelism } from 'node:os'
import { run, type TaskList } from 'graphile-worker'
import { EventEmitter, setMaxListeners } from 'node:events'
import { eq } from 'drizzle-orm'
import { serverContext } from './context.server'
import { imports, versions } from './db/schema'
import { announce } from './events.server'
import { assembleVersion } from './jobs/assembleVersion.server'
import { createNodePool } from './jobs/computePool.server'
import { startHeartbeat } from './jobs/heartbeat.server'
import { importPlate } from './jobs/importPlate.server'
import { failGather, gatherMend } from './jobs/gatherMend.server'
import { failView, makeView } from './jobs/makeView.server'
import { jobSchemas, type JobPayload } from './jobs/queue.server'
import { renderChunk } from './jobs/renderChunk.server'
import { failProof, proveFrames } from './jobs/proveFrames.server'
import { failSurvey, surveyShot } from './jobs/surveyShot.server'
import { failScene, workOutScene } from './jobs/workOutScene.server'
import { startLifeSign } from './lifeSign.server'
import { log } from './log.server'
import { keepResultsPruned } from './results/pruneResults.server'

const context = serverContext()
const { db, pool: pgPool } = context.database
const compute = createNodePool(availableParallelism())

const workerIds = new Set<string>()
const events = new EventEmitter()
events.on('worker:create', ({ worker }: { worker: { workerId: string } }) => workerIds.add(worker.workerId))
events.on('pool:create', ({ workerPool }: { workerPool: { id: string } }) => workerIds.add(workerPool.id))

/** What a job is for. */
interface JobTarget {
  readonly version?: string
  readonly importId?: string
  readonly scene?: string
  readonly gather?: JobPayload<'gather_mend'>
  readonly survey?: string
  readonly view?: string
  readonly proof?: string
}

/** A job that has failed for good says so where people look. */
async function giveUp(
  { version, importId, scene, gather, survey, view, proof }: JobTarget,
  cause: unknown,
): Promise<void> {
  const error = `It failed: ${cause instanceof Error ? cause.message : String(cause)} Try again, or look at the worker's log.`
  if (version) {
    await db
      .update(versions)
      .set({ state: 'failed', error, finishedAt: new Date() })
      .where(eq(versions.id, version))
    await announce(db, { kind: 'version', id: version })
  }
  if (scene) await failScene(context, scene, error)
  if (gather) await failGather(context, gather, error)
  if (survey) await failSurvey(context, survey, error)
  if (view) await failView(context, view, error)
  if (proof) await failProof(context, proof, error)
  if (importId) {
    await db.update(imports).set({ state: 'failed', error }).where(eq(imports.id, importId))
    await announce(db, { kind: 'import', id: importId })
  }
}

type Helpers = {
  readonly abortSignal?: AbortSignal
  readonly job: { readonly attempts: number; readonly max_attempts: number }
}

async function guarded(
  helpers: Helpers,
  target: JobTarget,
  work: (signal: AbortSignal) => Promise<void>,
): Promise<void> {
  try {
    const signal = helpers.abortSignal ?? new AbortController().signal
    setMaxListeners(0, signal) // every frame under way listens to it
    await work(signal)
  } catch (cause) {
    log.error({ err: cause, ...target }, 'a job failed')
    if (helpers.job.attempts >= helpers.job.max_attempts) await giveUp(target, cause)
    throw cause
  }
}

const taskList: TaskList = {
  import_plate: (payload, helpers) => {
    const job = jobSchemas.import_plate.parse(payload)
    return guarded(helpers, { importId: job.importId }, (signal) => importPlate(context, job, signal))
  },
  render_chunk: (payload, helpers) => {
    const job = jobSchemas.render_chunk.parse(payload)
    return guarded(helpers, { version: job.versionId }, (signal) =>
      renderChunk(context, compute, job, signal),
    )
  },
  work_out_scene: (payload, helpers) => {
    const job = jobSchemas.work_out_scene.parse(payload)
    return guarded(helpers, { scene: job.shotId }, (signal) => workOutScene(context, compute, job, signal))
  },
  gather_mend: (payload, helpers) => {
    const job = jobSchemas.gather_mend.parse(payload)
    return guarded(helpers, { gather: job }, (signal) => gatherMend(context, compute, job, signal))
  },
  prove: (payload, helpers) => {
    const job = jobSchemas.prove.parse(payload)
    return guarded(helpers, { proof: job.proofId }, (signal) => proveFrames(context, compute, job, signal))
  },
  survey_plate: (payload, helpers) => {
    const job = jobSchemas.survey_plate.parse(payload)
    return guarded(helpers, { survey: job.shotId }, (signal) => surveyShot(context, compute, job, signal))
  },
  make_view: (payload, helpers) => {
    const job = jobSchemas.make_view.parse(payload)
    return guarded(helpers, { view: job.viewId }, (signal) => makeView(context, compute, job, signal))
  },
  assemble_version: (payload, helpers) => {
    const job = jobSchemas.assemble_version.parse(payload)
    return guarded(helpers, { version: job.versionId }, (signal) => assembleVersion(context, job, signal))
  },
}

const runner = await run({
  pgPool,
  taskList,
  events,
  concurrency: 2,
  pollInterval: 1000,
  noHandleSignals: true,
  parsedCronItems: [],
})
startLifeSign()
const stopHeartbeat = startHeartbeat(db, () => [...workerIds])
const stopPruning = keepResultsPruned(context.folders.results)
log.info({ workers: [...workerIds] }, 'worker ready')

let isStopping = false
async function stop(): Promise<void> {
  if (isStopping) return
  isStopping = true
  log.info('worker stopping: finishing the job at hand')
  await runner.stop()
  await stopHeartbeat()
  stopPruning()
  compute.close()
  await pgPool.end()
  process.exit(0)
}
process.on('SIGTERM', () => void stop())
process.on('SIGINT', () => void stop())
await runner.promise
