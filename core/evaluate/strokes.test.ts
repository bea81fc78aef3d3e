/** Strokes: each is laid by its own fill, in order; the plate comes back to the bit; each is there on its own frames. */
import { ALL_FRAMES, documentOf } from '../../tests/fixtures/sampleDocument'
import { sampleEllipse, sampleMend, fillOf } from '../../tests/fixtures/sampleMend'
import { mendSamples, NEVER_STOPS, sourceOfSamples } from '../../tests/fixtures/sampleSource'
import { DEFAULT_BRUSH, strokeArea, type BrushPoint, type BrushSettings } from '../document/brush'
import { DEFAULT_FINISH, type Mend } from '../document/mend'
import { createSamples, type Samples } from '../image/samples'
import { planFrame } from '../plan/planFrame'
import type { Clip } from '../shot/clip'
import { evaluateFrame } from './evaluateFrame'
import { maskOfShapes } from './shapeMask'

const [WIDTH, HEIGHT] = [120, 90]
const picture: Samples = createSamples(WIDTH, HEIGHT, 3, 8)
for (let at = 0; at < WIDTH * HEIGHT; at++)
  for (let c = 0; c < 3; c++) picture.data[3 * at + c] = 60 + (at % WIDTH) / 2 + ((at * 7 + c * 13) % 5)
const span = { firstFrame: 1, lastFrame: 20 }
const HARD = { ...DEFAULT_BRUSH, sizePx: 16, softness: 0, lives: 'span' } as const
const stroke = (
  id: string,
  points: readonly (readonly [number, number])[],
  over: Partial<BrushSettings>,
  frame = 1,
) =>
  strokeArea(
    id,
    points.map(([x, y]): BrushPoint => ({ x, y, pressure: 1 })),
    { ...HARD, ...over },
    frame,
    span,
  )
const brush = (areas: Mend['areas'], id = 'brush'): Mend =>
  sampleMend({ id, kind: 'brush', areas, span, finish: { ...DEFAULT_FINISH, grain: 0 } })
const valueAt = ({ data }: Samples, x: number, y: number) => data[3 * (y * WIDTH + x) + 1]!
const clip = sourceOfSamples(picture)
const mended = async (mends: readonly Mend[], frame = 1) => (await mendSamples(clip, mends, frame)).finished

const RED = { lays: 'colour', red: 1, green: 0, blue: 0 } as const
const across = [[30, 40], [80, 40]] as const // prettier-ignore

test('a stroke covers its width with round ends, and nothing else', async () => {
  const out = await mended([brush([stroke('a', across, RED)])])
  expect(valueAt(out, 50, 40)).toBe(0)
  expect(valueAt(out, 50, 33)).toBe(0)
  expect(valueAt(out, 24, 40)).toBe(0)
  // A corner of the square that a blunt end would have.
  expect(valueAt(out, 23, 33)).toBe(valueAt(picture, 23, 33))
  expect(valueAt(out, 50, 50)).toBe(valueAt(picture, 50, 50))
})

test('with a spacing a stroke is a row of dabs; close dabs are the unbroken stroke', async () => {
  const row = await mended([brush([stroke('a', across, { ...RED, spacing: 2 })])])
  // 16 px wide, 32 px apart: 30, 62; between them the plate.
  for (const x of [30, 37, 62]) expect(valueAt(row, x, 40)).toBe(0)
  for (const x of [46, 76, 84]) expect(valueAt(row, x, 40)).toBe(valueAt(picture, x, 40))
  const close = await mended([brush([stroke('a', across, { ...RED, spacing: 0.09 })])])
  expect(close.data).toEqual((await mended([brush([stroke('a', across, RED)])])).data)
  const near = await mended([brush([stroke('a', across, { ...RED, spacing: 0.1, softness: 0.5 })])])
  const whole = await mended([brush([stroke('a', across, { ...RED, softness: 0.5 })])])
  // Up to the last dab, which lies up to a step before the end.
  for (let y = 28; y < 52; y++)
    for (let x = 20; x < 79; x++)
      expect(Math.abs(valueAt(near, x, y) - valueAt(whole, x, y))).toBeLessThanOrEqual(8)
})

test('later strokes lie on earlier ones; the plate comes back to the bit, under strokes and other mends', async () => {
  const below = sampleMend({
    id: 'below',
    areas: [sampleEllipse()],
    fill: fillOf('colour'),
    span,
  })
  const plate = stroke('b', [[50, 30], [50, 60]], { lays: 'plate' }) // prettier-ignore
  const out = await mended([below, brush([stroke('a', across, RED), plate])])
  for (let y = 32; y < 58; y++)
    for (const x of [44, 50, 56]) expect(valueAt(out, x, y)).toBe(valueAt(picture, x, y))
  expect(valueAt(out, 35, 40)).toBe(0)
  const turned = await mended([below, brush([plate, stroke('a', across, RED)])])
  expect(valueAt(turned, 50, 40)).toBe(0)
})

