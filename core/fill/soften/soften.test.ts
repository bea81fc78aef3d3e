import { completed } from '../method'
import { loadOpenCv } from '../../../evaluation/opencv'
import { NEVER } from '../method'
import { closedInput, paintRaster } from '../../../tests/fixtures/sampleInput'
import { soften } from './soften'

const GOES_ON = { shouldStop: () => false }
const [WIDTH, HEIGHT] = [96, 80]
const MIDDLE = [36, 28, 60, 28, 60, 52, 36, 52]
const plate = paintRaster(
  WIDTH,
  HEIGHT,
  (x, y, channel) => Math.round(127 + 60 * Math.sin(x / 3 + channel) + 50 * Math.cos(y / 5 + x / 11)) / 255,
)

function softened(radiusPx: number, over = {}) {
  const input = closedInput(plate, MIDDLE, undefined, over)
  const result = completed(soften.run(input, { radiusPx }, GOES_ON))
  if (!result.ok) throw new Error(result.detail)
  return { input, ...result }
}

/** Reference: OpenCV (opencv-js from the registry), GaussianBlur in floats with half the radius as deviation. */
test.each([3, 8, 12])('inside the picture it equals opencv-js GaussianBlur, radius %i', async (radiusPx) => {
  const { cv } = await loadOpenCv()
  const [from, to] = [cv.matFromArray(HEIGHT, WIDTH, cv.CV_32FC3, plate.data), new cv.Mat()]
  cv.GaussianBlur(from, to, new cv.Size(0, 0), radiusPx / 2, radiusPx / 2, cv.BORDER_REPLICATE)
  const theirs = Float32Array.from(to.data32F as Float32Array)
  from.delete()
  to.delete()
  const { input, values } = softened(radiusPx)
  let worst = 0
  for (let i = 0; i < input.field.count; i++) {
    if (input.wanted[i] === 0) continue
    for (let c = 0; c < 3; c++)
      worst = Math.max(worst, Math.abs(values[i * 3 + c]! - theirs[input.field.pixels[i]! * 3 + c]!))
  }
  expect(worst).toBeLessThan(1.5 / 255) // both cut the tails of the Gauss curve, each in its own place
})

test('what must never be taken stays out: the rest alone is averaged', () => {
  const taboo = new Uint8Array(WIDTH * HEIGHT)
  const spoiled = { ...plate, data: plate.data.slice() }
  for (let i = 0; i < taboo.length; i++) {
    if (i % WIDTH <= 62) continue
    taboo[i] = NEVER
    spoiled.data.fill(9, i * 3, i * 3 + 3)
  }
  const input = closedInput(spoiled, MIDDLE, undefined, { taboo })
  const result = completed(soften.run(input, { radiusPx: 12 }, GOES_ON))
  if (!result.ok) throw new Error(result.detail)
  for (let i = 0; i < input.field.count; i++)
    if (input.wanted[i]! > 0) expect(result.values[i * 3]).toBeLessThan(1)
})

test('radius 0 shows the plate; more is softer, and says how much of the grain is left', () => {
  const none = softened(0)
  none.values.forEach((value, k) =>
    expect(value).toBe(plate.data[none.input.field.pixels[Math.floor(k / 3)]! * 3 + (k % 3)]),
  )
  const spread = (radiusPx: number) => {
    const { input, values } = softened(radiusPx)
    const inside = Array.from(values).filter((_, k) => k % 3 === 0 && input.wanted[k / 3]! > 0.9)
    return Math.max(...inside) - Math.min(...inside)
  }
  expect(spread(4)).toBeGreaterThan(spread(10))
  expect(spread(10)).toBeGreaterThan(spread(30))
  // Of white noise, a Gaussian of deviation s keeps 1 / (4 pi s^2) of the variance, s well above a pixel.
  const { grainKept, input } = softened(12)
  const entry = Array.from(input.wanted).findIndex((value) => value === 1)
  expect(grainKept[entry]).toBeCloseTo(1 / (4 * Math.PI * 36), 3)
})

test('it stops when told to', () => {
  expect(
    completed(soften.run(closedInput(plate, MIDDLE), { radiusPx: 8 }, { shouldStop: () => true })),
  ).toMatchObject({
    ok: false,
    reason: 'stopped',
  })
})
