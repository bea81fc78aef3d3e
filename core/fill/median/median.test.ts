import { completed } from '../method'
import fc from 'fast-check'
import { loadOpenCv } from '../../../evaluation/opencv'
import { flattenEllipse } from '../../geometry/outline'
import { createRaster, type Raster } from '../../image/raster'
import { wholePicture } from '../../image/rect'
import { closedInput, paintRaster } from '../../../tests/fixtures/sampleInput'
import { discChords, medianGrid } from './discMedian'
import { median } from './median'

const never = { shouldStop: () => false }
const CODE = 1 / 4080 // values are ranked in this many steps

function noise(width: number, height: number, channels: number, seed: number): Raster {
  const raster = createRaster(width, height, channels)
  let state = seed
  for (let i = 0; i < raster.data.length; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    raster.data[i] = (state >>> 24) / 255
  }
  return raster
}

/** The median as anyone would write it: all known values of the window, in order; with an even number the middle two's mean. */
function plainMedian(
  raster: Raster,
  known: Uint8Array,
  chords: Int32Array,
  col: number,
  row: number,
  channel: number,
): number | null {
  const radius = (chords.length - 1) / 2
  const values: number[] = []
  for (let dy = -radius; dy <= radius; dy++) {
    for (let dx = -chords[dy + radius]!; dx <= chords[dy + radius]!; dx++) {
      const [x, y] = [col + dx, row + dy]
      if (x < 0 || y < 0 || x >= raster.width || y >= raster.height || known[y * raster.width + x] === 0)
        continue
      values.push(raster.data[(y * raster.width + x) * raster.channels + channel]!)
    }
  }
  values.sort((a, b) => a - b)
  if (values.length === 0) return null
  return (values[(values.length - 1) >> 1]! + values[values.length >> 1]!) / 2
}

test('the sliding count gives what sorting gives, with pixels left out and at the edges', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 2 ** 30 }),
      fc.integer({ min: 1, max: 6 }),
      fc.integer({ min: 1, max: 3 }),
      (seed, radius, step) => {
        const raster = noise(23, 17, 3, seed)
        const known = Uint8Array.from({ length: 23 * 17 }, (_, i) => ((i * 7 + seed) % 5 < 4 ? 1 : 0))
        const chords = discChords(radius)
        const rect = { col: 2, row: 1, width: 19, height: 14 }
        const grid = medianGrid(raster, known, chords, rect, step)
        for (let node = 0; node < grid.cols * grid.rows; node++) {
          const [col, row] = [
            rect.col + (node % grid.cols) * step,
            rect.row + Math.floor(node / grid.cols) * step,
          ]
          for (let c = 0; c < 3; c++) {
            const plain = plainMedian(raster, known, chords, col, row, c)
            if (plain === null) expect(grid.counts[node]).toBe(0)
            else expect(Math.abs(grid.values[node * 3 + c]! - plain)).toBeLessThan(CODE)
          }
        }
      },
    ),
    { seed: 3, numRuns: 20 },
  )
})

// The reference is a square window with the edge repeated; away from the edges, with square chords, both are the same.
test.each([1, 2, 7, 20])(
  'with a square window of radius %i it equals opencv-js medianBlur',
  async (radius) => {
    const { cv } = await loadOpenCv()
    const [width, height] = [80, 64]
    const raster = noise(width, height, 1, 5 + radius)
    const bytes = Uint8Array.from(raster.data, (value) => Math.round(value * 255))
    const [source, out] = [cv.matFromArray(height, width, cv.CV_8UC1, bytes), new cv.Mat()]
    cv.medianBlur(source, out, 2 * radius + 1)
    const chords = new Int32Array(2 * radius + 1).fill(radius)
    const rect = { col: radius, row: radius, width: width - 2 * radius, height: height - 2 * radius }
    const grid = medianGrid(raster, new Uint8Array(width * height).fill(1), chords, rect, 1)
    for (let node = 0; node < grid.values.length; node++) {
      const [col, row] = [rect.col + (node % grid.cols), rect.row + Math.floor(node / grid.cols)]
      expect(Math.round(grid.values[node]! * 255)).toBe(out.data[row * width + col])
    }
    for (const mat of [source, out]) mat.delete()
  },
)

