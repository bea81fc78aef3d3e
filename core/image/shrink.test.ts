import { createRaster } from './raster'
import { shrink } from './shrink'

test('means of squares, of what there is at the edge', () => {
  const raster = createRaster(3, 3, 1)
  raster.data.set([1, 3, 5, 3, 5, 7, 9, 11, 13])
  const { width, height, data } = shrink(raster, 2)
  expect([width, height, ...data]).toEqual([2, 2, 3, 6, 10, 13])
  expect(shrink(raster, 1)).toBe(raster)
})
