import { IDENTITY, translationBy } from '../geometry/transform'
import { wholePicture } from '../image/rect'
import type { Raster } from '../image/raster'
import { MENDED, NEVER, type FillInput, type Prepared, type Surroundings } from './method'
import { bridgeUnread, readSource } from './readSource'
import { closedInput, paintRaster, shiftedSource } from '../../tests/fixtures/sampleInput'

const [WIDTH, HEIGHT] = [90, 60]
const SQUARE = [50, 20, 70, 20, 70, 40, 50, 40]
/** A paraboloid: cubic interpolation reproduces it. */
const scene = (x: number, y: number) => 0.2 + 0.00004 * x * x + 0.00003 * y * y + 0.002 * x
const plate = paintRaster(WIDTH, HEIGHT, scene)
const inputWith = (over: Partial<FillInput>) => closedInput(plate, SQUARE, undefined, over)
const isWanted = (input: FillInput) => (entry: number) => input.wanted[entry]! > 0
const placeOf = (input: FillInput, entry: number) => ({
  x: (input.field.pixels[entry]! % WIDTH) + 0.5,
  y: Math.floor(input.field.pixels[entry]! / WIDTH) + 0.5,
})
const clearFrame = (
  frame: number,
  picture: Raster,
  taboo: Uint8Array | null = null,
): Prepared<Surroundings | null> => ({
  frame,
  purpose: 'clear',
  groundFromHere: IDENTITY,
  areaFromHere: IDENTITY,
  value: { picture, rect: wholePicture(picture), taboo },
})
const tabooLeftOf = (col: number, value: number) =>
  Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < col ? value : 0))

test('a whole shift brings the samples over as they are, grain and all', () => {
  const input = inputWith({ source: shiftedSource(plate, -30, 4) })
  const { values, isSeen, grainKept, faults } = readSource(input, input.source!, [], isWanted(input))
  for (let i = 0; i < input.field.count; i++) {
    if (!isWanted(input)(i)) continue
    expect(values[i * 3]).toBe(plate.data[(input.field.pixels[i]! + 4 * WIDTH - 30) * 3])
    expect([isSeen[i], grainKept[i]]).toEqual([1, 1])
  }
  expect(faults).toEqual({ outsidePicture: 0, insideOthers: 0 })
})

test('between pixels a parabola comes back exactly, and half a pixel both ways leaves (41/64)² of white grain', () => {
  const input = inputWith({ source: shiftedSource(plate, -30.5, 2.5) })
  const { values, grainKept } = readSource(input, input.source!, [], isWanted(input))
  for (let i = 0; i < input.field.count; i++) {
    if (!isWanted(input)(i)) continue
    const { x, y } = placeOf(input, i)
    expect(values[i * 3]).toBeCloseTo(scene(x - 30.5, y + 2.5), 5)
    // The cubic of a = -1/2 at the half: (-1, 9, 9, -1)/16, squared and summed 164/256. R. Keys, IEEE ASSP 29(6), 1981.
    expect(grainKept[i]).toBeCloseTo((164 / 256) ** 2, 5)
  }
})

test('outside the picture nothing is read, and the share is told', () => {
  const input = inputWith({ source: shiftedSource(plate, -60, 0) })
  const { isSeen, faults } = readSource(input, input.source!, [], isWanted(input))
  let [outside, all] = [0, 0]
  for (let i = 0; i < input.field.count; i++) {
    if (!isWanted(input)(i)) continue
    all++
    const isOutside = placeOf(input, i).x - 60 < 0
    if (isOutside) outside++
    expect(isSeen[i]).toBe(isOutside ? 0 : 1)
  }
  expect(faults.outsidePicture).toBeCloseTo(outside / all, 6)
  expect(outside).toBeGreaterThan(0)
})

