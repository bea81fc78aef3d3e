import { createPathCurve } from '../geometry/pathCurve'
import { createRaster } from '../image/raster'
import { measurePathField } from '../matte/pathField'
import { grainAt, measureGrain, seedFromText } from './grain'

test('grain has mean 0 and deviation 1 and is white', () => {
  let [sum, squares, neighbours, nextFrame] = [0, 0, 0, 0]
  const N = 200
  for (let row = 0; row < N; row++)
    for (let col = 0; col < N; col++) {
      const value = grainAt(5, 1001, col, row, 0)
      sum += value
      squares += value * value
      neighbours += value * grainAt(5, 1001, col + 1, row, 0)
      nextFrame += value * grainAt(5, 1002, col, row, 0)
    }
  const THREE_SIGMA = 3 / N
  expect(Math.abs(sum / N ** 2)).toBeLessThan(THREE_SIGMA)
  expect(Math.abs(squares / N ** 2 - 1)).toBeLessThan(2 * THREE_SIGMA)
  expect(Math.abs(neighbours / N ** 2)).toBeLessThan(THREE_SIGMA)
  expect(Math.abs(nextFrame / N ** 2)).toBeLessThan(THREE_SIGMA)
})

test('it is a function of its place: known values stay', () => {
  const place = [grainAt(1, 1001, 10, 20, 0), grainAt(1, 1001, 10, 20, 1), grainAt(2, 1001, 10, 20, 0)]
  expect(new Set(place).size).toBe(3)
  expect(place).toEqual([grainAt(1, 1001, 10, 20, 0), grainAt(1, 1001, 10, 20, 1), grainAt(2, 1001, 10, 20, 0)])
  expect(seedFromText('a')).toBe(0xe40c292c | 0) // FNV-1a test vector of its authors: "a" gives e40c292c
})

test('the level around a path is measured through flat colour, ramps and a hard edge', () => {
  const raster = createRaster(120, 120, 2)
  const LEVEL = [0.01, 0.03] as const
  for (let row = 0; row < 120; row++)
    for (let col = 0; col < 120; col++)
      for (let channel = 0; channel < 2; channel++) {
        const scene = 0.3 + col / 400 + (row > 80 ? 0.4 : 0)
        raster.data[(row * 120 + col) * 2 + channel] = scene + LEVEL[channel]! * grainAt(9, 1, col, row, channel)
      }
  const curve = createPathCurve([
    { x: 40, y: -5, widthPx: 6 },
    { x: 70, y: 125, widthPx: 6 },
  ])
  const levels = measureGrain(raster, measurePathField(curve, { col: 0, row: 0, width: 120, height: 120 }, 14), 2)
  levels.forEach((level, channel) => expect(Math.abs(level / LEVEL[channel]! - 1)).toBeLessThan(0.1))
})

test('too few places measure nothing', () => {
  const raster = createRaster(4, 4, 1)
  const curve = createPathCurve([
    { x: 2, y: 0, widthPx: 2 },
    { x: 2, y: 4, widthPx: 2 },
  ])
  expect([...measureGrain(raster, measurePathField(curve, { col: 0, row: 0, width: 4, height: 4 }, 2), 1)]).toEqual([0])
})
