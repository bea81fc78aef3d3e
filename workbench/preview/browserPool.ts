import { ComputePool } from '../../workers/pool'
import type { FromWorker } from '../../workers/protocol'

/** A pool of web workers, one for each core. */
export function createBrowserPool(): ComputePool {
  return new ComputePool(Math.max(1, Math.min(8, navigator.hardwareConcurrency)), () => {
    const worker = new Worker(new URL('./compute.worker.ts', import.meta.url), { type: 'module' })
    return {
      post: (message) => worker.postMessage(message),
      onMessage: (listen) =>
        worker.addEventListener('message', (event: MessageEvent<FromWorker>) => listen(event.data)),
      onDeath: (listen) => worker.addEventListener('error', (event) => listen(event.message)),
      terminate: () => worker.terminate(),
    }
  })
}
