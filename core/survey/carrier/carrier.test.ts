/** Damage of film, tape and sensor, planted on a textured wall that a camera pans over. */
import { createSamples, type Samples } from '../../image/samples'
import { createRandom } from '../../../tests/random'
import { surveyCarrier, type CarrierPart } from './carrier'
import { carrierFinds } from './carrierFinds'
import { damageOf } from './damage'

const [WIDTH, HEIGHT, FRAMES] = [200, 150, 14]
const range = { firstFrame: 1001, lastFrame: 1000 + FRAMES }
/** A wall larger than the picture, blurred so that it can be read between pixels. */
const WALL = 320
const wall = (() => {
  const random = createRandom(5)
  const rough = Float32Array.from({ length: WALL * WALL }, () => 60 + 130 * random())
  const soft = new Float32Array(rough.length)
  for (let row = 2; row < WALL - 2; row++)
    for (let col = 2; col < WALL - 2; col++) {
      let sum = 0
      for (let j = -2; j <= 2; j++) for (let i = -2; i <= 2; i++) sum += rough[(row + j) * WALL + col + i]!
      soft[row * WALL + col] = sum / 25
    }
  return soft
})()

/** The wall panned over by 2.5 px a frame, with grain. */
function frameOf(index: number, gain = 1): Samples {
  const random = createRandom(900 + index)
  const out = createSamples(WIDTH, HEIGHT, 3, 8)
  const shift = 2.5 * index
  const [whole, part] = [Math.floor(shift), shift - Math.floor(shift)]
  for (let row = 0; row < HEIGHT; row++)
    for (let col = 0; col < WIDTH; col++) {
      const at = (row + 10) * WALL + col + whole + 4
      const value = gain * ((1 - part) * wall[at]! + part * wall[at + 1]!) + 2 * (random() + random() - 1)
      out.data.fill(Math.round(value), 3 * (row * WIDTH + col), 3 * (row * WIDTH + col) + 3)
    }
  return out
}

const add = ({ data }: Samples, col: number, row: number, by: number) => {
  for (let c = 0; c < 3; c++) {
    const at = 3 * (row * WIDTH + col) + c
    data[at] = Math.min(255, Math.max(0, data[at]! + by))
  }
}

function surveyed(
  spoil: (samples: Samples, frame: number) => void,
  gain?: (frame: number) => number,
): CarrierPart {
  const survey = surveyCarrier(range.firstFrame)
  for (let index = 0; index < FRAMES; index++) {
    const samples = frameOf(index, gain?.(1001 + index))
    spoil(samples, 1001 + index)
    survey.add(samples)
  }
  return survey.finish()
}

const findsOf = (part: CarrierPart) => carrierFinds(part, { width: WIDTH, height: HEIGHT }, range)

test('a clean pan has nothing', () => {
  const part = surveyed(() => undefined)
  expect(findsOf(part)).toEqual([])
  expect(part.flashes).toEqual([])
  expect(part.flickerStops).toBe(0)
})

test('dirt that lives one frame is found where it is, with its size and turn; what goes with the picture is none', () => {
  const part = surveyed((samples, frame) => {
    // A square of 5 px, a hair of 17 x 3 px at 45 degrees, and a dark thing on the wall, there on all frames.
    if (frame === 1004)
      for (let j = 0; j < 5; j++) for (let i = 0; i < 5; i++) add(samples, 60 + i, 40 + j, 70)
    if (frame === 1009)
      for (let i = 0; i < 12; i++) for (let j = -1; j <= 1; j++) add(samples, 100 + i, 90 + i + j, -60)
    const x = Math.round(150 - 2.5 * (frame - 1001))
    for (let j = 0; j < 5; j++) for (let i = 0; i < 5; i++) add(samples, x + i, 20 + j, -60)
  })
  expect(part.specks.map(({ frame }) => frame)).toEqual([1004, 1009])
  const [square, hair] = part.specks as [CarrierPart['specks'][number], CarrierPart['specks'][number]]
  expect(Math.hypot(square.x - 62.5, square.y - 42.5)).toBeLessThan(0.6)
  expect(square.widthPx + square.lengthPx).toBeGreaterThan(4)
  expect(square.widthPx + square.lengthPx).toBeLessThan(8)
  expect(Math.hypot(hair.x - 106, hair.y - 96)).toBeLessThan(1)
  expect(Math.abs(hair.turnDeg - 45)).toBeLessThan(6)
  expect(hair.lengthPx + hair.widthPx).toBeGreaterThan(14)
  const [find] = findsOf(part)
  expect(find).toMatchObject({ kind: 'specks', firstFrame: 1004, lastFrame: 1009, specks: [{}, {}] })
})

