import { createRaster } from '../core/image/raster'
import { createSamples } from '../core/image/samples'
import { createRandom } from '../demo/random'
import {
  changeOver,
  fineEnergy,
  greyOf,
  meanSquare,
  minus,
  neighbourCorrelation,
  regionOf,
  slopePsnr,
  spreadOver,
  ssimOver,
} from './quality'

const [WIDTH, HEIGHT] = [64, 48]
const whole = new Uint8Array(WIDTH * HEIGHT).fill(1)
const middle = whole.map((_, i) =>
  i % WIDTH >= 10 && i % WIDTH < 54 && i >= 10 * WIDTH && i < 38 * WIDTH ? 1 : 0,
)
const paint = (value: (col: number, row: number) => number) => {
  const raster = createRaster(WIDTH, HEIGHT, 1)
  for (let i = 0; i < raster.data.length; i++) raster.data[i] = value(i % WIDTH, Math.floor(i / WIDTH))
  return raster
}
const random = createRandom(11)
const noise = paint(() => 12 * (random() + random() + random() + random() - 2)) // deviation 12 / sqrt 3
const flat = (level: number) => paint(() => level)
const plus = (a: ReturnType<typeof paint>, b: ReturnType<typeof paint>) => ({
  ...a,
  data: a.data.map((value, i) => value + b.data[i]!),
})

/** Z. Wang et al., 2004: luminance, contrast and structure in closed form for pictures that differ in one of them only. */
describe('structural similarity', () => {
  const C1 = (0.01 * 255) ** 2

  test('is 1 for a picture beside itself, and the same both ways round', () => {
    const [a, b] = [plus(flat(120), noise), plus(flat(90), noise)]
    expect(ssimOver(a, a, middle)).toBeCloseTo(1, 6)
    expect(ssimOver(a, b, middle)).toBeCloseTo(ssimOver(b, a, middle), 9)
  })

  test('of two plain levels is their luminance term alone', () => {
    for (const [x, y] of [
      [100, 120],
      [30, 200],
    ] as const)
      // prettier-ignore
      expect(ssimOver(flat(x), flat(y), middle)).toBeCloseTo((2 * x * y + C1) / (x * x + y * y + C1), 3)
  })

  test('falls as noise is added, and is negative for a negative', () => {
    const picture = paint((col, row) => 120 + 60 * Math.sin(col / 2) * Math.cos(row / 2))
    const noisy = (times: number) =>
      ssimOver(picture, plus(picture, { ...noise, data: noise.data.map((value) => times * value) }), middle)
    expect(noisy(0.5)).toBeGreaterThan(noisy(1))
    expect(noisy(1)).toBeGreaterThan(noisy(3))
    expect(
      ssimOver(picture, { ...picture, data: picture.data.map((value) => 240 - value) }, middle),
    ).toBeLessThan(0)
  })
})

test('mean squares, spreads and slopes of known pictures', () => {
  expect(meanSquare(flat(10), flat(13), whole)).toBe(9)
  expect(
    spreadOver(
      paint((col) => (col % 2 === 0 ? 4 : -4)),
      whole,
    ),
  ).toBe(4)
  expect(spreadOver(flat(200), whole)).toBe(0)
  // A ramp of 2 a pixel against a plain one: slopes differ by 2 to the right, by nothing down: mean square 2.
  expect(slopePsnr(paint((col) => 2 * col), flat(0), middle)).toBeCloseTo(10 * Math.log10(255 ** 2 / 2), 4) // prettier-ignore
  expect(minus(flat(5), flat(2)).data[7]).toBe(3)
})

test('fine energy sees pixels and not ramps; a blur takes it away', () => {
  expect(fineEnergy(paint((col, row) => 3 * col + row), middle)).toBeLessThan(1e-4) // prettier-ignore
  const checks = paint((col, row) => ((col + row) % 2 === 0 ? 10 : -10))
  expect(fineEnergy(checks, middle)).toBeGreaterThan(98)
  const soft = paint((col, row) => Math.sin(col / 5) * 20 + Math.cos(row / 6) * 20)
  expect(fineEnergy(noise, middle)).toBeGreaterThan(20 * fineEnergy(soft, middle))
})

test('neighbours of white noise have nothing in common, pairs of equal pixels half', () => {
  expect(Math.abs(neighbourCorrelation(noise, whole))).toBeLessThan(0.06)
  const pairs = paint((col, row) => noise.data[row * WIDTH + (col >> 1) * 2]!)
  expect(Math.abs(neighbourCorrelation(pairs, whole) - 0.5)).toBeLessThan(0.08)
})

test('change in time: nothing for stills, a shift of level in full, grain only as far as it does not average out', () => {
  expect(changeOver(noise, noise, middle)).toBe(0)
  expect(changeOver(flat(100), flat(103), middle)).toBeCloseTo(3, 4)
  // White noise of deviation s through a Gaussian of 1.5 px: s / (2 sqrt(pi) 1.5).
  expect(Math.abs(changeOver(flat(0), noise, middle) / ((12 / Math.sqrt(3)) / (2 * Math.sqrt(Math.PI) * 1.5)) - 1)).toBeLessThan(0.15) // prettier-ignore
})

test('a region is the covered part with a ring apart from it, cut at the picture', () => {
  const coverage = new Float32Array(WIDTH * HEIGHT)
  for (let row = 0; row < 6; row++) coverage.fill(1, row * WIDTH + 2, row * WIDTH + 8)
  const { rect, inside, around } = regionOf(coverage, WIDTH, HEIGHT, 5, 2)
  expect([rect.col, rect.row]).toEqual([0, 0])
  expect(inside.reduce((sum, one) => sum + one, 0)).toBe(36)
  inside.forEach((one, i) => {
    if (one === 1) for (let away = 0; away <= 2; away++) expect(around[i + away]).toBe(0)
  })
  expect(around[rect.width * 3 + 11]).toBe(1)
})

test('grey is the luminance of ITU-R BT.709', () => {
  const samples = createSamples(1, 1, 3, 8)
  samples.data.set([100, 50, 200])
  expect(greyOf(samples, { col: 0, row: 0, width: 1, height: 1 }).data[0]).toBeCloseTo(
    0.2126 * 100 + 0.7152 * 50 + 0.0722 * 200,
    3,
  )
})
