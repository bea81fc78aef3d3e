import { completed } from '../method'
import { flattenEllipse } from '../../geometry/outline'
import { translationBy } from '../../geometry/transform'
import { createRaster, type Raster } from '../../image/raster'
import type { FillInput, FillResult, Prepared } from '../method'
import { NEVER } from '../method'
import { closedInput, paintRaster } from '../../../tests/fixtures/sampleInput'
import { defaultsOf } from '../registry'
import { depthOf, finestLevel, halveLevel } from './levels'
import { texture } from './texture'

const never = { shouldStop: () => false }
const [WIDTH, HEIGHT] = [120, 96]
const polygon = flattenEllipse(60, 48, 14, 12, 0)
const edge = { featherOutPx: 2, featherInPx: 0, growPx: 0 }
const settings = (over: Record<string, unknown> = {}) => ({
  ...defaultsOf(texture),
  patchPx: 9,
  searchPx: 60,
  ...over,
})

/** Glazed tiles: every one the same, with a dark joint and a light edge. */
const tiles = (x: number, y: number, c: number) => {
  const [u, v] = [((x % 12) + 12) % 12, ((y % 10) + 10) % 10]
  if (u < 1.5 || v < 1.5) return 0.15
  return u < 3 || v < 3 ? 0.8 : 0.45 + 0.06 * c
}
const blot = (x: number, y: number) => Math.hypot((x - 60) / 14, (y - 48) / 12) < 1

function must(result: FillResult) {
  if (!result.ok) throw new Error(result.detail)
  return result
}
const pictureOf = (shiftX = 0, light = 1) =>
  paintRaster(WIDTH, HEIGHT, (x, y, c) => (blot(x, y) ? 0.95 : light * tiles(x - shiftX, y, c)))
const inputOf = (picture: Raster, over: Partial<FillInput> = {}) => closedInput(picture, polygon, edge, over)

/** Root mean square difference from the tiles, where most of the area is. */
function errorOf(input: FillInput, values: Float32Array, shiftX = 0, light = 1): number {
  let [sum, n] = [0, 0]
  for (let i = 0; i < input.field.count; i++) {
    if (input.field.edges[i]! > 0) continue
    const [x, y] = [(input.field.pixels[i]! % WIDTH) + 0.5, Math.floor(input.field.pixels[i]! / WIDTH) + 0.5]
    for (let c = 0; c < 3; c++) sum += (values[i * 3 + c]! - light * tiles(x - shiftX, y, c)) ** 2
    n += 3
  }
  return Math.sqrt(sum / n)
}

test('tiles are rebuilt as tiles', () => {
  const input = inputOf(pictureOf())
  const { values, grainKept } = must(completed(texture.run(input, settings(), never)))
  // Their own spread is 0.25; a smooth fill is off by as much.
  expect(errorOf(input, values)).toBeLessThan(0.05)
  const covered = [...grainKept].filter((_, i) => input.field.edges[i]! < 0)
  expect(covered.reduce((a, b) => a + b, 0) / covered.length).toBeGreaterThan(0.8)
})

test('the same seed gives the same bytes, another seed other ones', () => {
  const noise = paintRaster(
    WIDTH,
    HEIGHT,
    (x, y, c) => 0.5 + 0.3 * Math.sin(x * 12.9 + y * 78.2 + c) * Math.sin(x * 3.1 - y * 5.7),
  )
  const run = (seed: number) => must(completed(texture.run(inputOf(noise), settings({ seed }), never))).values
  expect(run(3)).toEqual(run(3))
  expect(run(4)).not.toEqual(run(3))
})

const anchorAt = (input: FillInput, shiftX: number, isDraft = false): Prepared => ({
  frame: 1001,
  purpose: 'anchor',
  groundFromHere: translationBy(-shiftX, 0),
  areaFromHere: translationBy(0, 0),
  value: texture.steady!.prepare(input, settings(), { ...never, isDraft }, 'anchor'),
})

