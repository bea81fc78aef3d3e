/** The worker's side: takes requests, runs the core, answers. Knows neither browser nor Node. */
import { evaluateFrame, type FrameSource } from '../core/mend/evaluate'
import { runCling } from '../core/motion/cling/runCling'
import { runTrack, type TrackedFrame } from '../core/motion/runTrack'
import type { ComputeAnswer, ComputeRequest, FromWorker, PlateReference, ToWorker } from './protocol'

export interface WorkerPort {
  post(message: FromWorker, transfer: ArrayBuffer[]): void
  onMessage(listen: (message: ToWorker) => void): void
}

interface TaskContext {
  shouldStop(): boolean
  onFrame(tracked: TrackedFrame): void
}

/** Serves a port. `openSource` says where this worker gets a plate's pixels from. */
export function serveCompute(port: WorkerPort, openSource: (plate: PlateReference) => FrameSource): void {
  let stopFlag: Int32Array | null = null
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
    }
    compute(request, openSource(request.plate), context).then(
      (answer) => port.post({ kind: 'done', token, answer }, buffersOf(answer)),
      (cause: unknown) => {
        const { name = 'Error', message: text = String(cause), code = name } = cause as { name?: string; message?: string; code?: string }
        port.post({ kind: 'failed', token, error: { code, message: text } }, [])
      },
    )
  })
}

function compute(request: ComputeRequest, source: FrameSource, context: TaskContext): Promise<ComputeAnswer> {
  switch (request.kind) {
    case 'evaluate':
      return evaluateFrame(request.mends, request.frame, source, context)
    case 'track':
      return runTrack(request.request, source, context)
    case 'cling':
      return runCling(request.request, source, context)
  }
}

const buffersOf = (answer: ComputeAnswer): ArrayBuffer[] =>
  'patches' in answer ? answer.patches.map((patch) => patch.samples.data.buffer as ArrayBuffer) : []
