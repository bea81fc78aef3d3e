import { createRaster } from './raster'
import { readShrunkInto, shrink } from './shrink'

test('means of squares, of what there is at the edge', () => {
  const raster = createRaster(3, 3, 1)
  raster.data.set([1, 3, 5, 3, 5, 7, 9, 11, 13])
  const { width, height, data } = shrink(raster, 2)
  expect([width, height, ...data]).toEqual([2, 2, 3, 6, 10, 13])
  expect(shrink(raster, 1)).toBe(raster)
})

test.each([2, 3])('a slope comes back as it was, away from the edge, by %d', (by) => {
  const raster = createRaster(24, 18, 2)
  for (let at = 0; at < 24 * 18; at++) {
    raster.data[2 * at] = 0.3 * (at % 24)
    raster.data[2 * at + 1] = 0.7 * Math.floor(at / 24)
  }
  const small = shrink(raster, by)
  const out = new Float32Array(2)
  for (let row = 3; row < 15; row++) {
    for (let col = 3; col < 21; col++) {
      readShrunkInto(out, small, by, col, row)
      expect(out[0]).toBeCloseTo(0.3 * col, 4)
      expect(out[1]).toBeCloseTo(0.7 * row, 4)
    }
  }
  readShrunkInto(out, small, by, 0, 0)
  expect(Number.isFinite(out[0]!)).toBe(true)
})
