import { createRandom } from '../../tests/random'
import type { EdgeField } from '../matte/edge'
import { calmGrain } from './calmGrain'
import { GRAIN_BINS } from './grainSizes'

const [WIDTH, HEIGHT] = [80, 60]
const rect = { col: 0, row: 0, width: WIDTH, height: HEIGHT }
const count = WIDTH * HEIGHT
const field: EdgeField = {
  count,
  pixels: Int32Array.from({ length: count }, (_, i) => i),
  edges: new Float32Array(count).fill(-5),
}
const LEVEL = 0.01
const model = { levels: new Float32Array(GRAIN_BINS).fill(LEVEL), coarsePx: 0 }
const random = createRandom(6)
const noise = Float32Array.from({ length: count }, () => (random() + random() + random() - 1.5) * 2)
const deviation = (values: ArrayLike<number>) =>
  Math.sqrt(Array.from(values).reduce((sum, one) => sum + (one - 0.5) ** 2, 0) / values.length)

test('grain of twice its deviation is brought down to little more than its own', () => {
  const plate = new Float32Array(count).fill(0.3)
  const values = noise.map((one) => 0.5 + 2 * LEVEL * one)
  expect(deviation(values) / LEVEL).toBeCloseTo(2, 1)
  const kept = calmGrain(values, new Float32Array(count).fill(4), plate, field, rect, 1, model)
  expect(deviation(values) / LEVEL).toBeGreaterThan(0.8)
  expect(deviation(values) / LEVEL).toBeLessThan(1.3)
  expect(kept.every((one) => one === 1)).toBe(true)
})

test('told what would be there without grain, it is halved, and what is more than grain stays', () => {
  const plate = new Float32Array(count).fill(0.3)
  const values = noise.map((one) => 0.5 + 2 * LEVEL * one)
  const before = values.slice()
  values[700] = before[700] = 0.9
  const grainless = new Float32Array(count).fill(0.5)
  calmGrain(values, new Float32Array(count).fill(4), plate, field, rect, 1, model, grainless)
  // A thing beside it brings means over a few px up a little, and they vary by the grain itself.
  for (const i of [0, 123, 4000])
    expect(Math.abs(values[i]! - 0.5 - (before[i]! - 0.5) / 2)).toBeLessThan(0.002)
  expect(values[700]).toBeCloseTo(0.9, 6)
})

test('values that were trimmed brighter than other frames show stay as bright', () => {
  const plate = new Float32Array(count).fill(0.3)
  const values = noise.map((one) => 0.52 + 2 * LEVEL * one)
  const mean = (row: Float32Array) => row.reduce((sum, one) => sum + one, 0) / count
  const before = mean(values)
  const grainless = new Float32Array(count).fill(0.5)
  calmGrain(values, new Float32Array(count).fill(4), plate, field, rect, 1, model, grainless)
  expect(Math.abs(mean(values) - before)).toBeLessThan(0.0005)
})

test('one channel without grain does not keep the others from being calmed', () => {
  const plate = new Float32Array(2 * count).fill(0.3)
  const values = Float32Array.from({ length: 2 * count }, (_, i) =>
    i % 2 === 0 ? 0.5 : 0.5 + 2 * LEVEL * noise[i >> 1]!,
  )
  const levels = Float32Array.from({ length: 2 * GRAIN_BINS }, (_, i) => (i < GRAIN_BINS ? 0 : LEVEL))
  calmGrain(values, new Float32Array(count).fill(4), plate, field, rect, 2, { levels, coarsePx: 0 })
  expect(deviation(values.filter((_, i) => i % 2 === 1)) / LEVEL).toBeLessThan(1.3)
})

test('what was not raised is left alone; where less than is wanted is left, that is said', () => {
  const plate = Float32Array.from({ length: count }, (_, i) => (i % WIDTH < 40 ? 0.05 : 0.5))
  // Grain that grows with the light: raised fourfold in variance it is still too little.
  const growing = {
    levels: Float32Array.from({ length: GRAIN_BINS }, (_, bin) => 0.002 + 0.02 * (bin / GRAIN_BINS)),
    coarsePx: 0,
  }
  const values = new Float32Array(count).fill(0.5)
  const raised = Float32Array.from({ length: count }, (_, i) => (i % WIDTH < 40 ? 4 : 0.25))
  const kept = calmGrain(values, raised, plate, field, rect, 1, growing)
  expect(kept[10]).toBeLessThan(0.5)
  expect(kept[60]).toBe(0.25)
  expect(values[60]).toBe(0.5)
})
