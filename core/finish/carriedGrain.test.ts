import { createRaster } from '../image/raster'
import { wholePicture } from '../image/rect'
import { measurePolygonField } from '../matte/polygonMatte'
import { carryGrain } from './carriedGrain'
import { grainAt } from './grain'

const [WIDTH, HEIGHT] = [120, 90]
const picture = createRaster(WIDTH, HEIGHT, 1)
for (let i = 0; i < picture.data.length; i++)
  picture.data[i] = 0.3 + (i % WIDTH) / 400 + 0.02 * grainAt(2, 1001, i % WIDTH, Math.floor(i / WIDTH), 0)
const field = measurePolygonField([50, 35, 70, 35, 70, 55, 50, 55], wholePicture(picture), 4)
const inside = Int32Array.from(field.edges.keys()).filter((entry) => field.edges[entry]! < 0)
const knownWhere = (isKnown: (col: number, row: number) => boolean) =>
  Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => (isKnown(i % WIDTH, Math.floor(i / WIDTH)) ? 1 : 0))
const outside = (col: number, row: number) => col < 48 || col > 72 || row < 33 || row > 57

const meanOf = (values: Float32Array) => values.reduce((sum, value) => sum + value, 0) / values.length

function spreadOf(values: Float32Array): number {
  const mean = meanOf(values)
  return Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length)
}

test('fine detail comes over without the brightness of where it was', () => {
  const carried = carryGrain(picture, field, inside, knownWhere(outside))!
  expect(Math.abs(meanOf(carried))).toBeLessThan(0.002)
  // A blur of deviation 1.5 px leaves 1 / (4 pi 1.5^2) of white noise's variance; what is taken away with it is 2 g(0)^2 of it.
  const centre = 1 / (2 * Math.PI * 1.5 ** 2)
  const expected = 0.02 * Math.sqrt(1 - 2 * centre + 1 / (4 * Math.PI * 1.5 ** 2))
  expect(Math.abs(spreadOf(carried) / expected - 1)).toBeLessThan(0.1)
})

test('it is that of one place beside: all entries shifted alike, by the least way that is known', () => {
  const known = knownWhere((col, row) => outside(col, row) && col > 60) // only the right is known
  const carried = carryGrain(picture, field, inside, known)!
  const all = carryGrain(picture, field, inside, knownWhere(outside))!
  expect(carried).not.toEqual(all)
  // Once more from the same: the same.
  expect(carryGrain(picture, field, inside, known)).toEqual(carried)
})

test('each entry that is asked for has its own; with nothing known there is nothing to carry', () => {
  const all = carryGrain(picture, field, inside, knownWhere(outside))!
  expect(all).toHaveLength(inside.length)
  expect(carryGrain(picture, field, inside, new Uint8Array(WIDTH * HEIGHT))).toBeNull()
})
