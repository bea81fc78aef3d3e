import { IDENTITY, translationBy } from '../geometry/transform'
import { createRaster, type Raster } from '../image/raster'
import { samplesFromRaster } from '../image/samples'
import { findDrift, MAX_DRIFT_PX } from './drift'
import { grainAt } from './grain'

const [WIDTH, HEIGHT] = [120, 100]
const rect = { col: 40, row: 20, width: WIDTH, height: HEIGHT }
const BUMPS = [[0.31, 0.12, 0.4], [-0.09, 0.27, 1.9], [0.17, -0.21, 3.1], [0.05, 0.06, 0.2]] as const // prettier-ignore
const texture = (x: number, y: number) =>
  BUMPS.reduce((sum, [fx, fy, phase]) => sum + 0.07 * Math.sin(fx * x + fy * y + phase), 0.45)

/** The texture, moved by so much, with grain of its own. */
function frame(number: number, dx: number, dy: number, grain: number, scene = texture): Raster {
  const raster = createRaster(WIDTH, HEIGHT, 3)
  for (let i = 0; i < raster.data.length; i++) {
    const [col, row] = [Math.floor(i / 3) % WIDTH, Math.floor(i / 3 / WIDTH)]
    raster.data[i] =
      scene(rect.col + col + 0.5 - dx, rect.row + row + 0.5 - dy) +
      grain * grainAt(3, number, col, row, i % 3)
  }
  return raster
}

const places = Int32Array.from(
  { length: 1200 },
  (_, i) => (12 + (i % 40) * 2) * WIDTH + 14 + Math.floor(i / 40) * 3,
)

test.each([
  [0, 0],
  [0.5, 0],
  [-0.3, 0.7],
  [2.25, -1.5],
  [-6.4, 5.1],
])('a drift of %f, %f px is found through grain', (dx, dy) => {
  // prettier-ignore
  const found = findDrift(frame(1, 0, 0, 0.01), rect, places, { picture: samplesFromRaster(frame(2, dx, dy, 0.01), 8), rect, thereFromHere: IDENTITY })
  expect(Math.hypot(found.dx - dx, found.dy - dy)).toBeLessThan(0.05)
})

test('what is known of the motion is taken off; the other window may lie elsewhere', () => {
  const there = { ...rect, col: rect.col + 3 }
  const picture = createRaster(WIDTH, HEIGHT, 3)
  for (let i = 0; i < picture.data.length; i++)
    picture.data[i] = texture(
      there.col + (Math.floor(i / 3) % WIDTH) + 0.5 - 4.25,
      there.row + Math.floor(i / 3 / WIDTH) + 0.5 - 1,
    )
  const found = findDrift(frame(1, 0, 0, 0), rect, places, {
    picture: samplesFromRaster(picture, 16),
    rect: there,
    thereFromHere: translationBy(4, 1),
  })
  expect(found.dx).toBeCloseTo(0.25, 1)
  expect(found.dy).toBeCloseTo(0, 1)
})

test('things that move by themselves in a quarter of the places are overruled', () => {
  const picture = frame(2, 0.6, 0, 0.005)
  for (let i = 0; i < picture.data.length; i++)
    if (Math.floor(i / 3) % WIDTH > 80) picture.data[i] = texture((i % 977) * 1.7, i % 13)
  const found = findDrift(frame(1, 0, 0, 0.005), rect, places, {
    picture: samplesFromRaster(picture, 16),
    rect,
    thereFromHere: IDENTITY,
  })
  expect(Math.hypot(found.dx - 0.6, found.dy)).toBeLessThan(0.1)
})

test('flat colour, stripes along their own way, and windows apart lead nowhere', () => {
  const beside = (picture: Raster) => ({
    picture: samplesFromRaster(picture, 16),
    rect,
    thereFromHere: IDENTITY,
  })
  const flat = findDrift(frame(1, 0, 0, 0, () => 0.5), rect, places, beside(frame(2, 1, 0, 0, () => 0.5))) // prettier-ignore
  expect(flat).toEqual({ dx: 0, dy: 0 })
  const stripes = (x: number) => 0.5 + 0.2 * Math.sin(x / 2)
  const along = findDrift(frame(1, 0, 0, 0, stripes), rect, places, beside(frame(2, 2, 0.5, 0, stripes)))
  expect([along.dx, along.dy]).toEqual([2, 0])
  const apart = findDrift(frame(1, 0, 0, 0), rect, places, {
    ...beside(frame(2, 0, 0, 0)),
    thereFromHere: translationBy(500, 0),
  })
  expect(Math.max(Math.abs(apart.dx), Math.abs(apart.dy))).toBeLessThanOrEqual(MAX_DRIFT_PX)
})
