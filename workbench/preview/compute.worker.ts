/** A compute worker in the browser: the same evaluator, its pixels fetched from the server. */
import { LRUCache } from 'lru-cache'
import { intersectRects, wholePicture, type Rect } from '../../core/image/rect'
import { cropSamples, type Samples } from '../../core/image/samples'
import type { ResultStore } from '../../core/shot/clip'
import type { ReadMatte } from '../../core/matte/pictureMatte'
import { serveCompute } from '../../workers/serve'
import type { PlateReference, ToWorker } from '../../workers/protocol'

const GRID_PX = 128 // rectangles are fetched on this grid, so that a handle being dragged finds them here
const CACHE_BYTES = 192 * 2 ** 20

const fetched = new LRUCache<string, Samples>({
  maxSize: CACHE_BYTES,
  sizeCalculation: (samples) => samples.data.byteLength,
})

async function fetchRect(plate: PlateReference, frame: number, rect: Rect): Promise<Samples> {
  const key = `${plate.location}/${frame}/${rect.col},${rect.row},${rect.width},${rect.height}`
  const known = fetched.get(key)
  if (known) return known
  const response = await fetch(
    `${plate.location}/${frame}?col=${rect.col}&row=${rect.row}&width=${rect.width}&height=${rect.height}`,
  )
  if (!response.ok) throw new Error(`Frame ${frame} could not be fetched (${response.status}).`)
  const buffer = await response.arrayBuffer()
  const data = plate.bitDepth === 8 ? new Uint8Array(buffer) : new Uint16Array(buffer)
  const samples: Samples = { width: rect.width, height: rect.height, channels: plate.channels, data }
  fetched.set(key, samples)
  return samples
}

function onGrid(plate: PlateReference, rect: Rect): Rect {
  const col = Math.floor(rect.col / GRID_PX) * GRID_PX
  const row = Math.floor(rect.row / GRID_PX) * GRID_PX
  const right = Math.ceil((rect.col + rect.width) / GRID_PX) * GRID_PX
  const bottom = Math.ceil((rect.row + rect.height) / GRID_PX) * GRID_PX
  return intersectRects({ col, row, width: right - col, height: bottom - row }, wholePicture(plate))!
}

/** A matte sequence that was brought in; patterns of files mean nothing to a browser. */
async function fetchMatte(plate: PlateReference, pattern: string, frame: number): Promise<ReadMatte | null> {
  if (!pattern.startsWith('matte:')) return null
  const response = await fetch(`${plate.matteLocation}/${encodeURIComponent(pattern.slice(6))}/${frame}`)
  if (response.status === 204) return null
  if (!response.ok) throw new Error(`The matte of frame ${frame} could not be fetched (${response.status}).`)
  const buffer = await response.arrayBuffer()
  const [col, row, width, height] = new Int32Array(buffer, 0, 4) as unknown as [
    number,
    number,
    number,
    number,
  ]
  return { rect: { col, row, width, height }, coverage: new Float32Array(buffer, 16) }
}

/** Part of a still that was brought in; names of files mean nothing to a browser. */
async function fetchStill(plate: PlateReference, name: string, rect: Rect): Promise<Samples | null> {
  if (!name.startsWith('still:')) return null
  const { col, row, width, height } = rect
  const response = await fetch(
    `${plate.stillLocation}/${encodeURIComponent(name.slice(6))}?col=${col}&row=${row}&width=${width}&height=${height}`,
  )
  if (response.status === 404) return null
  if (!response.ok) throw new Error(`The still could not be fetched (${response.status}).`)
  const buffer = await response.arrayBuffer()
  return {
    width,
    height,
    channels: plate.channels,
    data: plate.bitDepth === 8 ? new Uint8Array(buffer) : new Uint16Array(buffer),
  }
}

/** What workers of the server have gathered; only they may add to it. */
const fetchedResults = (plate: PlateReference): ResultStore => ({
  async read(key) {
    const response = await fetch(`${plate.resultLocation}/${key}`)
    if (response.status === 204) return null
    if (!response.ok) throw new Error(`What was gathered could not be fetched (${response.status}).`)
    return new Uint8Array(await response.arrayBuffer())
  },
  write: () => Promise.resolve(),
})

serveCompute(
  {
    post: (message, transfer) => self.postMessage(message, { transfer }),
    onMessage: (listen) =>
      self.addEventListener('message', (event: MessageEvent<ToWorker>) => listen(event.data)),
  },
  (plate) => ({
    plate,
    resultStore: fetchedResults(plate),
    readMatte: (pattern, frame) => fetchMatte(plate, pattern, frame),
    readStill: (name, rect) => fetchStill(plate, name, rect),
    async readRect(frame, rect) {
      const around = onGrid(plate, rect)
      const samples = await fetchRect(plate, frame, around)
      return cropSamples(samples, { ...rect, col: rect.col - around.col, row: rect.row - around.row })
    },
  }),
)
