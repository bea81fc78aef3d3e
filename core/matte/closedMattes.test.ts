/** Closed areas: polygons and mattes made elsewhere. */
import { loadOpenCv } from '../../evaluation/opencv'
import {
  flattenBox,
  flattenEllipse,
  flattenOutline,
  smoothHandles,
  splitBezier,
  type BezierPoint,
} from '../geometry/outline'
import { insidePolygon } from '../geometry/polygon'
import { coverageFromEdges, reachPxOf, rimPxOf, type Edge } from './edge'
import { matteFromCoverage } from './pathMatte'
import { measurePictureField } from './pictureMatte'
import { measurePolygonField } from './polygonMatte'

const rect = { col: 0, row: 0, width: 64, height: 48 }
const HARD: Edge = { featherOutPx: 0, featherInPx: 0, growPx: 0 }
const matteOf = (polygon: readonly number[], edge: Edge, within = rect) => {
  const field = measurePolygonField(polygon, within, reachPxOf(edge))
  return matteFromCoverage(field, coverageFromEdges(field, edge), within)
}
const areaOf = (polygon: readonly number[], edge = HARD) =>
  matteOf(polygon, edge).data.reduce((sum, value) => sum + value, 0)

test('a box on pixel edges covers whole pixels; one half way covers half', () => {
  const row = (polygon: number[]) => [...matteOf(polygon, HARD).data.slice(24 * 64 + 18, 24 * 64 + 28)]
  expect(row(flattenBox(23, 24, 6, 20, 0, 0))).toEqual([0, 0, 1, 1, 1, 1, 1, 1, 0, 0])
  expect(row(flattenBox(23, 24, 5, 20, 0, 0))).toEqual([0, 0, 0.5, 1, 1, 1, 1, 0.5, 0, 0])
})

test.each([
  ['ellipse', flattenEllipse(31, 23, 18, 11, 25), Math.PI * 18 * 11],
  ['rounded box', flattenBox(30, 24, 30, 20, 33, 6), 30 * 20 - (4 - Math.PI) * 36],
  ['box with corners cut to a circle', flattenBox(30, 24, 20, 20, 10, 99), Math.PI * 100],
])('without feather an %s covers its area', (_name, polygon, area) => {
  expect(Math.abs(areaOf(polygon) - area) / area).toBeLessThan(0.01)
})

test('an outline of four smooth points is round, and cutting a side does not change it', () => {
  const ring = [0, 90, 180, 270].map((deg): BezierPoint => ({
    x: 30 + 15 * Math.cos((deg * Math.PI) / 180),
    y: 24 + 15 * Math.sin((deg * Math.PI) / 180),
    inX: 0,
    inY: 0,
    outX: 0,
    outY: 0,
  }))
  const round = ring.map((point, i) => smoothHandles(ring[(i + 3) % 4]!, point, ring[(i + 1) % 4]!))
  // The usual handles of a circle are 0.5523 radii long; a third of a chord is 0.4714: a little flatter.
  expect(areaOf(flattenOutline(round))).toBeGreaterThan(0.93 * Math.PI * 225)
  const [a, middle, b] = splitBezier(round[0]!, round[1]!, 0.3)
  const cut = [a, middle, b, ...round.slice(2)]
  expect(Math.abs(areaOf(flattenOutline(cut)) - areaOf(flattenOutline(round)))).toBeLessThan(0.2)
})

