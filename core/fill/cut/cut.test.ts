import { completed } from '../method'
import { wholePicture } from '../../image/rect'
import { NEVER } from '../method'
import { defaultsOf } from '../registry'
import { closedInput, paintRaster, stillAt } from '../../../tests/fixtures/sampleInput'
import { cut } from './cut'

const GOES_ON = { shouldStop: () => false }
const SQUARE = [10, 10, 30, 10, 30, 26, 10, 26]
const plate = paintRaster(40, 36, (x, y, channel) => 0.1 + x / 80 + y / 120 + channel / 20)
const run = (params: Record<string, unknown>, over = {}) =>
  completed(cut.run(closedInput(plate, SQUARE, undefined, over), { ...defaultsOf(cut), ...params }, GOES_ON))

test('with nothing behind, every wanted pixel is a hole and the colours under it stay the plate’s', () => {
  const input = closedInput(plate, SQUARE)
  const result = run({})
  if (!result.ok) throw new Error(result.detail)
  for (let i = 0; i < input.field.count; i++) {
    expect(result.holes![i]).toBe(input.wanted[i]! > 0 ? 1 : 0)
    for (let c = 0; c < 3; c++)
      expect(result.values[i * 3 + c]).toBe(plate.data[input.field.pixels[i]! * 3 + c])
  }
})

test('a colour stands in its code values, wanted pixels only, and no grain is asked for', () => {
  const input = closedInput(plate, SQUARE)
  const result = run({ behind: 'colour', colour: '#ff8000' })
  if (!result.ok) throw new Error(result.detail)
  expect(result.holes).toBeUndefined()
  for (let i = 0; i < input.field.count; i++) {
    const pixel = [0, 1, 2].map((c) => result.values[i * 3 + c]! * 255)
    if (input.wanted[i]! > 0) pixel.forEach((value, c) => expect(value).toBeCloseTo([255, 128, 0][c]!, 3))
    expect(result.grainKept[i]).toBe(1)
  }
})

test('a still shows its own pixel at every place; without one the fill says what is missing', () => {
  const still = paintRaster(40, 36, (x, y) => (x * 7 + y * 3) / 500)
  const input = closedInput(plate, SQUARE, undefined, { still: stillAt(still) })
  const result = run({ behind: 'still', still: 'sky.png' }, { still: stillAt(still) })
  if (!result.ok) throw new Error(result.detail)
  for (let i = 0; i < input.field.count; i++) {
    if (input.wanted[i]! > 0)
      // Stills are read at 16 bits.
      expect(Math.abs(result.values[i * 3 + 1]! - still.data[input.field.pixels[i]! * 3 + 1]!)).toBeLessThan(
        1 / 65535,
      )
  }
  expect(run({ behind: 'still' })).toMatchObject({
    ok: false,
    reason: 'no-source',
    detail: expect.stringMatching(/still .* is missing/),
  })
})

test('an alpha channel of the plate is left alone by a colour', () => {
  const four = paintRaster(40, 36, (_, __, channel) => (channel === 3 ? 0.5 : 0.2), 4)
  const input = closedInput(four, SQUARE)
  const result = completed(
    cut.run(input, { ...defaultsOf(cut), behind: 'colour', colour: '#ffffff' }, GOES_ON),
  )
  if (!result.ok) throw new Error(result.detail)
  for (let i = 0; i < input.field.count; i++) expect(result.values[i * 4 + 3]).toBe(0.5)
})

test('what it needs follows from its parameters; it looks at nothing around, and stops when told to', () => {
  const of = (params: Record<string, unknown>) => ({ ...defaultsOf(cut), ...params })
  expect([cut.needsStill!(of({})), cut.needsStill!(of({ behind: 'still', still: 'a.png' })), cut.needsStill!(of({ behind: 'colour', still: 'a.png' }))]).toEqual([null, { of: 'a.png', corners: null, on: null }, null]) // prettier-ignore
  expect([cut.makesHoles!(of({})), cut.makesHoles!(of({ behind: 'colour' }))]).toEqual([true, false])
  expect(cut.reach(of({}), 0)).toEqual({ marginPx: 0 })
  expect(cut.params.safeParse({ colour: 'red' }).success).toBe(false)
  const taboo = new Uint8Array(40 * 36).fill(NEVER)
  expect(completed(cut.run(closedInput(plate, SQUARE, undefined, { taboo, rect: wholePicture(plate) }), of({}), { shouldStop: () => true }))).toMatchObject({ ok: false, reason: 'stopped' }) // prettier-ignore
})
