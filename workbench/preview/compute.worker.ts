/** A compute worker in the browser: the same evaluator, its pixels fetched from the server. */
import { serveCompute } from '../../workers/serve'
import type { ToWorker } from '../../workers/protocol'
import { fetchFaceFile, fetchMark, fetchMatte, fetchRects, fetchStill } from './plateAccess'
import { remoteResults } from './remoteResults'

/** Put in by the build: see vite.config.ts. */
declare const __CORE_STAMP__: string

serveCompute(
  {
    post: (message, transfer) => self.postMessage(message, { transfer }),
    onMessage: (listen) =>
      self.addEventListener('message', (event: MessageEvent<ToWorker>) => listen(event.data)),
  },
  {
    openPlate: (plate) => ({
      readRects: (wanted) => fetchRects(plate, wanted),
      readMatte: (pattern, frame) => fetchMatte(plate, pattern, frame),
      readStill: (name, rect) => fetchStill(plate, name, rect),
      readMark: (name) => fetchMark(plate, name),
      results: remoteResults(plate.resultLocation, __CORE_STAMP__),
    }),
    faceFiles: { folder: '/faces/', read: fetchFaceFile },
  },
)
