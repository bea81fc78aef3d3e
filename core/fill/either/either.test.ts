import { paintRaster, pathInput } from '../../../tests/fixtures/sampleInput'
import { createRandom } from '../../../tests/random'
import { across } from '../across/across'
import { completed, type FillInput, type FillMethod } from '../method'
import { defaultsOf } from '../registry'
import { texture } from '../texture/texture'
import { either } from './either'

const [WIDTH, HEIGHT, HALF_HEIGHT] = [240, 200, 100]
const bar = [
  { x: 120, y: -10, widthPx: 24 },
  { x: 120, y: HEIGHT + 10, widthPx: 24 },
]

const random = createRandom(11)
const bands = Array.from({ length: 80 }, () => 0.1 + 0.8 * random())

/** Above: bent bands that are nowhere twice and cross the bar. Below: tiles whose upright joints are narrower than the bar. */
function scene(x: number, y: number): number {
  if (y < HALF_HEIGHT) {
    const along = (y + 200 * Math.pow((x - 120) / 120, 2)) / 5
    const at = Math.floor(along)
    return bands[at]! + (along - at) * (bands[at + 1]! - bands[at]!)
  }
  const [u, v] = [(x + 6) % 18, y % 14]
  if (u < 3) return 0.1
  return v < 2 ? 0.85 : 0.5
}

const isBar = (x: number) => Math.abs(x - 120) < 12
const picture = paintRaster(WIDTH, HEIGHT, (x, y) => (isBar(x) ? 0.02 : scene(x, y)))
const input = pathInput(picture, bar)

function valuesOf(method: FillMethod, from: FillInput, shouldStop = () => false) {
  const result = completed(method.run(from, defaultsOf(method), { shouldStop }))
  if (!result.ok) throw new Error(`${result.reason}: ${result.detail}`)
  return result
}

/** Root mean square difference from what is behind the bar, in rows well inside one of the halves. */
function errorOf(values: Float32Array, firstRow: number, endRow: number): number {
  let [sum, count] = [0, 0]
  for (let i = 0; i < input.field.count; i++) {
    const [col, row] = [input.field.pixels[i]! % WIDTH, Math.floor(input.field.pixels[i]! / WIDTH)]
    if (input.field.edges[i]! > 0 || row < firstRow || row >= endRow) continue
    sum += (values[3 * i]! - scene(col + 0.5, row + 0.5)) ** 2
    count++
  }
  return Math.sqrt(sum / count)
}

describe('a bar before what only one of the two can continue', () => {
  const [crossed, textured, both] = [across, texture, either].map((method) => valuesOf(method, input))

  test.each([
    ['lines that cross it', 15, 85],
    ['tiles that repeat', 115, 185],
  ])('%s: as good as the better one', (_what, firstRow, endRow) => {
    const [a, t, b] = [crossed, textured, both].map((one) => errorOf(one!.values, firstRow, endRow)) as [
      number,
      number,
      number,
    ]
    expect(b).toBeLessThan(1.25 * Math.min(a, t) + 0.01)
    expect(b).toBeLessThan(0.75 * Math.max(a, t))
  })

  test('each half has another winner, so neither alone would do', () => {
    expect(errorOf(crossed!.values, 15, 85)).toBeLessThan(0.75 * errorOf(textured!.values, 15, 85))
    expect(errorOf(textured!.values, 115, 185)).toBeLessThan(0.75 * errorOf(crossed!.values, 115, 185))
  })

  test('the share of grain that is left is a share', () => {
    expect(both!.grainKept.every((kept) => kept >= 0 && kept <= 1)).toBe(true)
  })
})

test('where no whole patch is free it is Across', () => {
  const [width, height] = [60, 18]
  const narrow = paintRaster(width, height, (x, y) => (Math.abs(x - 30) < 8 ? 0 : 0.02 * y + 0.3))
  const small = pathInput(narrow, [
    { x: 30, y: -4, widthPx: 18 },
    { x: 30, y: height + 4, widthPx: 18 },
  ])
  const none = { ...small, taboo: new Uint8Array(width * height).map((_, at) => (at % 9 === 0 ? 2 : 0)) }
  expect(valuesOf(either, none).values).toEqual(valuesOf(across, none).values)
})

test('is stopped when asked', () => {
  const result = completed(either.run(input, defaultsOf(either), { shouldStop: () => true }))
  expect(result).toMatchObject({ ok: false, reason: 'stopped' })
})

test('needs a path', () => {
  expect(() => either.run({ ...input, path: null }, {}, { shouldStop: () => false })).toThrow('needs a path')
})