test('worked out once, it rides on the ground: each frame takes its own pixels, with its own light', () => {
  const wide = closedInput(pictureOf(), flattenEllipse(60, 48, 22, 14, 0), edge)
  for (const [shiftX, light] of [
    [0, 1],
    [4, 0.7],
    [2.5, 1],
  ] as const) {
    const input = inputOf(pictureOf(shiftX, light), { frame: 1005 })
    const { values } = must(completed(texture.run(input, settings(), never, [anchorAt(wide, shiftX)])))
    expect(errorOf(input, values, shiftX, light)).toBeLessThan(0.07)
  }
})

test('what hides its sources on another frame is not taken: then the anchor frame shows', () => {
  const anchor = anchorAt(inputOf(pictureOf()), 0)
  const hidden = pictureOf()
  const taboo = new Uint8Array(WIDTH * HEIGHT)
  for (let i = 0; i < taboo.length; i++) {
    const [x, y] = [(i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5]
    if (Math.hypot(x - 60, y - 48) < 17) continue
    taboo[i] = NEVER
    hidden.data.fill(30, i * 3, i * 3 + 3)
  }
  const input = inputOf(hidden, { taboo })
  const { values } = must(completed(texture.run(input, settings(), never, [anchor])))
  expect(errorOf(input, values)).toBeLessThan(0.05)
})

test('nothing is learnt from holdouts and other mends, and without a free patch it says so', () => {
  const picture = pictureOf()
  const taboo = new Uint8Array(WIDTH * HEIGHT)
  for (let i = 0; i < taboo.length; i++) {
    if (i % WIDTH < 78) continue
    taboo[i] = NEVER
    picture.data.fill(20, i * 3, i * 3 + 3)
  }
  const input = inputOf(picture, { taboo })
  const { values } = must(completed(texture.run(input, settings(), never)))
  for (let i = 0; i < input.field.count; i++) if (input.wanted[i]! > 0) expect(values[i * 3]).toBeLessThan(1)
  const all = inputOf(picture, { taboo: new Uint8Array(WIDTH * HEIGHT).fill(NEVER) })
  expect(completed(texture.run(all, settings(), never))).toMatchObject({ ok: false, reason: 'nothing-known' })
})

test('a first look comes from a coarser search and still joins the tiles better than a smooth fill', () => {
  const input = inputOf(pictureOf())
  const first = must(completed(texture.run(input, settings(), { ...never, isDraft: true })))
  expect(errorOf(input, first.values)).toBeLessThan(0.2)
  expect(first.values).not.toEqual(must(completed(texture.run(input, settings(), never))).values)
})

test('stopped in the middle it says so', () => {
  let asked = 0
  expect(
    completed(texture.run(inputOf(pictureOf()), settings(), { shouldStop: () => asked++ > 2 })),
  ).toMatchObject({
    ok: false,
    reason: 'stopped',
  })
})

test('levels: what is known is averaged, any hole stays a hole, usable only where all is', () => {
  const picture = createRaster(4, 2, 1)
  picture.data.set([0.2, 0.4, 1, 1, 0.6, 9, 1, 1])
  const hole = Uint8Array.of(0, 0, 0, 0, 0, 1, 0, 0)
  const usable = hole.map((one) => 1 - one)
  const half = halveLevel(finestLevel(picture, hole, hole, usable))
  expect([half.width, half.height]).toEqual([2, 1])
  expect(half.colours[0]).toBeCloseTo(0.4, 6)
  expect(half.colours[3]).toBeCloseTo(1, 6)
  expect([...half.isHole]).toEqual([1, 0])
  expect([...half.isUsable]).toEqual([0, 1])
  const deep = finestLevel(
    createRaster(5, 5, 1),
    Uint8Array.from({ length: 25 }, (_, i) => (i % 5 > 0 && i % 5 < 4 && i > 4 && i < 20 ? 1 : 0)),
    hole,
    usable,
  )
  expect([...depthOf(deep)].slice(5, 15)).toEqual([0, 1, 1, 1, 0, 0, 1, 2, 1, 0])
})
