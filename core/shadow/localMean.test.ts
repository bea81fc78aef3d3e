import { createRandom } from '../../tests/random'
import { createRaster } from '../image/raster'
import { covarianceOf, product } from './covariance'
import { localMean } from './localMean'

const random = createRandom(9)
const raster = createRaster(60, 40, 2)
raster.data.forEach((_, i) => (raster.data[i] = random()))
const say = Float32Array.from({ length: 2400 }, () => random())

/** The same, by the sum that it stands for; cut off where the window is. */
function plainMean(col: number, row: number, c: number, sigmaPx: number): number {
  let [sum, weight] = [0, 0]
  for (let y = 0; y < 40; y++) {
    for (let x = 0; x < 60; x++) {
      const w = say[y * 60 + x]! * Math.exp(-((x - col) ** 2 + (y - row) ** 2) / (2 * sigmaPx * sigmaPx))
      sum += w * raster.data[2 * (y * 60 + x) + c]!
      weight += w
    }
  }
  return sum / weight
}

test('a small window is the weighted Gaussian mean', () => {
  const { mean } = localMean(raster, say, 1.5)
  for (const [col, row] of [
    [30, 20],
    [24, 12],
    [41, 27],
  ] as const)
    // prettier-ignore
    for (const c of [0, 1])
      expect(mean.data[2 * (row * 60 + col) + c]).toBeCloseTo(plainMean(col, row, c, 1.5), 2)
})

test('a wide window is laid over cells and says the same within a hundredth', () => {
  const wide = createRaster(60, 40, 2)
  wide.data.forEach((_, i) => (wide.data[i] = Math.sin((Math.floor(i / 2) % 60) / 20) + (i % 2)))
  const { mean } = localMean(wide, new Float32Array(2400).fill(1), 12)
  const [left, middle] = [mean.data[2 * (20 * 60 + 22)]!, mean.data[2 * (20 * 60 + 34)]!]
  expect(left).toBeLessThan(middle)
  expect(mean.data[2 * (20 * 60 + 30) + 1]! - mean.data[2 * (20 * 60 + 30)]!).toBeCloseTo(1, 3)
})

test('what has no say is not heard, and where nothing is heard nothing is said', () => {
  const half = Float32Array.from({ length: 2400 }, (_, i) => (i % 60 < 10 ? 1 : 0))
  const loud = createRaster(60, 40, 1)
  loud.data.forEach((_, i) => (loud.data[i] = i % 60 < 10 ? 2 : 1000))
  const { mean, say: heard } = localMean(loud, half, 2)
  expect(mean.data[20 * 60 + 9]).toBeCloseTo(2, 4)
  expect([mean.data[20 * 60 + 50], heard[20 * 60 + 50]]).toEqual([0, 0])
})

test('spread of colours, and a matrix times a vector', () => {
  const pixels = Int32Array.from({ length: 2400 }, (_, i) => i)
  const [a, both, b] = covarianceOf(raster, pixels, 0)
  // Uniform numbers from 0 to 1 vary by a twelfth, and not together.
  expect(a).toBeCloseTo(1 / 12, 2)
  expect(b).toBeCloseTo(1 / 12, 2)
  expect(Math.abs(both!)).toBeLessThan(0.006)
  expect(product(Float64Array.of(2, 1, 0, 3, 4, 5), [1, 2, 3])).toEqual([4, 19, 23])
})
