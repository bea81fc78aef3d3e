/** Taking a mark off is the inverse of laying it over: what was under it comes back to the rounding. */
import fc from 'fast-check'
import { closedInput, paintRaster } from '../../../tests/fixtures/sampleInput'
import { createRaster, type Raster } from '../../image/raster'
import type { MarkPicture } from '../../image/markPicture'
import { completed, type FillInput } from '../method'
import { defaultsOf } from '../registry'
import { unmix } from './unmix'

const [WIDTH, HEIGHT] = [60, 40]
const under = paintRaster(WIDTH, HEIGHT, (x, y, c) => 0.2 + 0.008 * x + 0.004 * y + 0.1 * c)
const outline = [15, 10, 45, 10, 45, 30, 15, 30]
const never = { shouldStop: () => false }

function markOf(opacity: (x: number, y: number) => number, colour: readonly number[]): MarkPicture {
  const [width, height] = [26, 16]
  const mark = {
    width,
    height,
    channels: 3,
    added: new Float32Array(width * height * 3),
    opacity: new Float32Array(width * height),
  }
  for (let at = 0; at < width * height; at++) {
    mark.opacity[at] = opacity((at % width) + 0.5, Math.floor(at / width) + 0.5)
    for (let c = 0; c < 3; c++) mark.added[3 * at + c] = mark.opacity[at]! * colour[c]!
  }
  return mark
}

/** The mark over the picture with its upper left corner at a whole place, by the equation of "over". */
function laidOver(
  picture: Raster,
  { width, height, added, opacity }: MarkPicture,
  left: number,
  top: number,
): Raster {
  const out = createRaster(picture.width, picture.height, 3)
  out.data.set(picture.data)
  for (let at = 0; at < width * height; at++) {
    const pixel = (top + Math.floor(at / width)) * picture.width + left + (at % width)
    for (let c = 0; c < 3; c++)
      out.data[3 * pixel + c] = (1 - opacity[at]!) * out.data[3 * pixel + c]! + added[3 * at + c]!
  }
  return out
}

const settings = { ...defaultsOf(unmix), mark: 'mark:a' }
const inputOf = (picture: Raster, mark: MarkPicture | null, x = 17, y = 12): FillInput =>
  closedInput(picture, outline, undefined, { mark: mark && { picture: mark, x, y } })

function run(input: FillInput, over: Record<string, unknown> = {}) {
  const result = completed(unmix.run(input, { ...settings, ...over }, never))
  if (!result.ok) throw new Error(result.detail)
  return result
}

/** The largest difference from what was under the mark. */
function errorOf(input: FillInput, values: Float32Array): number {
  let max = 0
  for (let i = 0; i < input.field.count; i++) {
    if (input.wanted[i] === 0) continue
    for (let c = 0; c < 3; c++)
      max = Math.max(max, Math.abs(values[3 * i + c]! - under.data[3 * input.field.pixels[i]! + c]!))
  }
  return max
}

test('what was laid over comes off, whatever its opacity and colour', () => {
  const share = fc.double({ min: 0.02, max: 0.85, noNaN: true })
  const level = fc.double({ min: 0, max: 1, noNaN: true })
  fc.assert(
    fc.property(share, fc.tuple(level, level, level), (opacity, colour) => {
      const mark = markOf((x) => (x > 3 && x < 20 ? opacity : 0), colour)
      const input = inputOf(laidOver(under, mark, 17, 12), mark)
      expect(errorOf(input, run(input).values)).toBeLessThan(1e-4)
    }),
    { numRuns: 40 },
  )
})

test('noise is raised by as much as the light was lowered, and said so', () => {
  const mark = markOf(() => 0.5, [1, 1, 1])
  const input = inputOf(laidOver(under, mark, 17, 12), mark)
  const { grainKept } = run(input)
  const inside = input.field.pixels.indexOf(20 * WIDTH + 30)
  expect(grainKept[inside]).toBeCloseTo(4, 3)
})

test('dense and clipped places are filled from what lies around', () => {
  const mark = markOf((x) => (x > 10 && x < 14 ? 0.97 : 0.3), [1, 1, 1])
  const laid = laidOver(under, mark, 17, 12)
  const clipped = 18 * WIDTH + 22
  laid.data.fill(1, 3 * clipped, 3 * clipped + 3)
  const input = inputOf(laid, mark)
  const { values, gathered } = run(input, { unseen: 'membrane' })
  expect(errorOf(input, values)).toBeLessThan(0.02)
  // No frame was asked: nothing is said of what they have seen.
  expect(gathered).toBeUndefined()
})

test('a mark that fades comes off by as much of it as there is', () => {
  const whole = markOf(() => 0.4, [0.9, 0.2, 0.1])
  const faint = {
    ...whole,
    added: whole.added.map((one) => 0.5 * one),
    opacity: whole.opacity.map((one) => 0.5 * one),
  }
  const input = inputOf(laidOver(under, faint, 17, 12), whole)
  expect(errorOf(input, run(input, { opacity: 0.5 }).values)).toBeLessThan(1e-4)
})

test('without a picture of the mark it says what to do', () => {
  expect(completed(unmix.run(inputOf(under, null), settings, never))).toMatchObject({
    ok: false,
    reason: 'no-source',
    detail: expect.stringContaining('Work it out'),
  })
})
