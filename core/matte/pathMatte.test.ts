import { createPathCurve } from '../geometry/pathCurve'
import { measurePathField } from './pathField'
import { outerPxOf, rimPxOf, type Edge } from './edge'
import { matteFromCoverage, renderPathCoverage } from './pathMatte'

const rect = { col: 0, row: 0, width: 40, height: 30 }
const at = (x: number, y: number, widthPx: number) => ({ x, y, widthPx })

function matteOf(points: ReturnType<typeof at>[], edge: Edge) {
  const field = measurePathField(createPathCurve(points), rect, outerPxOf(edge))
  return matteFromCoverage(field, renderPathCoverage(field, edge), rect)
}

test('an upright path on pixel edges covers whole columns and ends sharp', () => {
  const matte = matteOf([at(20, 5, 4), at(20, 25, 4)], { featherOutPx: 0, featherInPx: 0, growPx: 0 })
  const row = (r: number) => [...matte.data.slice(r * 40 + 16, r * 40 + 24)]
  expect(row(15)).toEqual([0, 0, 1, 1, 1, 1, 0, 0])
  expect(row(4)).toEqual([0, 0, 0, 0, 0, 0, 0, 0])
  expect(row(5)).toEqual([0, 0, 1, 1, 1, 1, 0, 0])
  expect(row(25)).toEqual([0, 0, 0, 0, 0, 0, 0, 0])
})

test('an edge in the middle of a pixel covers half of it', () => {
  const matte = matteOf([at(20, 5, 5), at(20, 25, 5)], { featherOutPx: 0, featherInPx: 0, growPx: 0 })
  expect([...matte.data.slice(15 * 40 + 17, 15 * 40 + 23)]).toEqual([0.5, 1, 1, 1, 1, 0.5])
})

test('without feather, covered area is length times width at any angle', () => {
  for (const angle of [0, 17, 45, 80]) {
    const [dx, dy] = [10 * Math.cos((angle * Math.PI) / 180), 10 * Math.sin((angle * Math.PI) / 180)]
    const matte = matteOf([at(20 - dx, 15 - dy, 6), at(20 + dx, 15 + dy, 6)], {
      featherOutPx: 0,
      featherInPx: 0,
      growPx: 0,
    })
    const area = matte.data.reduce((sum, coverage) => sum + coverage)
    expect(Math.abs(area - 120)).toBeLessThan(0.05 * 52) // a linear edge is exact only on the axes; 52 px of edge
  }
})

test('feather falls outside the area and never past the ends', () => {
  const edge = { featherOutPx: 4, featherInPx: 0, growPx: 1 }
  const matte = matteOf([at(20, 8, 4), at(20, 22, 4)], edge)
  const across = [...matte.data.slice(15 * 40 + 20, 15 * 40 + 30)]
  expect(across.slice(0, 3)).toEqual([1, 1, 1]) // half of 4 px, 1 px grown
  expect(
    across.slice(3, 7).every((value, i, all) => value > 0 && value < 1 && (i === 0 || value < all[i - 1]!)),
  ).toBe(true)
  expect(across.slice(7)).toEqual([0, 0, 0])
  expect(matte.data.slice(0, 8 * 40).every((value) => value === 0)).toBe(true)
  expect(outerPxOf(edge)).toBe(5)
  expect(rimPxOf(edge)).toBeCloseTo(1 + 4 / 3, 10)
})

test('a bent path is covered without gaps at its joints', () => {
  const matte = matteOf([at(5, 5, 4), at(30, 8, 4), at(34, 27, 4)], {
    featherOutPx: 0,
    featherInPx: 0,
    growPx: 0,
  })
  const curve = createPathCurve([at(5, 5, 4), at(30, 8, 4), at(34, 27, 4)])
  for (let i = 4; i + 4 < curve.xs.length; i++) {
    expect(matte.data[Math.floor(curve.ys[i]!) * 40 + Math.floor(curve.xs[i]!)]).toBe(1)
  }
})

test('the field tells each pixel where it lies along and across the path', () => {
  const field = measurePathField(createPathCurve([at(10, 15, 4), at(30, 15, 8)]), rect, 3)
  const i = field.pixels.indexOf(17 * 40 + 20)
  expect(field.distances[i]).toBeCloseTo(2.5, 5) // below a path that runs right is to its right
  expect(field.arcs[i]).toBeCloseTo(10.5, 5)
  expect(field.halfWidths[i]).toBeCloseTo(3.05, 5)
  expect(field.beyonds[i]).toBeCloseTo(-9.5, 5)
})

test('round ends: of each pixel the distance to the nearest place of the line, less half the width there', () => {
  const curve = createPathCurve([at(8, 20, 6), at(30, 9, 12)])
  const field = measurePathField(curve, rect, 4, 'round')
  const listed = new Map([...field.pixels].map((pixel, i) => [pixel, field.edges[i]!]))
  const [dx, dy] = [22, -11]
  for (let pixel = 0; pixel < rect.width * rect.height; pixel++) {
    const [x, y] = [(pixel % rect.width) + 0.5 - 8, Math.floor(pixel / rect.width) + 0.5 - 20]
    const along = Math.min(1, Math.max(0, (x * dx + y * dy) / (dx * dx + dy * dy)))
    const edge = Math.hypot(x - along * dx, y - along * dy) - (3 + 3 * along)
    if (edge < 3.9) expect(Math.abs(listed.get(pixel)! - edge)).toBeLessThan(0.05)
    if (edge > 4.1) expect(listed.has(pixel)).toBe(false)
  }
})