test('a stroke is there on its own frames, by its ramps, and not while hidden', async () => {
  const area = stroke('a', across, { ...RED, lives: 'onwards', rampFrames: 1 }, 5)
  expect(valueAt(await mended([brush([area])], 4), 50, 40)).toBe(valueAt(picture, 50, 40))
  expect(valueAt(await mended([brush([area])], 5), 50, 40)).toBe(Math.round(valueAt(picture, 50, 40) / 2))
  expect(valueAt(await mended([brush([area])], 6), 50, 40)).toBe(0)
  const hidden = { ...area, stroke: { ...area.stroke, isHidden: true } }
  const shown = stroke('b', [[20, 20], [22, 20]], RED) // prettier-ignore
  expect(valueAt(await mended([brush([hidden, shown])], 6), 50, 40)).toBe(valueAt(picture, 50, 40))
})

test('softness fades over the tip, strength holds back, and strokes over each other build up', async () => {
  const soft = await mended([brush([stroke('a', across, { ...RED, softness: 1 })])])
  const [middle, half, rim] = [40, 44, 47].map((y) => valueAt(soft, 50, y) / valueAt(picture, 50, y)) as [number, number, number] // prettier-ignore
  expect(middle).toBeLessThan(0.1)
  expect(half).toBeGreaterThan(0.3)
  expect(rim).toBeGreaterThan(half)
  const once = await mended([brush([stroke('a', across, { ...RED, strength: 0.5 })])])
  expect(valueAt(once, 50, 40)).toBe(Math.round(valueAt(picture, 50, 40) / 2))
  const twice = await mended([brush([stroke('a', across, { ...RED, strength: 0.5 }), stroke('b', across, { ...RED, strength: 0.4 })])]) // prettier-ignore
  expect(Math.abs(valueAt(twice, 50, 40) - 0.3 * valueAt(picture, 50, 40))).toBeLessThanOrEqual(0.5)
})

test('a clone takes its pixels from the offset, and what is held out stays', async () => {
  const area = stroke('a', across, { lays: 'clone', offsetX: 20, offsetY: 30 })
  const holdout = sampleEllipse({ id: 'h', role: 'holdout' })
  const mend = brush([area, holdout])
  const out = await mended([{ ...mend, finish: { ...mend.finish, agree: 0 } }])
  expect(valueAt(out, 35, 40)).toBe(valueAt(picture, 55, 70))
  expect(valueAt(out, 50, 40)).toBe(valueAt(picture, 50, 40))
})

test('a clone takes what has been painted so far, its own place as it was, and nothing that is painted later', async () => {
  const copy = stroke('copy', [[40, 70], [70, 70]], { lays: 'clone', offsetX: 0, offsetY: -30 }) // prettier-ignore
  const plain = (areas: Mend['areas']) => ({ ...brush(areas), finish: { ...DEFAULT_FINISH, grain: 0, agree: 0 } }) // prettier-ignore
  const out = await mended([plain([stroke('a', across, RED), copy])])
  expect(valueAt(out, 55, 70)).toBe(0)
  const turned = await mended([plain([copy, stroke('a', across, RED)])])
  expect(valueAt(turned, 55, 70)).toBe(valueAt(picture, 55, 40))
  const near = await mended([plain([stroke('near', across, { lays: 'clone', offsetX: 6, offsetY: 0 })])])
  expect(valueAt(near, 50, 40)).toBe(valueAt(picture, 56, 40))
})

