import { createRaster, type Raster } from '../image/raster'
import { measureRepeat } from './repeats'

const [WIDTH, HEIGHT] = [240, 180]
const SOURCE = { col: 96, row: 72, width: 48, height: 48 }
const paint = (value: (col: number, row: number) => number): Raster => {
  const raster = createRaster(WIDTH, HEIGHT, 3)
  for (let i = 0; i < raster.data.length; i++)
    raster.data[i] = value(Math.floor(i / 3) % WIDTH, Math.floor(i / 3 / WIDTH))
  return raster
}
const tiles = (col: number, row: number) => ((col >> 3) + (row >> 3)) % 2 === 0 ? 0.3 : 0.6 // prettier-ignore
const ring = (col: number, row: number) =>
  Math.abs(Math.hypot(col - 120, row - 96) - 14) < 4 ? 0.95 : tiles(col, row)
const everywhere = () => true

test('tiles that repeat all around are found again: nothing stands out', () => {
  expect(measureRepeat(paint(tiles), SOURCE, everywhere)).toBeLessThan(0.1)
})

test('a ring that is there once stands out', () => {
  expect(measureRepeat(paint(ring), SOURCE, everywhere)).toBeGreaterThan(0.5)
})

test('a ring with a twin elsewhere does not, unless the twin is the copy itself', () => {
  const onPlain = (col: number, row: number) => (ring(col, row) > 0.9 ? 0.95 : 0.4 + row / 2000)
  const picture = paint((col, row) => onPlain(col >= 168 ? col - 80 : col, row))
  expect(measureRepeat(picture, SOURCE, everywhere)).toBeLessThan(0.3)
  expect(measureRepeat(picture, SOURCE, (col) => col < 160)).toBeGreaterThan(0.5)
})

test('plain colour holds nothing that an eye would know again', () => {
  expect(measureRepeat(paint(() => 0.5), SOURCE, everywhere)).toBe(0) // prettier-ignore
})

test('a source smaller than a block, or too little around it, says nothing', () => {
  expect(measureRepeat(paint(ring), { ...SOURCE, width: 16 }, everywhere)).toBeNull()
  expect(
    measureRepeat(paint(ring), SOURCE, (col, row) => col >= 96 && col < 150 && row >= 72 && row < 125),
  ).toBeNull()
})
