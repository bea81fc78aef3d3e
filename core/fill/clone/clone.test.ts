import { completed } from '../method'
import { flattenEllipse } from '../../geometry/outline'
import { compose, similarity, translationBy } from '../../geometry/transform'
import { wholePicture } from '../../image/rect'
import type { Raster } from '../../image/raster'
import type { FillInput, FillResult, Prepared, Surroundings } from '../method'
import { MENDED, NEVER } from '../method'
import { closedInput, paintRaster, shiftedSource } from '../../../tests/fixtures/sampleInput'
import { clone } from './clone'

const never = { shouldStop: () => false }
const [WIDTH, HEIGHT] = [80, 60]
const polygon = flattenEllipse(26, 30, 9, 8, 0)
const scene = (x: number, y: number, c: number) => 0.5 + 0.3 * Math.sin(x * 0.8 + c) * Math.cos(y * 0.6)

function must(result: FillResult) {
  if (!result.ok) throw new Error(result.detail)
  return result
}
const cloned = (picture: Raster, source: FillInput['source'], prepared: Prepared[] = []) => {
  const input = closedInput(picture, polygon, undefined, { source })
  return { input, result: must(completed(clone.run(input, {}, never, prepared))) }
}
const eachWanted = (input: FillInput, act: (entry: number, col: number, row: number) => void) => {
  for (let i = 0; i < input.field.count; i++)
    if (input.wanted[i]! > 0)
      act(i, input.field.pixels[i]! % WIDTH, Math.floor(input.field.pixels[i]! / WIDTH))
}

test('a shift by whole pixels brings the samples over to the bit, grain and all', () => {
  const picture = paintRaster(WIDTH, HEIGHT, scene)
  const { input, result } = cloned(picture, shiftedSource(picture, 31, -4))
  eachWanted(input, (i, col, row) => {
    for (let c = 0; c < 3; c++)
      expect(result.values[i * 3 + c]).toBe(picture.data[((row - 4) * WIDTH + col + 31) * 3 + c])
    expect(result.grainKept[i]).toBe(1)
  })
  expect(result.faults).toEqual({ outsidePicture: 0, insideOthers: 0 })
})

test('between pixels it reads smoothly and says how much grain that costs', () => {
  const smooth = (x: number, y: number) => 0.4 + 0.2 * Math.sin(x / 9) * Math.cos(y / 8)
  const picture = paintRaster(WIDTH, HEIGHT, smooth)
  const { input, result } = cloned(picture, shiftedSource(picture, 30.5, 0.25))
  eachWanted(input, (i, col, row) => {
    expect(Math.abs(result.values[i * 3]! - smooth(col + 31, row + 0.75))).toBeLessThan(2e-3)
    // Keys' cubic at one half: 2 (1/16)² + 2 (9/16)² = 0.641; by hand.
    expect(result.grainKept[i]).toBeGreaterThan(0.45)
    expect(result.grainKept[i]).toBeLessThan(0.641)
  })
})

test('turned and scaled, a place is taken from where the transform leads', () => {
  const smooth = (x: number, y: number) => 0.4 + 0.2 * Math.sin(x / 9) * Math.cos(y / 8)
  const picture = paintRaster(WIDTH, HEIGHT, smooth)
  const m = compose(translationBy(54, 30), compose(similarity(1.2, 0.6, 0, 0), translationBy(-26, -30)))
  const { input, result } = cloned(picture, {
    picture,
    rect: wholePicture(picture),
    taboo: null,
    sourceFromTarget: m,
  })
  eachWanted(input, (i, col, row) => {
    const [dx, dy] = [col + 0.5 - 26, row + 0.5 - 30]
    const x = 54 + 1.2 * (Math.cos(0.6) * dx - Math.sin(0.6) * dy)
    const y = 30 + 1.2 * (Math.sin(0.6) * dx + Math.cos(0.6) * dy)
    expect(Math.abs(result.values[i * 3]! - smooth(x, y))).toBeLessThan(3e-3)
  })
})

test('what is held out, and what lies outside the picture, is never taken; both are told as shares', () => {
  const picture = paintRaster(WIDTH, HEIGHT, (x) => (x > 56 ? 40 : 0.5))
  const taboo = new Uint8Array(WIDTH * HEIGHT)
  for (let i = 0; i < taboo.length; i++) if (i % WIDTH >= 56) taboo[i] = NEVER
  const held = cloned(picture, shiftedSource(picture, 28, 0, taboo))
  eachWanted(held.input, (i) => expect(held.result.values[i * 3]).toBeCloseTo(0.5, 3))
  expect(held.result.faults!.insideOthers).toBeGreaterThan(0.3)
  const outside = cloned(
    paintRaster(WIDTH, HEIGHT, () => 0.5),
    shiftedSource(picture, -20, 0),
  )
  expect(outside.result.faults!.outsidePicture).toBeGreaterThan(0.15)
  // What another mend has made may be taken, but is told.
  const mended = new Uint8Array(WIDTH * HEIGHT).fill(MENDED)
  const again = cloned(picture, shiftedSource(picture, 20, 0, mended))
  expect(again.result.faults!.insideOthers).toBeCloseTo(1, 3)
})

test('where the source is hidden, clear frames give the same ground, the nearer one more', () => {
  const shade = (value: number) => paintRaster(WIDTH, HEIGHT, () => value, 1)
  const here = shade(9)
  const hidden = new Uint8Array(WIDTH * HEIGHT).fill(NEVER)
  const clear = (frame: number, value: number): Prepared<Surroundings> => ({
    frame,
    purpose: 'clear',
    groundFromHere: translationBy(2, 0),
    areaFromHere: translationBy(0, 0),
    value: { picture: shade(value), rect: wholePicture(here), taboo: null },
  })
  const input = closedInput(shade(0.5), polygon, undefined, {
    source: { ...shiftedSource(here, 25, 0, hidden)! },
    frame: 1010,
  })
  const result = must(completed(clone.run(input, {}, never, [clear(1009, 0.2), clear(1013, 0.6)])))
  // One frame away counts three times as much as three frames away.
  eachWanted(input, (i) => expect(result.values[i]).toBeCloseTo(0.75 * 0.2 + 0.25 * 0.6, 5))
})
