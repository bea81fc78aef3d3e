/** The worker's side: takes requests, runs the evaluator, answers. Knows neither browser nor Node. */
import { evaluateFrame, type FrameSource } from '../core/mend/evaluate'
import type { FromWorker, PlateReference, ToWorker } from './protocol'

export interface WorkerPort {
  post(message: FromWorker, transfer: ArrayBuffer[]): void
  onMessage(listen: (message: ToWorker) => void): void
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
    // A busy worker hears no message, so stopping is a flag in shared memory.
    const shouldStop = () => stopFlag !== null && Atomics.load(stopFlag, 0) === token
    evaluateFrame(request.mends, request.frame, openSource(request.plate), { shouldStop }).then(
      (answer) => {
        const transfer = answer.patches.map((patch) => patch.samples.data.buffer as ArrayBuffer)
        port.post({ kind: 'done', token, answer }, transfer)
      },
      (cause: unknown) => {
        const { name = 'Error', message: text = String(cause), code = name } = cause as { name?: string; message?: string; code?: string }
        port.post({ kind: 'failed', token, error: { code, message: text } }, [])
      },
    )
  })
}