test('feather outside and inside, grow and shrink move the edge as told', () => {
  const box = flattenBox(32, 24, 24, 24, 0, 0)
  const across = (edge: Edge) => [...matteOf(box, edge).data.slice(24 * 64 + 38, 24 * 64 + 52)]
  const out = across({ featherOutPx: 4, featherInPx: 0, growPx: 0 })
  expect(out.slice(0, 6)).toEqual([1, 1, 1, 1, 1, 1])
  expect(
    out.slice(6, 10).every((value, i, all) => value > 0 && value < 1 && (i === 0 || value < all[i - 1]!)),
  ).toBe(true)
  expect(out.slice(10)).toEqual([0, 0, 0, 0])
  const inside = across({ featherOutPx: 0, featherInPx: 4, growPx: 0 })
  expect(inside.slice(0, 2)).toEqual([1, 1])
  expect(inside[2]).toBeLessThan(1)
  expect(inside.slice(6)).toEqual([0, 0, 0, 0, 0, 0, 0, 0])
  expect(areaOf(box, { ...HARD, growPx: -2 })).toBeCloseTo(400, 6)
  expect(areaOf(box, { ...HARD, growPx: 2 })).toBeGreaterThan(28 * 28 - 6) // corners round
  expect(rimPxOf({ featherOutPx: 3, featherInPx: 1, growPx: 2 })).toBeCloseTo(3, 10)
})

test('inside agrees with an independent library', async () => {
  const { cv } = await loadOpenCv()
  const polygon = flattenEllipse(31.3, 22.7, 17, 9, 40)
  const field = measurePolygonField(polygon, rect, 40)
  const contour = cv.matFromArray(polygon.length / 2, 1, cv.CV_32FC2, polygon)
  for (let row = 4; row < 44; row += 3) {
    for (let col = 4; col < 60; col += 3) {
      const distance = cv.pointPolygonTest(contour, { x: col + 0.5, y: row + 0.5 }, true)
      if (Math.abs(distance) < 0.01) continue
      expect(insidePolygon(polygon, col + 0.5, row + 0.5)).toBe(distance > 0)
      const at = field.pixels.indexOf(row * 64 + col)
      expect(field.edges[at]).toBeCloseTo(-distance, 2)
    }
  }
  contour.delete()
})

test('a crop of a matte is a crop of the whole', () => {
  const polygon = flattenEllipse(31, 23, 18, 11, 25)
  const edge = { featherOutPx: 3, featherInPx: 1, growPx: 1 }
  const whole = matteOf(polygon, edge)
  const part = { col: 10, row: 5, width: 30, height: 20 }
  const crop = matteOf(polygon, edge, part)
  for (let row = 0; row < 20; row++)
    for (let col = 0; col < 30; col++)
      expect(crop.data[row * 30 + col]).toBe(whole.data[(row + 5) * 64 + col + 10])
})

test('distances to a picture matte are those of an independent library', async () => {
  const { cv } = await loadOpenCv()
  const given = new Float32Array(40 * 30)
  for (let row = 8; row < 20; row++)
    for (let col = 10; col < 28; col++) if ((col * 7 + row * 3) % 11 !== 0) given[row * 40 + col] = 1
  const whole = { col: 0, row: 0, width: 40, height: 30 }
  const field = measurePictureField({ rect: whole, coverage: given }, whole, 50)
  expect(field.count).toBe(1200)
  const source = cv.matFromArray(
    30,
    40,
    cv.CV_8UC1,
    Uint8Array.from(given, (value) => (value ? 0 : 255)),
  )
  const out = new cv.Mat()
  cv.distanceTransform(source, out, cv.DIST_L2, cv.DIST_MASK_PRECISE)
  for (let i = 0; i < field.count; i++)
    if (!given[field.pixels[i]!]) expect(field.edges[i]).toBeCloseTo(out.data32F[field.pixels[i]!] - 0.5, 3)
  source.delete()
  out.delete()
})

test('a matte cut to what it covers lies where it was', () => {
  const field = measurePictureField(
    { rect: { col: 12, row: 9, width: 2, height: 1 }, coverage: Float32Array.of(1, 0.25) },
    { col: 10, row: 8, width: 6, height: 4 },
    0.6,
  )
  const at = (col: number, row: number) => field.pixels.indexOf((row - 8) * 6 + col - 10)
  expect([field.given[at(12, 9)], field.given[at(13, 9)]]).toEqual([1, 0.25])
  expect(field.edges[at(12, 9)]).toBeCloseTo(-0.5, 6)
})
