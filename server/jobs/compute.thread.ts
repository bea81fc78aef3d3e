/** A compute worker as a Node thread: reads rectangles from the frame store. */
import { parentPort } from 'node:worker_threads'
import { join } from 'node:path'
import { faceFilesIn } from '../faceFiles.server'
import { serveCompute } from '../../workers/serve'
import { createDirectoryResultStore } from '../results/resultStore.server'
import { createDirectoryStore } from '../frames/store.server'
import { readImportedMatte } from '../mattes.server'
import { readMark } from '../marks.server'
import { ROOT } from '../root.server'
import { readImportedStill } from '../stills.server'

const port = parentPort!
serveCompute(
  {
    post: (message, transfer) => port.postMessage(message, transfer),
    onMessage: (listen) => void port.on('message', listen),
  },
  {
    openPlate(plate) {
      const store = createDirectoryStore(plate.location)
      return {
        readRects: (wanted) =>
          Promise.all(wanted.map(({ frame, rect }) => store.readRect(plate.plateId, plate, frame, rect))),
        readMatte: (pattern, frame) => readImportedMatte(plate.matteLocation, pattern, frame),
        results: createDirectoryResultStore(plate.resultLocation, plate.plateId),
        readStill: (name, rect) => readImportedStill(store, plate, name, rect),
        readMark: (name) => readMark(plate.markLocation, name),
      }
    },
    faceFiles: faceFilesIn(join(ROOT, 'public/faces')),
  },
)
