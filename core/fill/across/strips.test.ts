import { createPathCurve } from '../../geometry/pathCurve'
import { createRaster } from '../../image/raster'
import { addFromSide, columnsOf, sampleSides, type DirectionAt } from './sides'

const square: DirectionAt = (tangentX, tangentY) => ({ x: -tangentY, y: tangentX, crossing: 1 })
const curve = createPathCurve([
  { x: 20, y: 5, widthPx: 6 },
  { x: 20, y: 25, widthPx: 6 },
])

function ramp() {
  const raster = createRaster(40, 30, 2)
  for (let i = 0; i < raster.data.length; i += 2) {
    const pixel = i / 2
    raster.data[i] = (pixel % 40) + 0.5
    raster.data[i + 1] = Math.floor(pixel / 40) + 0.5
  }
  return raster
}

/** What a side reads: on this picture, the place itself. */
function placeRead(
  side: Parameters<typeof addFromSide>[1],
  arc: number,
  row: number,
  smoothPx = 0,
): number[] {
  const target = new Float64Array(2)
  addFromSide(target, side, arc, row, smoothPx, 1)
  return [...target]
}

test('strips begin half a pixel outside the rim and run along the path', () => {
  const rect = { col: 0, row: 0, width: 40, height: 30 }
  const { left, right } = sampleSides(ramp(), null, rect, rect, curve, square, 1, 5)
  expect(columnsOf(curve)).toBe(21)
  // The path runs down, so its right is at smaller x.
  for (const [side, sign] of [
    [right, -1],
    [left, 1],
  ] as const) {
    for (const [arc, row] of [
      [0, 0],
      [7.5, 2],
      [20, 4],
    ] as const) {
      const [x, y] = placeRead(side, arc, row)
      expect(x).toBeCloseTo(20 + sign * (3 + 1 + 0.5 + row), 4)
      expect(y).toBeCloseTo(5 + arc, 4)
    }
    expect([...side.isSeen].every((seen) => seen === 1)).toBe(true)
  }
})

test('a wide view is the mean along the path and never looks further outwards', () => {
  const rect = { col: 0, row: 0, width: 40, height: 30 }
  const { left } = sampleSides(ramp(), null, rect, rect, curve, square, 1, 5)
  for (const smoothPx of [0.5, 1, 3, 9]) {
    const [x, y] = placeRead(left, 10, 1, smoothPx)
    expect(x).toBeCloseTo(25.5, 3)
    expect(y).toBeCloseTo(15, 1)
  }
})

test('a rim outside the picture is not seen; a crop is told where it lies', () => {
  const picture = ramp()
  const rect = { col: 0, row: 0, width: 40, height: 30 }
  const atEdge = createPathCurve([
    { x: 2, y: 5, widthPx: 6 },
    { x: 2, y: 25, widthPx: 6 },
  ])
  const { left, right } = sampleSides(picture, null, rect, rect, atEdge, square, 1, 3)
  expect([...right.isSeen].every((seen) => seen === 0)).toBe(true)
  expect([...left.isSeen].every((seen) => seen === 1)).toBe(true)

  const moved = { col: 100, row: 50, width: 40, height: 30 }
  const shifted = createPathCurve([
    { x: 120, y: 55, widthPx: 6 },
    { x: 120, y: 75, widthPx: 6 },
  ])
  const far = sampleSides(picture, null, moved, { width: 400, height: 300 }, shifted, square, 1, 3)
  expect(placeRead(far.left, 4, 0)[0]).toBeCloseTo(24.5, 4)
})
