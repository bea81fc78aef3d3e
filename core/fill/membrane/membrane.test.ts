import { completed } from '../method'
import { eliminate, poissonRows } from '../../../tests/eliminate'
import { flattenEllipse } from '../../geometry/outline'
import { createRaster, type Raster } from '../../image/raster'
import { measurePolygonField } from '../../matte/polygonMatte'
import { closedInput } from '../../../tests/fixtures/sampleInput'
import { gridOf, solveLaplace } from '../../image/laplace'
import { membrane } from './membrane'

const edge = { featherOutPx: 0, featherInPx: 0, growPx: 0 }
const never = { shouldStop: () => false }

function filled(picture: Raster, polygon: readonly number[], shouldStop = never.shouldStop) {
  const input = closedInput(picture, polygon, edge)
  return { input, result: completed(membrane.run(input, {}, { shouldStop })) }
}

function rasterOf(value: (x: number, y: number) => number, size = 48): Raster {
  const raster = createRaster(size, size, 1)
  for (let i = 0; i < raster.data.length; i++)
    raster.data[i] = value((i % size) + 0.5, Math.floor(i / size) + 0.5)
  return raster
}

const hole = flattenEllipse(24, 23, 13, 9, 20)

test.each([
  ['x² − y²', (x: number, y: number) => ((x - 24) ** 2 - (y - 24) ** 2) / 600],
  ['x y', (x: number, y: number) => ((x - 24) * (y - 24)) / 600],
  // The five-point mean of e^x cos y is off by its fourth derivative: at this scale below a thousandth.
  ['e^x cos y', (x: number, y: number) => 0.2 * Math.exp((x - 24) / 24) * Math.cos((y - 24) / 24)],
])('a harmonic function %s comes back through the hole', (_name, value) => {
  const exact = rasterOf(value)
  // The thing itself: far brighter than anything around.
  const thing = measurePolygonField(hole, { col: 0, row: 0, width: 48, height: 48 }, 0)
  const data = exact.data.slice()
  thing.pixels.forEach((pixel, i) => {
    if (thing.edges[i]! <= 0.4) data[pixel] = 9
  })
  const { input, result } = filled({ ...exact, data }, hole)
  if (!result.ok) throw new Error(result.detail)
  for (let i = 0; i < input.field.count; i++)
    expect(Math.abs(result.values[i]! - exact.data[input.field.pixels[i]!]!)).toBeLessThan(1e-3)
})

test('it solves the equations that a direct elimination solves', () => {
  const picture = rasterOf((x, y) => 0.5 + 0.3 * Math.sin(x * 1.7 + y * 0.9), 20)
  const { input, result } = filled(picture, flattenEllipse(10, 9, 5, 4, 0))
  if (!result.ok) throw new Error(result.detail)
  const unknown = new Map<number, number>()
  for (let i = 0; i < input.field.count; i++)
    if (input.wanted[i]! > 0 && input.field.edges[i]! < input.rimPx)
      unknown.set(input.field.pixels[i]!, unknown.size)
  const n = unknown.size
  const x = eliminate(poissonRows(unknown, 20, (pixel) => picture.data[pixel]!))
  expect(n).toBeGreaterThan(40)
  for (let i = 0; i < input.field.count; i++) {
    const at = unknown.get(input.field.pixels[i]!)
    if (at !== undefined) expect(result.values[i]).toBeCloseTo(x[at]!, 4)
  }
})

test('nothing inside is beyond what the rim holds, and covering everything is told', () => {
  const { input, result } = filled(
    rasterOf((x) => (x < 24 ? 0.2 : 0.8)),
    hole,
  )
  if (!result.ok) throw new Error(result.detail)
  for (let i = 0; i < input.field.count; i++)
    expect(result.values[i]! > 0.199 && result.values[i]! < 0.801).toBe(true)
  expect(
    filled(
      rasterOf(() => 0.5, 10),
      [-9, -9, 30, -9, 30, 30, -9, 30],
    ).result,
  ).toMatchObject({ ok: false, reason: 'nothing-known' })
  expect(
    filled(
      rasterOf((x) => x / 48),
      hole,
      () => true,
    ).result,
  ).toMatchObject({ ok: false, reason: 'stopped' })
})

test('a quarter of a million unknowns are solved to the same accuracy, and a strip no wider than a pixel too', () => {
  const size = 512
  const isUnknown = new Uint8Array(size * size)
  for (let row = 4; row < size - 4; row++) isUnknown.fill(1, row * size + 4, row * size + size - 4)
  const exact = rasterOf((x, y) => ((x - 256) ** 2 - (y - 256) ** 2) / 130_000, size)
  const rim = { ...exact, data: exact.data.map((value, i) => (isUnknown[i] === 1 ? 9 : value)) }
  const grid = gridOf(isUnknown, isUnknown.map((one) => 1 - one), size) // prettier-ignore
  const solved = solveLaplace(grid, rim, never.shouldStop)!
  for (let k = 0; k < grid.count; k += 37)
    expect(Math.abs(solved[k]! - exact.data[grid.pixels[k]!]!)).toBeLessThan(1e-3)

  const thin = new Uint8Array(64 * 64)
  thin.fill(1, 30 * 64 + 5, 30 * 64 + 60)
  const ramp = rasterOf((x) => x / 64, 64)
  const line = gridOf(thin, thin.map((one) => 1 - one), 64) // prettier-ignore
  const along = solveLaplace(line, ramp, never.shouldStop)!
  for (let k = 0; k < line.count; k++) expect(along[k]).toBeCloseTo(ramp.data[line.pixels[k]!]!, 3)
})
