import { Worker } from 'node:worker_threads'
import { ComputePool } from '../../workers/pool'

/** A pool of Node threads. */
export function createNodePool(size: number): ComputePool {
  return new ComputePool(size, () => {
    const worker = new Worker(new URL('./computeThread.mjs', import.meta.url))
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
