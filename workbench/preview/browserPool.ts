import { ComputePool } from '../../workers/pool'
import type { FromWorker } from '../../workers/protocol'

const MAX_WORKERS = 8
/** What all workers together keep. Tiles are the same ones for all of them, where memory can be shared. */
const MEMORY = { tiles: 192 * 2 ** 20, results: 128 * 2 ** 20 } as const

/** A pool of web workers, one for each core. */
export function createBrowserPool(): ComputePool {
  const size = Math.max(1, Math.min(MAX_WORKERS, navigator.hardwareConcurrency))
  const createWorker = () => {
    const worker = new Worker(new URL('./compute.worker.ts', import.meta.url), { type: 'module' })
    return {
      post: (message: unknown) => worker.postMessage(message),
      onMessage: (listen: (message: FromWorker) => void) =>
        worker.addEventListener('message', (event: MessageEvent<FromWorker>) => listen(event.data)),
      onDeath: (listen: (reason: string) => void) =>
        worker.addEventListener('error', (event) => listen(event.message)),
      terminate: () => worker.terminate(),
    }
  }
  const tiles = typeof SharedArrayBuffer === 'undefined' ? MEMORY.tiles / size : MEMORY.tiles
  return new ComputePool(size, createWorker, { tiles, results: MEMORY.results / size })
}
