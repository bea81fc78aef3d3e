import { createRandom } from '../../tests/random'
import { apply, type Matrix3 } from '../geometry/transform'
import { intersectRects, wholePicture, type Rect } from '../image/rect'
import { gather } from './gather'
import type { Gathered, GatherInput } from './gatherInput'
import type { GatherFrame } from './places'
import { rasterOf, sceneSource, wavesAt, type SceneFrame } from '../../tests/fixtures/sampleScene'
import { singleSources } from './singleSource'

const SIZE = { width: 200, height: 140 }
const RECT: Rect = { col: 50, row: 30, width: 100, height: 80 }
const HERE = 1010
const never = () => false

interface Setup {
  readonly frameOf: (frame: number) => SceneFrame
  readonly frames: readonly number[]
  readonly thereFromHere: (frame: number) => Matrix3
  readonly grainLevel?: number
}

/** A disc hides the middle of the crop here; elsewhere what the scene says. */
async function gatherScene({ frameOf, frames, thereFromHere, grainLevel = 0 }: Setup) {
  const random = createRandom(11)
  const noise = Float32Array.from(
    { length: 1 << 16 },
    () => (random() + random() + random() + random() - 2) * Math.sqrt(3) * grainLevel,
  )
  const source = sceneSource(SIZE, frameOf, (frame, i) => noise[(i * 7 + frame * 7919) & 0xffff]!)
  const isHiddenHere = frameOf(HERE).isHidden
  const [hidden, around]: [number[], number[]] = [[], []]
  for (let pixel = 0; pixel < RECT.width * RECT.height; pixel++) {
    const [x, y] = [RECT.col + (pixel % RECT.width) + 0.5, RECT.row + Math.floor(pixel / RECT.width) + 0.5]
    ;(isHiddenHere(x, y) ? hidden : around).push(pixel)
  }
  const gathered: GatherFrame[] = []
  for (const frame of frames) {
    const matrix = thereFromHere(frame)
    const at = apply(matrix, RECT.col, RECT.row)
    const rect = intersectRects(
      {
        col: Math.floor(at.x) - 6,
        row: Math.floor(at.y) - 6,
        width: RECT.width + 14,
        height: RECT.height + 14,
      },
      wholePicture(SIZE),
    )!
    const masked = new Uint8Array(rect.width * rect.height)
    for (let i = 0; i < masked.length; i++)
      masked[i] = frameOf(frame).isHidden(
        rect.col + (i % rect.width) + 0.5,
        rect.row + Math.floor(i / rect.width) + 0.5,
      )
        ? 2
        : 0
    gathered.push({
      frame,
      samples: await source.readRect(frame, rect),
      rect,
      masked,
      layersFromHere: [matrix],
    })
  }
  const input: GatherInput = {
    frame: HERE,
    picture: await rasterOf(source, HERE, RECT),
    rect: RECT,
    hidden: Int32Array.from(hidden),
    around: Int32Array.from(around),
    frames: gathered,
    depths: new Float32Array(0),
    rim: new Int32Array(0),
    layerMap: null,
    registration: { registers: true, relights: true },
    keepsReadings: true,
    shouldStop: never,
  }
  return { input, gathered: gather(input)! }
}

const still = (isHidden: SceneFrame['isHidden'], gain = 1): SceneFrame => ({
  background: (x, y, c) => gain * wavesAt(x, y, c, 1),
  isHidden,
})
const disc = (x: number, y: number, radius: number) => (px: number, py: number) =>
  (px - x) ** 2 + (py - y) ** 2 < radius * radius

function errorOf(
  { input, gathered }: { input: GatherInput; gathered: Gathered },
  truth: (x: number, y: number, c: number) => number,
): number {
  let [sum, count] = [0, 0]
  input.hidden.forEach((pixel, i) => {
    if (gathered.seen[i] === 0) return
    const [x, y] = [RECT.col + (pixel % RECT.width) + 0.5, RECT.row + Math.floor(pixel / RECT.width) + 0.5]
    for (let c = 0; c < 3; c++) sum += (255 * (gathered.values[i * 3 + c]! - truth(x, y, c))) ** 2
    count += 3
  })
  return Math.sqrt(sum / count)
}

test('the seen map is exact: as many frames as really showed each place, and the nearest of them', async () => {
  // The disc goes 6 px a frame to the right; frames two apart are asked.
  const frames = [1006, 1008, 1012, 1014, 1016]
  const middle = (frame: number) => 100 + 6 * (frame - HERE)
  const { input, gathered } = await gatherScene({
    frameOf: (frame) => still(disc(middle(frame), 70, 15)),
    frames,
    thereFromHere: () => [1, 0, 0, 0, 1, 0, 0, 0, 1],
  })
  expect(input.hidden.length).toBeGreaterThan(600)
  input.hidden.forEach((pixel, i) => {
    const [x, y] = [RECT.col + (pixel % RECT.width) + 0.5, RECT.row + Math.floor(pixel / RECT.width) + 0.5]
    const showing = frames.filter((frame) => !disc(middle(frame), 70, 15)(x, y))
    expect(gathered.seen[i]).toBe(showing.length)
    expect(showing.length === 0 ? -1 : gathered.from[i]).toBe(
      showing.length === 0 ? -1 : showing.find((frame) => frame === gathered.from[i]),
    )
  })
})