test('a lamp that twinkles on the wall is no dirt', () => {
  const part = surveyed((samples, frame) => {
    const x = Math.round(120 - 2.5 * (frame - 1001))
    if (frame % 3 === 0)
      for (let j = 0; j < 3; j++) for (let i = 0; i < 3; i++) add(samples, x + i, 50 + j, 80)
  })
  expect(part.specks).toEqual([])
})

test('a scratch that sways is a line with its sway; a bad column and row are pixels; a line of a tape is a speck', () => {
  const swayed = (frame: number) => 60.5 + 2 * Math.sin((frame - 1001) / 2)
  const part = surveyed((samples, frame) => {
    for (let row = 0; row < HEIGHT; row++) {
      const x = swayed(frame)
      for (let col = Math.floor(x) - 2; col <= x + 2; col++)
        add(samples, col, row, Math.round(30 * Math.max(0, 1 - Math.abs(col + 0.5 - x) / 1.5)))
      add(samples, 130, row, -16)
    }
    for (let col = 0; col < WIDTH; col++) {
      add(samples, col, 100, 18)
      if (frame === 1006) for (const row of [30, 31]) add(samples, col, row, 60)
    }
  })
  const { bad, scratches, tape } = damageOf(part, { width: WIDTH, height: HEIGHT }, range)
  expect(bad.map(({ axis, at, widthPx }) => [axis, at, widthPx])).toEqual([['x', 130.5, 1], ['y', 100.5, 1]]) // prettier-ignore
  expect(scratches).toHaveLength(1)
  for (const { frame, x } of scratches[0]!.keys) expect(Math.abs(x - swayed(frame))).toBeLessThan(0.5)
  expect(tape).toHaveLength(1)
  expect([tape[0]!.frame, Math.round(tape[0]!.y)]).toEqual([1006, 31])
  expect(findsOf(part).map(({ kind, id }) => `${kind} ${id}`)).toEqual(['specks specks-1006', 'pixel column-130', 'pixel row-100', expect.stringMatching(/^line scratch-6\d-1001$/)]) // prettier-ignore
})

test('a flash is told with its stops, and light that flickers by its deviation', () => {
  const flash = surveyed(() => undefined, (frame) => (frame === 1006 || frame === 1007 ? 1.25 : 1)) // prettier-ignore
  expect(flash.flashes).toHaveLength(1)
  expect(flash.flashes[0]).toMatchObject({ firstFrame: 1006, lastFrame: 1007 })
  // Code values times 1.25 are about 2.2 times as many stops of light, by the curve of sRGB.
  expect(Math.abs(flash.flashes[0]!.stops - 2.2 * Math.log2(1.25))).toBeLessThan(0.1)
  expect(flash.specks).toEqual([])
  const random = createRandom(3)
  const gains = Array.from({ length: FRAMES }, () => 1 + 0.06 * (random() - 0.5))
  const flicker = surveyed(() => undefined, (frame) => gains[frame - 1001]!) // prettier-ignore
  // Uniform values over a width of 1 deviate by the root of 1/12.
  const expected = 2.2 * Math.log2(1 + 0.06 / Math.sqrt(12))
  expect(flicker.flickerStops).toBeGreaterThan(0.5 * expected)
  expect(flicker.flickerStops).toBeLessThan(1.8 * expected)
})
