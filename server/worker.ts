/**
 * A worker process: takes jobs from the queue and does them. Start as many as there are machines that
 * reach the database and the data folder.
 */
import { availableParallelism } from 'node:os'
import { run, type TaskList, type Worker } from 'graphile-worker'
import { EventEmitter, setMaxListeners } from 'node:events'
import { serverContext } from './context.server'
import { keepExpiring } from './house/expire.server'
import { assembleVersion } from './jobs/assembleVersion.server'
import { createNodePool } from './jobs/computePool.server'
import { startHeartbeat, type OwnWorker } from './jobs/heartbeat.server'
import { importPlate } from './jobs/importPlate.server'
import { giveUp, giveUpLostJobs, triedOften } from './jobs/giveUp.server'
import { gatherMend } from './jobs/gatherMend.server'
import { makeView } from './jobs/makeView.server'
import { jobSchemas, type JobName, type JobPayload } from './jobs/queue.server'
import { renderChunk } from './jobs/renderChunk.server'
import { proveFrames } from './jobs/proveFrames.server'
import { surveyShot } from './jobs/surveyShot.server'
import { workOutScene } from './jobs/workOutScene.server'
import { startLifeSign } from './lifeSign.server'
import { log } from './log.server'
import { DiskFullError, isDiskFull } from './room.server'
import { keepResultsPruned } from './results/pruneResults.server'

const context = serverContext()
const { db, pool: pgPool } = context.database
const compute = createNodePool(availableParallelism())

const workers: OwnWorker[] = []
const events = new EventEmitter()
events.on('worker:create', ({ worker }: { worker: Pick<Worker, 'workerId' | 'getActiveJob'> }) =>
  workers.push({ workerId: worker.workerId, jobId: () => worker.getActiveJob()?.id ?? null }),
)
events.on('pool:create', ({ workerPool }: { workerPool: { id: string } }) =>
  workers.push({ workerId: workerPool.id, jobId: () => null }),
)

type Helpers = {
  readonly abortSignal?: AbortSignal
  readonly job: { readonly attempts: number; readonly max_attempts: number }
}

/** One kind of job, done by `work`. Failed for the last time, it is given up. */
const task =
  <N extends JobName>(name: N, work: (job: JobPayload<N>, signal: AbortSignal) => Promise<void>) =>
  async (payload: unknown, helpers: Helpers): Promise<void> => {
    const job = jobSchemas[name].parse(payload) as JobPayload<N>
    try {
      const signal = helpers.abortSignal ?? new AbortController().signal
      setMaxListeners(0, signal) // every frame under way listens to it
      await work(job, signal)
    } catch (cause) {
      log.error({ err: cause, name, job }, 'a job failed')
      // There is no room in a minute either: whoever waits is told now.
      if (isDiskFull(cause)) return giveUp(context, name, job, new DiskFullError().message)
      if (helpers.job.attempts >= helpers.job.max_attempts)
        await giveUp(context, name, job, triedOften(cause instanceof Error ? cause.message : String(cause)))
      throw cause
    }
  }

/** What somebody waits for, and is over soon: two long ones must not stand in its way. */
const SHORT: TaskList = {
  import_plate: task('import_plate', (job, signal) => importPlate(context, job, signal)),
  render_chunk: task('render_chunk', (job, signal) => renderChunk(context, compute, job, signal)),
  assemble_version: task('assemble_version', (job, signal) => assembleVersion(context, job, signal)),
}
/** What goes over a whole shot and may take minutes. */
const LONG: TaskList = {
  work_out_scene: task('work_out_scene', (job, signal) => workOutScene(context, compute, job, signal)),
  gather_mend: task('gather_mend', (job, signal) => gatherMend(context, compute, job, signal)),
  prove: task('prove', (job, signal) => proveFrames(context, compute, job, signal)),
  survey_plate: task('survey_plate', (job, signal) => surveyShot(context, compute, job, signal)),
  make_view: task('make_view', (job, signal) => makeView(context, compute, job, signal)),
}

const start = (taskList: TaskList, concurrency: number) =>
  run({
    pgPool,
    taskList,
    events,
    concurrency,
    pollInterval: 1000,
    noHandleSignals: true,
    parsedCronItems: [],
  })
const runners = [await start(SHORT, 2), await start(LONG, 2)]
startLifeSign()
const stopHeartbeat = startHeartbeat(
  db,
  () => workers,
  () => giveUpLostJobs(context),
)
const stopPruning = keepResultsPruned(context.folders.results)
const stopExpiring = keepExpiring(context)
log.info({ workers: workers.map(({ workerId }) => workerId) }, 'worker ready')

let isStopping = false
async function stop(): Promise<void> {
  if (isStopping) return
  isStopping = true
  log.info('worker stopping: finishing the job at hand')
  await Promise.all(runners.map((runner) => runner.stop()))
  await stopHeartbeat()
  stopPruning()
  stopExpiring()
  compute.close()
  await pgPool.end()
  process.exit(0)
}
process.on('SIGTERM', () => void stop())
process.on('SIGINT', () => void stop())
await Promise.all(runners.map((runner) => runner.promise))
