/** The worker's side: takes requests, runs the core, answers. Knows neither browser nor Node. */
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import type { FrameSource } from '../core/shot/clip'
import { suggestSources } from '../core/evaluate/suggestSources'
import { runCling } from '../core/motion/cling/runCling'
import { runTrack, type TrackedFrame } from '../core/motion/runTrack'
import { analyseScene } from '../core/evaluate/analyseScene'
import { reworkScene } from '../core/evaluate/reworkScene'
import { surveyHalf } from '../core/survey/surveyPlate'
import { createCaches } from './cache'
import type {
  ComputeAnswer,
  ComputeRequest,
  FromWorker,
  PlateReference,
  SceneAnswer,
  SceneJob,
  ToWorker,
} from './protocol'

export interface WorkerPort {
  post(message: FromWorker, transfer: ArrayBuffer[]): void
  onMessage(listen: (message: ToWorker) => void): void
}

interface TaskContext {
  shouldStop(): boolean
  onFrame(tracked: TrackedFrame): void
  onProgress(done: number, total: number): void
}

/** Serves a port. `openSource` says where this worker gets a plate's pixels from. */
export function serveCompute(port: WorkerPort, openSource: (plate: PlateReference) => FrameSource): void {
  let stopFlag: Int32Array | null = null
  const cacheOf = createCaches()
  port.onMessage((message) => {
    if (message.kind === 'start') {
      stopFlag = message.stopFlag ? new Int32Array(message.stopFlag) : null
      return
    }
    const { token, request } = message
    const context: TaskContext = {
      // A busy worker hears no message, so stopping is a flag in shared memory.
      shouldStop: () => stopFlag !== null && Atomics.load(stopFlag, 0) === token,
      onFrame: (tracked) => port.post({ kind: 'progress', token, tracked }, []),
      onProgress: (done, total) => port.post({ kind: 'share', token, done, total }, []),
    }
    compute(request, { ...openSource(request.plate), cache: cacheOf(request.plate.plateId) }, context).then(
      (answer) => port.post({ kind: 'done', token, answer }, buffersOf(answer)),
      (cause: unknown) => {
        const {
          name = 'Error',
          message: text = String(cause),
          code = name,
        } = cause as { name?: string; message?: string; code?: string }
        port.post({ kind: 'failed', token, error: { code, message: text } }, [])
      },
    )
  })
}

async function compute(
  request: ComputeRequest,
  source: FrameSource,
  context: TaskContext,
): Promise<ComputeAnswer> {
  switch (request.kind) {
    case 'evaluate':
      return evaluateFrame(request.plan, source, { ...context, isPreview: request.isPreview })
    case 'track':
      return runTrack(request.request, source, context)
    case 'cling':
      return runCling(request.request, source, context)
    case 'suggest':
      return suggestSources(request.request, source, context)
    case 'scene':
      return sceneAnswer(request, source, context)
    case 'survey':
      return { surveyed: await surveyHalf(request.half, source, request.range, context) }
  }
}

async function sceneAnswer(
  { request, last }: SceneJob,
  source: FrameSource,
  context: TaskContext,
): Promise<SceneAnswer> {
  const scene = last
    ? await reworkScene(request, last, source, context)
    : await analyseScene(request, source, context)
  return scene && scene === last ? { scene: null, isSame: true } : { scene, isSame: false }
}

const buffersOf = (answer: ComputeAnswer): ArrayBuffer[] =>
  'patches' in answer
    ? [
        ...answer.patches.flatMap(({ samples, alpha }) =>
          [samples, ...(alpha ? [alpha] : [])].map(({ data }) => data.buffer as ArrayBuffer),
        ),
        ...answer.seenMaps.flatMap(({ seen, from }) => [
          seen.buffer as ArrayBuffer,
          from.buffer as ArrayBuffer,
        ]),
      ]
    : []
