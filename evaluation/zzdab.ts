import { DEFAULT_BRUSH, strokeArea, type Lays } from '../core/document/brush'
import type { Area } from '../core/document/areas'
import { startingFill, startingFinish } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { planFrame } from '../core/plan/planFrame'
import { frameKey } from '../core/plan/keys'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { movingWall } from '../tests/fixtures/movingWall'
import { sampleMend } from '../tests/fixtures/sampleMend'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { createRandom } from '../tests/random'
import { wholePicture } from '../core/image/rect'
import { IDENTITY } from '../core/geometry/transform'
import { createCache } from '../workers/cache'
const [WIDTH, HEIGHT, FRAMES, STROKES] = [1280, 720, 10, 1000]
const LAID: readonly Lays[] = ['clone', 'clone', 'heal', 'light', 'plate']
const random = createRandom(21)
const range = { firstFrame: 1, lastFrame: FRAMES, width: WIDTH, height: HEIGHT }
const wall = await movingWall({ motion: () => IDENTITY }, range).readRect(1, wholePicture(range))
const stroke = (i: number, frame: number) => {
  const [x, y] = [40 + random() * (WIDTH - 180), 40 + random() * (HEIGHT - 80)]
  const points = Array.from({ length: 6 }, (_, k) => ({
    x: x + 8 * k,
    y: y + 6 * random(),
    pressure: 0.5 + 0.5 * random(),
  }))
  return strokeArea(
    `s${i}`,
    points,
    { ...DEFAULT_BRUSH, lays: LAID[i % LAID.length]!, sizePx: 24, offsetX: 60 },
    frame,
    range,
  )
}
let strokes = Array.from({ length: STROKES }, (_, i) => stroke(i, 1 + (i % FRAMES)))
const brush = (areas: Area[]) =>
  sampleMend({
    id: 'brush',
    kind: 'brush',
    areas,
    span: range,
    fill: startingFill('brush'),
    finish: startingFinish('brush'),
  })
import { readyDigests } from '../core/shot/digest'
await readyDigests()
const cache = createCache()
const kept = new Map<string, Uint8Array>()
const results = {
  read: async (k: string) => kept.get(k) ?? null,
  write: async (k: string, b: Uint8Array) => void kept.set(k, b),
}
const clip = sourceOfSamples(wall, { cache, results })
for (let i = 0; i < 14; i++) {
  const t0 = performance.now()
  const plan = planFrame(documentOf([brush(strokes)], new Map(), range), 1)
  const t1 = performance.now()
  frameKey(plan)
  const t2 = performance.now()
  await evaluateFrame(plan, clip, NEVER_STOPS)
  const t3 = performance.now()
  console.log((t1 - t0).toFixed(0), (t2 - t1).toFixed(0), (t3 - t2).toFixed(0))
  strokes = [...strokes, stroke(STROKES + i, 1)]
}