test('what is held out is never read, not even by the foot of the interpolation; pixels of other mends are', () => {
  const spoiled = {
    ...plate,
    data: plate.data.map((value, i) => (Math.floor(i / 3) % WIDTH < 30 ? 7 : value)),
  }
  for (const shift of [-30, -30.4]) {
    const input = closedInput(spoiled, SQUARE, undefined, {
      source: shiftedSource(spoiled, shift, 0, tabooLeftOf(30, NEVER)),
    })
    const { values, isSeen, faults } = readSource(input, input.source!, [], isWanted(input))
    for (let i = 0; i < input.field.count; i++) if (isSeen[i]) expect(values[i * 3]).toBeLessThan(1)
    expect(faults.insideOthers).toBeGreaterThan(0.3)
  }
  const mended = inputWith({ source: shiftedSource(plate, -30, 0, tabooLeftOf(30, MENDED)) })
  const { isSeen, faults } = readSource(mended, mended.source!, [], isWanted(mended))
  for (let i = 0; i < mended.field.count; i++) if (isWanted(mended)(i)) expect(isSeen[i]).toBe(1)
  expect(faults.insideOthers).toBeGreaterThan(0.3)
})

test('a source that only the ring around the area lacks is no fault: nothing of it is laid', () => {
  // What is wanted is copied from 18 px and more; what is asked around it would come from further left.
  const input = inputWith({ source: shiftedSource(plate, -30, 0, tabooLeftOf(15, NEVER)) })
  const { isSeen, faults } = readSource(input, input.source!, [], () => true)
  expect(isSeen.some((seen) => seen === 0)).toBe(true)
  expect(faults).toEqual({ outsidePicture: 0, insideOthers: 0 })
})

test('what is held out here comes from the clear frames, the nearer one counting more', () => {
  const input = inputWith({ source: shiftedSource(plate, -30, 0, tabooLeftOf(60, NEVER)) })
  const [near, far] = [paintRaster(WIDTH, HEIGHT, () => 0.4), paintRaster(WIDTH, HEIGHT, () => 0.8)]
  const read = readSource(
    input,
    input.source!,
    [clearFrame(1002, near), clearFrame(1005, far)],
    isWanted(input),
  )
  const entry = Array.from(input.wanted).findIndex((value) => value === 1)
  // Weights 1 and 1/4.
  expect(read.values[entry * 3]).toBeCloseTo((0.4 + 0.25 * 0.8) / 1.25, 5)
  expect(read.grainKept[entry]).toBeCloseTo(0.8 ** 2 + 0.2 ** 2, 5)
  const masked = readSource(
    input,
    input.source!,
    [clearFrame(1002, near, tabooLeftOf(60, NEVER)), clearFrame(1005, far)],
    isWanted(input),
  )
  expect(masked.values[entry * 3]).toBeCloseTo(0.8, 5)
  const moved = readSource(
    input,
    input.source!,
    [{ ...clearFrame(1003, plate), groundFromHere: translationBy(3, 0) }],
    isWanted(input),
  )
  expect(moved.values[entry * 3]).toBeCloseTo(scene(placeOf(input, entry).x - 27, placeOf(input, entry).y), 5)
})

test('what could not be read is stretched over from what could; with nothing at all it says so', () => {
  const flat = paintRaster(WIDTH, HEIGHT, () => 0.6)
  const input = closedInput(flat, SQUARE)
  const [values, isSeen, kept] = [new Float32Array(input.field.count * 3), new Uint8Array(input.field.count), new Float32Array(input.field.count).fill(1)] // prettier-ignore
  const known = new Uint8Array(WIDTH * HEIGHT).fill(1)
  expect(bridgeUnread(input, values, isSeen, kept, known)).toBe(true)
  for (let i = 0; i < input.field.count; i++) {
    if (!isWanted(input)(i)) continue
    expect(values[i * 3]).toBeCloseTo(0.6, 4)
    expect(kept[i]).toBe(0)
  }
  expect(bridgeUnread(input, values, isSeen, kept, new Uint8Array(WIDTH * HEIGHT))).toBe(false)
})