test('discs of radius 1.5 and 2.9 are the squares of 3 and 5 px: there the fill and the reference agree whole', async () => {
  expect([...discChords(1.5)]).toEqual([1, 1, 1])
  expect([...discChords(2.9)]).toEqual([2, 2, 2, 2, 2])
})

const mote = flattenEllipse(40, 36, 12, 10, 0)
const soft = { featherOutPx: 15, featherInPx: 0, growPx: 0 }

// Common practice, no source: radius 25 px inside a 15 px feather takes a soft mote off at HD; radius 0 brings it back.
test('radius 25 px with a 15 px feather hides a soft mote on a sky; radius 0 brings it back', () => {
  const sky = (x: number, y: number, c: number) => 0.4 + 0.1 * c + y / 600 + x / 900
  const dark = (x: number, y: number) => 0.12 * Math.exp(-((x - 40) ** 2 + (y - 36) ** 2) / 50)
  const plate = paintRaster(90, 80, (x, y, c) => sky(x, y, c) - dark(x, y))
  const input = closedInput(plate, mote, soft)
  const run = (radiusPx: number) => {
    const result = completed(median.run(input, { radiusPx }, never))
    if (!result.ok) throw new Error(result.detail)
    let worst = 0
    for (let i = 0; i < input.field.count; i++) {
      const [x, y] = [(input.field.pixels[i]! % 90) + 0.5, Math.floor(input.field.pixels[i]! / 90) + 0.5]
      const own = plate.data[input.field.pixels[i]! * 3]!
      const mended = own + input.wanted[i]! * (result.values[i * 3]! - own)
      worst = Math.max(worst, Math.abs(mended - sky(x, y, 0)))
    }
    return worst
  }
  expect(run(25)).toBeLessThan(0.02) // a sixth of the mote's depth, in its tail beyond the drawn area
  expect(run(0)).toBeGreaterThan(0.1)
})

test('an edge that passes behind stays an edge', () => {
  const edge = (x: number) => (x < 40 ? 0.2 : 0.8)
  const plate = paintRaster(90, 80, (x, y) => (Math.hypot(x - 40, y - 36) < 8 ? 0.5 : edge(x)), 1)
  const input = closedInput(plate, flattenEllipse(40, 36, 9, 9, 0))
  const result = completed(median.run(input, { radiusPx: 20 }, never))
  if (!result.ok) throw new Error(result.detail)
  for (let i = 0; i < input.field.count; i++) {
    const x = (input.field.pixels[i]! % 90) + 0.5
    // The grid of a 20 px disc has a node every 2 px.
    if (input.wanted[i]! === 1 && Math.abs(x - 40) > 3)
      expect(Math.abs(result.values[i]! - edge(x))).toBeLessThan(0.01)
  }
})

test('the middle of a wide area, out of reach of the disc, is bridged; a disc that reaches nothing says so', () => {
  const plate = paintRaster(120, 100, (x, y) => (Math.hypot(x - 60, y - 50) < 45 ? 9 : 0.3), 1)
  const wide = closedInput(plate, flattenEllipse(60, 50, 46, 46, 0))
  const result = completed(median.run(wide, { radiusPx: 8 }, never))
  if (!result.ok) throw new Error(result.detail)
  const middle = [...wide.field.pixels].indexOf(50 * 120 + 60)
  expect(result.values[middle]).toBeCloseTo(0.3, 2)
  const whole = closedInput(plate, [-20, -20, 150, -20, 150, 130, -20, 130])
  expect(completed(median.run(whole, { radiusPx: 8 }, never))).toMatchObject({
    ok: false,
    reason: 'nothing-known',
  })
  expect(wholePicture(plate).width).toBe(120)
})
