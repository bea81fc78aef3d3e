import { createPathCurve } from '../geometry/pathCurve'
import { flattenEllipse } from '../geometry/outline'
import { IDENTITY } from '../geometry/transform'
import { createRaster, type Raster } from '../image/raster'
import { samplesFromRaster } from '../image/samples'
import { measurePathField } from '../matte/pathField'
import { measurePolygonField } from '../matte/polygonMatte'
import { grainAt, grainOver } from './grain'
import { grainLevelAt, measureGrain } from './grainModel'
import { GRAIN_BINS } from './grainSizes'

const FINE_STEP = 1 / 65535
const STEP = 1 / 255
const [WIDTH, HEIGHT] = [160, 140]
const rect = { col: 0, row: 0, width: WIDTH, height: HEIGHT }
const pixels = Int32Array.from({ length: WIDTH * HEIGHT }, (_, i) => i)
const field = measurePolygonField(flattenEllipse(80, 70, 40, 34, 0), rect, 26)

/** A scene with grain on it, rounded to 8 bits. */
function frameOf(
  frame: number,
  scene: (x: number, y: number) => number,
  level: (value: number) => number,
  coarsePx: number,
): Raster {
  const raster = createRaster(WIDTH, HEIGHT, 1)
  const grain = grainOver(9, frame, rect, pixels, 1, coarsePx)
  for (let i = 0; i < raster.data.length; i++) {
    const value = scene((i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5)
    raster.data[i] = Math.round((value + level(value) * grain[i]!) / STEP) * STEP
  }
  return raster
}

test('the level around a path is measured through flat colour, ramps and a hard edge', () => {
  const raster = createRaster(120, 120, 2)
  const LEVEL = [0.01, 0.03] as const
  for (let row = 0; row < 120; row++)
    for (let col = 0; col < 120; col++)
      for (let channel = 0; channel < 2; channel++) {
        const scene = 0.3 + col / 400 + (row > 80 ? 0.4 : 0)
        raster.data[(row * 120 + col) * 2 + channel] =
          scene + LEVEL[channel]! * grainAt(9, 1, col, row, channel)
      }
  const curve = createPathCurve([
    { x: 40, y: -5, widthPx: 6 },
    { x: 70, y: 125, widthPx: 6 },
  ])
  const whole = { col: 0, row: 0, width: 120, height: 120 }
  const model = measureGrain(raster, whole, measurePathField(curve, whole, 14), 2, null, FINE_STEP)
  LEVEL.forEach((level, channel) =>
    expect(Math.abs(grainLevelAt(model, channel, 0.45) / level - 1)).toBeLessThan(0.1),
  )
  expect(model.coarsePx).toBeLessThan(0.35)
})

test.each([0, 0.5, 0.8])(
  'on 8-bit texture at rest, grain of coarseness %f is told from the frames beside',
  (coarsePx) => {
    const texture = (x: number, y: number) => 0.45 + 0.25 * Math.sin(x / 2.1) * Math.cos(y / 1.7) // far stronger than the grain
    const level = () => 1.6 * STEP
    const beside = [1, 3].map((frame) => ({
      picture: samplesFromRaster(frameOf(frame, texture, level, coarsePx), 8),
      rect,
      thereFromHere: IDENTITY,
    }))
    const picture = frameOf(2, texture, level, coarsePx)
    const inTime = measureGrain(picture, rect, field, 2, null, STEP, beside)
    expect(Math.abs(grainLevelAt(inTime, 0, 0.45) / (1.6 * STEP) - 1)).toBeLessThan(0.1)
    expect(Math.abs(inTime.coarsePx - coarsePx)).toBeLessThan(0.12)
    // In space alone, texture is taken for grain.
    expect(grainLevelAt(measureGrain(picture, rect, field, 2, null, STEP), 0, 0.45)).toBeGreaterThan(
      2 * grainLevelAt(inTime, 0, 0.45),
    )
  },
)

test.each([0, 0.6])(
  'on texture that drifts by fractions of a px it is told all the same, coarseness %f',
  (coarsePx) => {
    const texture = (x: number, y: number) =>
      0.45 + 0.2 * Math.sin(x / 4.1) * Math.cos(y / 3.7) + 0.05 * Math.sin(x / 2.3 + y / 5)
    const level = () => 1.6 * STEP
    const drifted = (frame: number, dx: number, dy: number) =>
      frameOf(frame, (x, y) => texture(x - dx, y - dy), level, coarsePx)
    const beside = [drifted(1, 0.7, -0.3), drifted(3, -0.7, 0.3)].map((picture) => ({
      picture: samplesFromRaster(picture, 8),
      rect,
      thereFromHere: IDENTITY,
    }))
    const model = measureGrain(drifted(2, 0, 0), rect, field, 2, null, STEP, beside)
    expect(Math.abs(grainLevelAt(model, 0, 0.45) / (1.6 * STEP) - 1)).toBeLessThan(0.1)
    expect(Math.abs(model.coarsePx - coarsePx)).toBeLessThan(0.4)
  },
)

test('grain that differs with brightness is measured for each', () => {
  const scene = (x: number) => (x < 80 ? 0.2 : 0.7)
  const level = (value: number) => (value < 0.5 ? 1 : 3) * STEP
  const beside = [
    { picture: samplesFromRaster(frameOf(1, scene, level, 0), 8), rect, thereFromHere: IDENTITY },
  ]
  const model = measureGrain(frameOf(2, scene, level, 0), rect, field, 2, null, STEP, beside)
  expect(Math.abs(grainLevelAt(model, 0, 0.19) / STEP - 1)).toBeLessThan(0.15)
  expect(Math.abs(grainLevelAt(model, 0, 0.69) / STEP - 3)).toBeLessThan(0.4)
})

test('a frame that was doubled says nothing of grain; nor do places of other mends, nor too few', () => {
  const picture = frameOf(2, () => 0.5, () => 2 * STEP, 0) // prettier-ignore
  const doubled = [{ picture: samplesFromRaster(picture, 8), rect, thereFromHere: IDENTITY }]
  expect(grainLevelAt(measureGrain(picture, rect, field, 2, null, STEP, doubled), 0, 0.5)).toBeGreaterThan(
    1.5 * STEP,
  )
  const all = new Uint8Array(WIDTH * HEIGHT).fill(2)
  expect([...measureGrain(picture, rect, field, 2, all, STEP).levels]).toEqual(Array(GRAIN_BINS).fill(0))
})
