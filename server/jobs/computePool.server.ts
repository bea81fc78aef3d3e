import { setFlagsFromString } from 'node:v8'
import { Worker } from 'node:worker_threads'
import { ComputePool } from '../../workers/pool'

/**
 * Pixels are many short-lived arrays beside a small heap: by itself the collector would run several times a frame. From now
 * on it waits until so many per cent of what is kept have been added.
 */
const collectLater = (): void => setFlagsFromString('--heap-growing-percent=800')

/** From source a thread first has to turn TypeScript on. */
const THREAD = import.meta.url.endsWith('.ts') ? './computeThread.mjs' : './compute.thread.mjs'

/** A pool of Node threads. */
export function createNodePool(size: number): ComputePool {
  collectLater()
  return new ComputePool(size, () => {
    const worker = new Worker(new URL(THREAD, import.meta.url))
    return {
      post: (message) => worker.postMessage(message),
      onMessage: (listen) => void worker.on('message', listen),
      onDeath: (listen) => {
        worker.on('error', (cause) => listen(String(cause)))
        worker.on('exit', (code) => listen(`exit ${code}`))
      },
      terminate: () => void worker.terminate(),
    }
  })
}