test('with one more dab only what it touches is worked out again, and the frame is that of a cold start', async () => {
  const lays = ['clone', 'heal', 'colour', 'light'] as const
  const painted = Array.from({ length: 24 }, (_, i) => {
    const [x, y] = [15 + (i % 6) * 16, 12 + Math.floor(i / 6) * 18]
    return stroke(`s${i}`, [[x, y], [x + 8, y + 2]], { lays: lays[i % 4]!, offsetX: 9, offsetY: 12, sizePx: 12, softness: 0.5, red: 1 }) // prettier-ignore
  })
  const dab = stroke('dab', [[60, 40]], { lays: 'clone', offsetX: -12, offsetY: 4, sizePx: 9 })
  const kept = new Map<string, object>()
  const names: string[] = []
  const cache = { get: (key: string) => kept.get(key), set: (key: string, value: object) => void (names.push(key), kept.set(key, value)) } // prettier-ignore
  const work = async (areas: Mend['areas'], over: Partial<Clip> = {}) => {
    const document = documentOf([brush(areas)], new Map(), { ...span, width: WIDTH, height: HEIGHT })
    return evaluateFrame(planFrame(document, 1), sourceOfSamples(picture, over), NEVER_STOPS)
  }
  await work(painted, { cache })
  const before = new Set(names)
  names.length = 0
  const warm = await work([...painted, dab], { cache })
  const cold = await work([...painted, dab])
  expect(warm.patches).toEqual(cold.patches)
  expect(warm.measures).toEqual(cold.measures)
  // A whole start makes some five names for each stroke: fill, what it leaves, what is measured, and what it read.
  expect(before.size).toBeGreaterThan(60)
  // In a picture as small as this, half of the strokes see the dab.
  expect(names.length).toBeLessThan(before.size / 2)
  // And one taken out of the middle again.
  const without = painted.filter((_, i) => i !== 9)
  expect((await work(without, { cache })).patches).toEqual((await work(without)).patches)
})

test('stopped anywhere, nothing half done is kept: the next try is that of a cold start', async () => {
  const areas = ['heal', 'clone'].map(
    (lays, i) =>
    stroke(`s${i}`, [[30 + 20 * i, 40], [50 + 20 * i, 44]], { lays: lays as BrushSettings['lays'], offsetX: 12, offsetY: 20, sizePx: 14 }), // prettier-ignore
  )
  const mend = { ...brush(areas), finish: { ...DEFAULT_FINISH, agree: 1 } }
  const document = documentOf([mend], new Map(), { ...span, width: WIDTH, height: HEIGHT })
  // Frames beside have a say in the colours: where they are left out, these are others.
  const lit = (frame: number): Samples => ({ ...picture, data: picture.data.map((value, i) => value + (i % WIDTH > 60 ? 5 * (frame % 5) : 0)) }) // prettier-ignore
  const source = (over: Partial<Clip> = {}) => sourceOfSamples(lit, over)
  const cold = await evaluateFrame(planFrame(document, 1), source(), NEVER_STOPS)
  let asked = 0
  const counting = { shouldStop: () => (asked++, false) }
  await evaluateFrame(planFrame(document, 1), source(), counting)
  const most = asked
  expect(most).toBeGreaterThan(6)
  for (let at = 1; at <= most; at++) {
    const kept = new Map<string, object>()
    const cache = { get: (key: string) => kept.get(key), set: (key: string, value: object) => void kept.set(key, value) } // prettier-ignore
    asked = 0
    await evaluateFrame(planFrame(document, 1), source({ cache }), { shouldStop: () => ++asked >= at }) // prettier-ignore
    // Of a value that is being dragged nothing is measured: what was laid is enough to be taken for known.
    const again = await evaluateFrame(planFrame(document, 1), source({ cache }), { ...NEVER_STOPS, isPassing: true }) // prettier-ignore
    expect(again.patches).toEqual(cold.patches)
  }
})

test('many strokes alike are filled at once', () => {
  const areas = Array.from({ length: 100 }, (_, i) => stroke(`s${i}`, [[(i % 10) * 11, Math.floor(i / 10) * 8]], { lays: 'light', sizePx: 6 })) // prettier-ignore
  const document = { mends: [brush(areas)], tracks: new Map(), plate: { ...ALL_FRAMES, ...span, width: WIDTH, height: HEIGHT }, scene: null } // prettier-ignore
  expect(planFrame(document, 1).placements).toHaveLength(1)
})

test('a dab hides what lies under all of its tip from frames that are gathered from', () => {
  const dab = stroke('a', [[60, 45]], { lays: 'behind', sizePx: 20 })
  const document = { mends: [brush([dab])], tracks: new Map(), plate: { ...ALL_FRAMES, ...span, width: WIDTH, height: HEIGHT }, scene: null } // prettier-ignore
  const { masked } = planFrame(document, 1).placements[0]!.requests[0]!
  const shapes = masked.map(({ placed }) => ({ shape: placed.shape as never, growPx: 0, value: 1 }))
  const mask = maskOfShapes(shapes, { col: 0, row: 0, width: WIDTH, height: HEIGHT })
  const count = mask.reduce((sum, one) => sum + one, 0)
  // A disc of 20 px across.
  expect(Math.abs(count / (Math.PI * 100) - 1)).toBeLessThan(0.08)
})