test('frames that lie a fraction of a pixel elsewhere are registered to less than 0.05 px, from a start 0.7 px off', async () => {
  const drift = (frame: number) => ({ x: 1.37 * (frame - HERE), y: -0.41 * (frame - HERE) })
  const frameOf = (frame: number): SceneFrame => ({
    background: (x, y, c) => wavesAt(x - drift(frame).x, y - drift(frame).y, c, 1),
    isHidden: disc(100 + 9 * (frame - HERE), 70, 14),
  })
  const frames = [1004, 1006, 1008, 1012, 1014, 1016]
  const done = await gatherScene({
    frameOf,
    frames,
    grainLevel: 2,
    thereFromHere: (frame) => [1, 0, drift(frame).x + 0.5, 0, 1, drift(frame).y - 0.5, 0, 0, 1],
  })
  for (const { frame, thereFromHere, sure } of done.gathered.reports) {
    const at = apply(thereFromHere, 100, 70)
    expect(Math.hypot(at.x - 100 - drift(frame).x, at.y - 70 - drift(frame).y)).toBeLessThan(0.05)
    expect(sure).toBeGreaterThan(0.5)
  }
  // Six frames of grain 2 leave about 0.8; reading between pixels costs a little.
  expect(errorOf(done, (x, y, c) => wavesAt(x, y, c, 1))).toBeLessThan(1.3)
})

test('flickering light is agreed for each frame, also where it falls off over the picture', async () => {
  const gain = (frame: number, x: number) =>
    1 + (frame === HERE ? 0 : 0.15 * Math.sin(frame) * (1 + 0.6 * ((x - 100) / 100)))
  const frameOf = (frame: number): SceneFrame => ({
    background: (x, y, c) => gain(frame, x) * wavesAt(x, y, c, 1),
    isHidden: disc(100 + 8 * (frame - HERE), 70, 16),
  })
  const done = await gatherScene({
    frameOf,
    frames: [1004, 1006, 1008, 1012, 1014, 1016],
    thereFromHere: () => [1, 0, 0, 0, 1, 0, 0, 0, 1],
  })
  expect(errorOf(done, (x, y, c) => wavesAt(x, y, c, 1))).toBeLessThan(0.8)
})

test('what passes uncovered through a few frames leaves no ghost, and is reported where frames disagree', async () => {
  const passing = (frame: number) => disc(100 + 5 * (frame - 1013), 66, 5)
  const frameOf = (frame: number): SceneFrame => ({
    background: (x, y, c) => (frame !== HERE && passing(frame)(x, y) ? 0.95 : wavesAt(x, y, c, 1)),
    isHidden: disc(frame === HERE ? 100 : 300, 70, 15),
  })
  const done = await gatherScene({
    frameOf,
    frames: [1002, 1004, 1006, 1012, 1013, 1014, 1016, 1018],
    thereFromHere: () => [1, 0, 0, 0, 1, 0, 0, 0, 1],
  })
  expect(errorOf(done, (x, y, c) => wavesAt(x, y, c, 1))).toBeLessThan(0.5)
  expect(Math.min(...done.gathered.agree)).toBeLessThan(0.95)
  expect([...done.gathered.agree].filter((share) => share > 0.99).length).toBeGreaterThan(300)
})

test('one frame for each place keeps that frame’s own samples', async () => {
  const { input, gathered } = await gatherScene({
    frameOf: (frame) => still(disc(100 + 7 * (frame - HERE), 70, 15)),
    frames: [1005, 1007, 1013, 1015],
    thereFromHere: () => [1, 0, 0, 0, 1, 0, 0, 0, 1],
    grainLevel: 2,
  })
  const single = singleSources(gathered, input.hidden, RECT.width)
  const order = gathered.reports.map(({ frame }) => frame)
  let switches = 0
  input.hidden.forEach((_, i) => {
    if (gathered.seen[i] === 0) return
    const reading = gathered.readings[order.indexOf(single.from[i]!)]!
    for (let c = 0; c < 3; c++) expect(single.values[i * 3 + c]).toBe(reading.values[i * 3 + c])
    expect(single.variance[i]).toBeGreaterThan(0.95)
    if (i > 0 && input.hidden[i]! - input.hidden[i - 1]! === 1 && single.from[i] !== single.from[i - 1])
      switches++
  })
  // Whole regions come from one frame: hardly more than one seam in a line.
  expect(switches).toBeLessThan(60)
})

test('it stops when it is told to', async () => {
  const { input } = await gatherScene({
    frameOf: () => still(disc(100, 70, 10)),
    frames: [1008],
    thereFromHere: () => [1, 0, 0, 0, 1, 0, 0, 0, 1],
  })
  expect(gather({ ...input, shouldStop: () => true })).toBeNull()
})

test('one layer is corrected on the ring; several, adjusted over the whole shot, are taken as the scene has them', async () => {
  const told = (frame: number): Matrix3 => [1, 0, 3 * (frame - HERE) + 0.6, 0, 1, 0, 0, 0, 1]
  const scene = (frame: number): SceneFrame => ({
    background: (x, y, c) => wavesAt(x - 3 * (frame - HERE), y, c, 1),
    isHidden: frame === HERE ? disc(100, 70, 16) : () => false,
  })
  const { input, gathered } = await gatherScene({ frameOf: scene, frames: [1008, 1012], thereFromHere: told })
  for (const { frame, thereFromHere } of gathered.reports)
    expect(Math.abs(thereFromHere[2] - 3 * (frame - HERE))).toBeLessThan(0.05)
  const frames = input.frames.map((one) => ({
    ...one,
    layersFromHere: [one.layersFromHere[0]!, one.layersFromHere[0]!],
  }))
  for (const { frame, thereFromHere, sure } of gather({ ...input, frames })!.reports) {
    expect(thereFromHere).toEqual(told(frame))
    expect(sure).toBeGreaterThan(0.3)
  }
})
