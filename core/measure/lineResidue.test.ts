import { createPathCurve } from '../geometry/pathCurve'
import { createRaster } from '../image/raster'
import { grainAt } from '../finish/grain'
import { LINE_SHOWS_FROM, measureLineResidue } from './lineResidue'

const SIZE = { width: 140, height: 180 }
const rect = { col: 0, row: 0, ...SIZE }
const curve = createPathCurve([
  { x: 68, y: 4, widthPx: 6 },
  { x: 76, y: 176, widthPx: 6 },
])

/** Ground with detail and grain; `line` of a contrast where the path is, over a share of its length. */
function pictureWith(line: number, share = 1) {
  const raster = createRaster(SIZE.width, SIZE.height, 3)
  for (let row = 0; row < SIZE.height; row++) {
    const middle = 68 + (8 * (row + 0.5 - 4)) / 172
    for (let col = 0; col < SIZE.width; col++) {
      const ground = 0.5 + 0.06 * Math.sin(col / 6) * Math.cos(row / 5)
      const isOn = Math.abs(col + 0.5 - middle) < 3 && row < share * SIZE.height
      for (let c = 0; c < 3; c++)
        raster.data[(row * SIZE.width + col) * 3 + c] =
          ground + (isOn ? line : 0) + 0.006 * grainAt(3, 1, col, row, c)
    }
  }
  return raster
}

test('a line is told, dark or bright, and where it stands out most', () => {
  for (const contrast of [-0.4, 0.3]) {
    const found = measureLineResidue(pictureWith(contrast, 0.4), rect, SIZE, curve, 2)!
    expect(found.ratio).toBeGreaterThan(LINE_SHOWS_FROM)
    expect(found.y).toBeLessThan(0.45 * SIZE.height)
    expect(Math.abs(found.x - 70)).toBeLessThan(6)
  }
})

test('ground without a line is none, whatever its own detail', () => {
  expect(measureLineResidue(pictureWith(0), rect, SIZE, curve, 2)!.ratio).toBeLessThan(LINE_SHOWS_FROM)
})

test('on flat ground, less than grain is never a line', () => {
  const flat = createRaster(SIZE.width, SIZE.height, 3)
  flat.data.fill(0.4)
  expect(measureLineResidue(flat, rect, SIZE, curve, 2)!.ratio).toBe(0)
})

test('a path outside the picture is not measured', () => {
  const away = createPathCurve([
    { x: -90, y: 4, widthPx: 6 },
    { x: -80, y: 176, widthPx: 6 },
  ])
  expect(measureLineResidue(pictureWith(0), rect, SIZE, away, 2)).toBeNull()
})
