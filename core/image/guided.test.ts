import { createRandom } from '../../tests/random'
import { guidedMean } from './guided'
import { boxSums } from './windows'

const [width, height, radiusPx] = [40, 30, 3]
const random = createRandom(11)
const noise = (amplitude: number) =>
  Float32Array.from({ length: width * height }, () => amplitude * (random() - 0.5))
const known = new Float32Array(width * height).fill(1)
const colOf = (i: number) => i % width

test('a guide without edges gives the mean of means: He, Sun and Tang 2010, section 3.2, for a large floor', () => {
  const map = noise(1)
  const out = guidedMean({ guide: noise(0.01), width, height, radiusPx, edgeDeviation: 100 }, map, known, 1)
  const counts = boxSums(known, width, height, radiusPx)
  const mean = (of: Float32Array) => boxSums(of, width, height, radiusPx).map((sum, i) => sum / counts[i]!)
  const twice = mean(mean(map))
  out.forEach((value, i) => expect(value).toBeCloseTo(twice[i]!, 5))
})

test('a map guided by itself is kept where it has edges and averaged where it has none: the same, for a small floor', () => {
  const step = noise(0.02).map((value, i) => value + (colOf(i) < 20 ? 0 : 1))
  const out = guidedMean({ guide: step, width, height, radiusPx, edgeDeviation: 0.1 }, step, known, 1)
  const spread = (of: Float32Array, from: number, to: number) => {
    const values = [...of].filter((_, i) => colOf(i) >= from && colOf(i) < to)
    const middle = values.reduce((sum, one) => sum + one, 0) / values.length
    return {
      middle,
      deviation: Math.sqrt(values.reduce((sum, one) => sum + (one - middle) ** 2, 0) / values.length),
    }
  }
  expect(spread(out, 19, 20).middle).toBeLessThan(0.06)
  expect(spread(out, 20, 21).middle).toBeGreaterThan(0.94)
  expect(spread(out, 4, 12).deviation).toBeLessThan(0.5 * spread(step, 4, 12).deviation)
})

test('costs stop at an edge of the guide; what is not known has no say, and nothing is said where too little is', () => {
  const guide = noise(0.005).map((value, i) => value + (colOf(i) < 20 ? 0.3 : 0.6))
  const costs = noise(0.01).map((value, i) => value + (colOf(i) < 20 ? 0.1 : 0.5))
  const some = known.map((_, i) => (colOf(i) >= 30 ? 0 : random() < 0.7 ? 1 : 0))
  const wild = costs.map((value, i) => (some[i] === 1 ? value : 1e6))
  const out = guidedMean({ guide, width, height, radiusPx, edgeDeviation: 0.02 }, wild, some, 9)
  out.forEach((value, i) => {
    if (colOf(i) < 28) expect(Math.abs(value - (colOf(i) < 20 ? 0.1 : 0.5))).toBeLessThan(0.03)
    if (colOf(i) >= 34) expect(value).toBe(Infinity)
  })
})
