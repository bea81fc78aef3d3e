import { convolveSeparable } from '../image/convolve'
import { createRaster } from '../image/raster'
import { coarsenessWhere, fineGain, statsOf, wideGain } from './coarseness'
import { coarseTaps, grainAt } from './grain'

test('white grain: nothing resembles its neighbour, and the mask makes 6 of a deviation of 1 (Immerkær, 1996)', () => {
  const white = statsOf(0)
  expect(white.correlations).toEqual({ r1: 0, r2: 0, r4: 0 })
  expect([fineGain(white), wideGain(white)]).toEqual([6, 6])
})

test('coarse grain resembles its neighbours as a Gaussian blur must: exp(-lag² / 4s²), s well above half a pixel', () => {
  for (const coarsePx of [0.9, 1.2, 1.5]) {
    const { r1, r2 } = statsOf(coarsePx).correlations
    expect(Math.abs(r1 - Math.exp(-1 / (4 * coarsePx ** 2)))).toBeLessThan(0.02)
    expect(Math.abs(r2 - Math.exp(-4 / (4 * coarsePx ** 2)))).toBeLessThan(0.03)
  }
})

test.each([0.45, 0.8, 1.3])(
  'generated grain of coarseness %f has the deviation and the mask’s answer that the statistics say',
  (coarsePx) => {
    const [width, height] = [220, 200]
    const white = createRaster(width, height, 1)
    for (let i = 0; i < white.data.length; i++)
      white.data[i] = grainAt(4, 1001, i % width, Math.floor(i / width), 0)
    const taps = coarseTaps(coarsePx)
    const { data } = convolveSeparable(white, Float32Array.from(taps), Float32Array.from(taps))
    const answer = (at: number, lag: number) => {
      const row = (from: number) => data[from - lag]! - 2 * data[from]! + data[from + lag]!
      return row(at - lag * width) - 2 * row(at) + row(at + lag * width)
    }
    const [sums, stats] = [[0, 0, 0], statsOf(coarsePx)]
    let count = 0
    for (let row = 10; row < height - 10; row++) {
      for (let col = 10; col < width - 10; col++) {
        const at = row * width + col
        sums[0]! += data[at]! ** 2
        sums[1]! += answer(at, 1) ** 2
        sums[2]! += answer(at, 2) ** 2
        count++
      }
    }
    const [own, fine, wide] = sums.map((sum) => Math.sqrt(sum / count))
    expect(Math.abs(own! - 1)).toBeLessThan(0.03)
    expect(Math.abs(fine! / fineGain(stats) - 1)).toBeLessThan(0.04)
    expect(Math.abs(wide! / wideGain(stats) - 1)).toBeLessThan(0.04)
  },
)

test('a statistic leads back to its coarseness; below the finest it is white, beyond the table its end', () => {
  for (const coarsePx of [0.5, 0.72, 1.11, 1.4]) expect(coarsenessWhere((one) => one.correlations.r1, statsOf(coarsePx).correlations.r1)).toBeCloseTo(coarsePx, 1) // prettier-ignore
  expect(coarsenessWhere((one) => one.correlations.r1, -0.2)).toBe(0)
  expect(coarsenessWhere((one) => one.correlations.r1, 0)).toBe(0)
  expect(coarsenessWhere((one) => one.correlations.r1, 2)).toBeGreaterThan(1.4)
})
