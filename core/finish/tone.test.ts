import { srgb } from '../colour/transfer'
import { flattenEllipse } from '../geometry/outline'
import { createRaster } from '../image/raster'
import { measurePolygonField } from '../matte/polygonMatte'
import { carryGrain } from './carriedGrain'
import { addPair, exposureCurve, joinPairs, matchTone, newPairs, saturateInto } from './tone'

/** Pairs whose place is gain × copy + offset. */
function pairsOf(gain: number, offset: number, spread: number, count = 200) {
  const sums = newPairs(3)
  for (let i = 0; i < count; i++)
    for (let c = 0; c < 3; c++)
      addPair(
        sums,
        c,
        gain * (0.4 + spread * Math.sin(i * 1.7 + c)) + offset,
        0.4 + spread * Math.sin(i * 1.7 + c),
      )
  return sums
}

test('gain and offset are found where the ring shows contrast; on flat ground only the brightness is brought over', () => {
  const { gains, offsets } = matchTone(pairsOf(1.3, -0.05, 0.2))!
  for (let c = 0; c < 3; c++) {
    expect(gains[c]).toBeCloseTo(1.3, 1)
    expect(gains[c]! * 0.4 + offsets[c]!).toBeCloseTo(1.3 * 0.4 - 0.05, 2)
  }
  const flat = matchTone(pairsOf(1.6, 0.1, 0.004))!
  expect(Math.abs(flat.gains[0]! - 1)).toBeLessThan(0.12)
  expect(flat.gains[0]! * 0.4 + flat.offsets[0]!).toBeCloseTo(1.6 * 0.4 + 0.1, 2)
})

test('a gain stays within a factor of two, and too few pairs say nothing', () => {
  expect(matchTone(pairsOf(9, 0, 0.2))!.gains[0]).toBe(2)
  expect(matchTone(pairsOf(1, 0, 0.2, 10))).toBeNull()
  expect(matchTone(joinPairs([]))).toEqual({ gains: new Float64Array(0), offsets: new Float64Array(0) })
})

test('frames beside are averaged by their weight', () => {
  const joined = joinPairs([
    { sums: pairsOf(1, 0.1, 0.2), weight: 1 },
    { sums: pairsOf(1, 0.3, 0.2), weight: 3 },
  ])
  const { gains, offsets } = matchTone(joined)!
  expect(gains[0]! * 0.4 + offsets[0]!).toBeCloseTo(0.4 + 0.25, 2)
})

// One stop is a factor of two of light, by definition; the curve of code values is sRGB's.
test('a stop doubles the light, and nothing is changed by no stop', () => {
  const curve = exposureCurve(1)!
  for (const value of [0.02, 0.2, 0.5, 0.7])
    expect(srgb.decode(curve(value))).toBeCloseTo(2 * srgb.decode(value), 3)
  expect(srgb.decode(exposureCurve(-0.5)!(0.6))).toBeCloseTo(srgb.decode(0.6) / Math.SQRT2, 3)
  expect(curve(1.2)).toBeCloseTo(srgb.encode(2 * srgb.decode(1.2)), 10)
  expect(exposureCurve(0)).toBeNull()
})

// Luma weights: ITU-R BT.709-6, item 3.2.
test('saturation moves colours from their luma', () => {
  const values = Float32Array.of(0.8, 0.2, 0.4)
  const luma = 0.2126 * 0.8 + 0.7152 * 0.2 + 0.0722 * 0.4
  saturateInto(values, 0, 0)
  for (const value of values) expect(value).toBeCloseTo(luma, 6)
  const more = Float32Array.of(0, 0.8, 0.2, 0.4)
  saturateInto(more, 1, 1.5)
  expect(more[1]).toBeCloseTo(luma + 1.5 * (0.8 - luma), 6)
  expect(more[0]).toBe(0)
})

test('carried grain is the detail of known ground beside the area, of no other', () => {
  const [width, height] = [90, 60]
  const raster = createRaster(width, height, 1)
  for (let i = 0; i < raster.data.length; i++)
    raster.data[i] = 0.5 + 0.05 * ((i * 7919) % 13 > 6 ? 1 : -1) + (i % width) / 400
  const field = measurePolygonField(flattenEllipse(30, 30, 8, 7, 0), { col: 0, row: 0, width, height }, 2)
  const known = new Uint8Array(width * height).fill(1)
  for (let i = 0; i < field.count; i++) known[field.pixels[i]!] = 0
  const inside = Int32Array.from(field.edges.keys()).filter((i) => field.edges[i]! < 0)
  const carried = carryGrain(raster, field, inside, known)!
  const n = inside.length
  const sum = carried.reduce((all, value) => all + value, 0)
  const squares = carried.reduce((all, value) => all + value ** 2, 0)
  expect(Math.abs(sum / n)).toBeLessThan(0.01)
  expect(Math.sqrt(squares / n)).toBeGreaterThan(0.03)
  expect(carryGrain(raster, field, inside, new Uint8Array(width * height))).toBeNull()
})
