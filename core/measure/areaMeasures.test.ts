import { flattenEllipse } from '../geometry/outline'
import { createRaster, type Raster } from '../image/raster'
import { coverageFromEdges, outerPxOf } from '../matte/edge'
import { measurePolygonField } from '../matte/polygonMatte'
import {
  bandsOf,
  flickerBetween,
  measureCells,
  measureGrainRatio,
  measureRimStep,
  SECTORS,
  type MeasuredArea,
} from './areaMeasures'
import { measureRepeat } from './repeats'

const [WIDTH, HEIGHT] = [140, 120]
const edge = { featherOutPx: 2, featherInPx: 0, growPx: 0 }
const field = measurePolygonField(
  flattenEllipse(70, 60, 24, 20, 0),
  { col: 0, row: 0, width: WIDTH, height: HEIGHT },
  24,
)
const isInside = (x: number, y: number) => ((x - 70) / 24) ** 2 + ((y - 60) / 20) ** 2 < 1

function paint(value: (x: number, y: number) => number): Raster {
  const raster = createRaster(WIDTH, HEIGHT, 3)
  for (let i = 0; i < raster.data.length; i++)
    raster.data[i] = value((Math.floor(i / 3) % WIDTH) + 0.5, Math.floor(i / 3 / WIDTH) + 0.5)
  return raster
}
const sectors = Uint8Array.from(field.pixels, (pixel) => {
  const turn = Math.atan2(Math.floor(pixel / WIDTH) - 60, (pixel % WIDTH) - 70) / (2 * Math.PI) + 0.5
  return Math.min(SECTORS - 1, Math.floor(turn * SECTORS))
})
const tabooWhere = (isOther: (entry: number) => boolean): Uint8Array => {
  const taboo = new Uint8Array(WIDTH * HEIGHT)
  field.pixels.forEach((pixel, entry) => (taboo[pixel] = isOther(entry) ? 1 : 0))
  return taboo
}
const areaOf = (picture: Raster, isOther: (entry: number) => boolean = () => false): MeasuredArea => ({
  picture,
  field,
  coverage: coverageFromEdges(field, edge),
  innerPx: 0,
  outerPx: outerPxOf(edge),
  sectorOf: (entry: number) => sectors[entry]!,
  taboo: tabooWhere(isOther),
})
const rimOf = (...of: Parameters<typeof areaOf>) => measureRimStep(bandsOf(areaOf(...of)))
let state = 1
const noise = () => {
  state = (Math.imul(state, 1664525) + 1013904223) | 0
  return (state >>> 8) / 2 ** 24 - 0.5
}
const wall = (x: number, y: number) => 0.4 + 0.03 * Math.sin(x / 6) * Math.cos(y / 5)

test('a rim that joins measures as usual, a step across it does not', () => {
  expect(rimOf(paint(wall))).toBeLessThan(2)
  expect(rimOf(paint((x, y) => wall(x, y) + (isInside(x, y) ? 0.08 : 0)))).toBeGreaterThan(3)
  // A step that nobody sees is none.
  expect(rimOf(paint((x, y) => 0.5 + (isInside(x, y) ? 0.004 : 0)))).toBeLessThan(0.6)
  expect(rimOf(paint(wall), () => true)).toBeNull()
})

test('grain inside against grain around, whatever the level', () => {
  const grainy = (inside: number) => paint((x, y) => 0.5 + noise() * (isInside(x, y) ? inside : 0.06))
  expect(Math.abs(measureGrainRatio(areaOf(grainy(0.06)))! - 1)).toBeLessThan(0.15)
  expect(measureGrainRatio(areaOf(grainy(0.02)))).toBeLessThan(0.5)
  expect(measureGrainRatio(areaOf(grainy(0.15)))).toBeGreaterThan(1.9)
  expect(measureGrainRatio(areaOf(paint(() => 0.5)))).toBeNull()
})

test('an area that flickers changes more than what is around it; what passes in front is no flicker', () => {
  const cells = (inside: number, around: number, isOther?: (entry: number) => boolean) =>
    measureCells(
      bandsOf(
        areaOf(
          paint((x, y) => 0.4 + (isInside(x, y) ? inside : around)),
          isOther,
        ),
      ),
    )!
  expect(flickerBetween(cells(0, 0), cells(0.05, 0.05))!.ratio).toBeCloseTo(1, 1)
  const bad = flickerBetween(cells(0, 0), cells(0.05, 0.004))!
  expect(bad.ratio).toBeGreaterThan(6)
  expect(bad.inside).toBeCloseTo(0.05, 2)
  const held = cells(0.05, 0, (entry) => sectors[entry]! < 8)
  expect(held.inside.filter((cell) => cell === null)).toHaveLength(8)
})

test('a feature that is copied from close by is told from texture that is everywhere', () => {
  const tiles = (x: number, y: number) => (x % 9 < 2 || y % 9 < 2 ? 0.2 : 0.7)
  const source = { col: 10, row: 20, width: 40, height: 40 }
  const all = () => true
  expect(measureRepeat(paint(tiles), source, all)!).toBeLessThan(0.25)
  const lantern = (x: number, y: number) =>
    Math.hypot(x - 30, y - 40) < 10 ? 0.95 : Math.abs(x - 30) < 2 && y < 40 ? 0.05 : 0.4 + 0.02 * noise()
  expect(measureRepeat(paint(lantern), source, all)!).toBeGreaterThan(0.8)
  expect(measureRepeat(paint(() => 0.4), source, all)).toBe(0) // prettier-ignore
  expect(measureRepeat(paint(tiles), { col: 0, row: 0, width: 10, height: 10 }, all)).toBeNull()
})
