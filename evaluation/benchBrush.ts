/**
 * A brush of 1000 strokes on a shot, 100 of them on the frame, in a picture of 1280 x 720; median in Node on one core.
 *
 *   brush-frame-ms   the frame with all its strokes, nothing known
 *   brush-dab-ms     the frame again after one more dab, the rest as it was: planned, worked out, laid
 */
import { DEFAULT_BRUSH, strokeArea, type Lays } from '../core/document/brush'
import type { Area } from '../core/document/areas'
import { startingFill, startingFinish } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { planFrame } from '../core/plan/planFrame'
import type { ResultStore } from '../core/shot/clip'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { movingWall } from '../tests/fixtures/movingWall'
import { sampleMend } from '../tests/fixtures/sampleMend'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { createRandom } from '../tests/random'
import { wholePicture } from '../core/image/rect'
import { IDENTITY } from '../core/geometry/transform'
import { createCache } from '../workers/cache'
import { median, print } from './benchTools'

const [WIDTH, HEIGHT, FRAMES, STROKES, ROUNDS] = [1280, 720, 10, 1000, 9]
const LAID: readonly Lays[] = ['clone', 'clone', 'heal', 'light', 'plate']

/** As workers share finished rectangles. */
function storeInMemory(): ResultStore {
  const kept = new Map<string, Uint8Array>()
  return {
    read: async (key) => kept.get(key) ?? null,
    write: async (key, bytes) => void kept.set(key, bytes),
  }
}

export async function benchBrush(): Promise<void> {
  const random = createRandom(21)
  const range = { firstFrame: 1, lastFrame: FRAMES, width: WIDTH, height: HEIGHT }
  const wall = await movingWall({ motion: () => IDENTITY }, range).readRect(1, wholePicture(range))
  const stroke = (i: number, frame: number) => {
    const [x, y] = [40 + random() * (WIDTH - 180), 40 + random() * (HEIGHT - 80)]
    const points = Array.from({ length: 6 }, (_, k) => ({ x: x + 8 * k, y: y + 6 * random(), pressure: 0.5 + 0.5 * random() })) // prettier-ignore
    const settings = { ...DEFAULT_BRUSH, lays: LAID[i % LAID.length]!, sizePx: 24, offsetX: 60 }
    return strokeArea(`s${i}`, points, settings, frame, range)
  }
  const strokes = Array.from({ length: STROKES }, (_, i) => stroke(i, 1 + (i % FRAMES)))
  const brush = (areas: Area[]) => sampleMend({ id: 'brush', kind: 'brush', areas, span: range, fill: startingFill('brush'), finish: startingFinish('brush') }) // prettier-ignore
  const work = async (areas: Area[], cache: ReturnType<typeof createCache>, results: ResultStore) => {
    const begun = performance.now()
    const document = documentOf([brush(areas)], new Map(), range)
    await evaluateFrame(planFrame(document, 1), sourceOfSamples(wall, { cache, results }), NEVER_STOPS)
    return performance.now() - begun
  }
  const [cold, dabs]: [number[], number[]] = [[], []]
  for (let i = 0; i < ROUNDS; i++) {
    const [cache, results] = [createCache(), storeInMemory()]
    cold.push(await work(strokes, cache, results))
    dabs.push(await work([...strokes, stroke(STROKES + i, 1)], cache, results))
  }
  print('brush-frame-ms', median(cold), 'ms', { strokes: 100 })
  print('brush-dab-ms', median(dabs), 'ms', { strokes: 100 })
}
