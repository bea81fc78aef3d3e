import { createSamples, type BitDepth } from '../image/samples'
import { countChangedOutside } from './changedOutside'

test.each([8, 16] as const)(
  'counts samples that differ where nothing was mended, to one code value (%i bits)',
  (bits: BitDepth) => {
    const [plate, finished] = [createSamples(5, 4, 3, bits), createSamples(5, 4, 3, bits)]
    const mended = new Uint8Array(20)
    mended[7] = 1
    finished.data[3 * 7] = 200 // mended: it may
    expect(countChangedOutside(plate, finished, mended)).toBe(0)
    finished.data[3 * 8 + 2] = 1
    finished.data[3 * 19] = 3
    expect(countChangedOutside(plate, finished, mended)).toBe(2)
  },
)

test('samples that do not begin at a whole word, or end within one, are counted too', () => {
  for (const count of [5, 6, 7, 8]) {
    const whole = new Uint8Array(3 * count + 3)
    const plate = { width: count, height: 1, channels: 3, data: whole.subarray(1, 1 + 3 * count) } as const
    const finished = { ...plate, data: Uint8Array.from(plate.data) }
    finished.data[0] = 1
    finished.data[3 * count - 1] = 1
    expect(countChangedOutside(plate, finished, new Uint8Array(count))).toBe(2)
    expect(countChangedOutside(finished, plate, Uint8Array.from({ length: count }, (_, i) => (i === 0 ? 1 : 0)))).toBe(1) // prettier-ignore
  }
})

test('alpha counts where it is not full; another size is refused', () => {
  const plate = createSamples(2, 1, 3, 8)
  const finished = createSamples(2, 1, 4, 8)
  finished.data[3] = 255
  expect(countChangedOutside(plate, finished, new Uint8Array(2))).toBe(1)
  expect(countChangedOutside(plate, finished, Uint8Array.of(0, 1))).toBe(0)
  expect(() => countChangedOutside(plate, createSamples(1, 1, 3, 8), new Uint8Array(2))).toThrow(RangeError)
})
