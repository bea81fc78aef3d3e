import { createRandom } from '../../tests/random'
import type { Samples } from '../image/samples'
import { countClip } from './clipStatistics'

const [WIDTH, HEIGHT] = [7, 5]
const SHAPE = { width: WIDTH, height: HEIGHT, channels: 3 }

function clip(frames: number, bits: 8 | 16): Samples[] {
  const random = createRandom(frames + bits)
  const count = WIDTH * HEIGHT * 3
  return Array.from({ length: frames }, () => {
    const values = Array.from({ length: count }, () => Math.floor(random() * 2 ** bits))
    return { ...SHAPE, data: bits === 8 ? Uint8Array.from(values) : Uint16Array.from(values) }
  })
}

// However many frames are counted at once, sums of whole numbers are exact.
test.each(
  [1, 2, 3, 4, 5, 8, 11].flatMap(
    (frames) =>
      [
        [frames, 8],
        [frames, 16],
      ] as const,
  ),
)('mean and variance of %d frames of %d bits are those of their definition', (frames, bits) => {
  const all = clip(frames, bits)
  const counter = countClip(SHAPE)
  for (const frame of all) counter.add(frame)
  const { mean, variance, first, frames: counted } = counter.finish()
  expect(counted).toBe(frames)
  const max = 2 ** bits - 1
  for (let i = 0; i < mean.length; i++) {
    const values = all.map(({ data }) => data[i]! / max)
    const middle = values.reduce((sum, value) => sum + value, 0) / frames
    expect(mean[i]).toBeCloseTo(middle, 6)
    expect(variance[i]).toBeCloseTo(values.reduce((sum, value) => sum + (value - middle) ** 2, 0) / frames, 6)
    expect(first[i]).toBeCloseTo(values[0]!, 6)
  }
})

test('sums beyond 31 bits are still right: white for nearly half an hour', () => {
  const white: Samples = { width: 1, height: 1, channels: 1, data: Uint8Array.of(255) }
  const black: Samples = { ...white, data: Uint8Array.of(0) }
  const counter = countClip(white)
  const frames = 40_000
  for (let i = 0; i < frames; i++) counter.add(i % 8 === 0 ? black : white)
  const { mean, variance } = counter.finish()
  expect(mean[0]).toBeCloseTo(7 / 8, 6)
  expect(variance[0]).toBeCloseTo(7 / 64, 6)
})

test('a frame of another shape, and no frame at all, are refused', () => {
  expect(() => countClip(SHAPE).finish()).toThrow(RangeError)
  expect(() => countClip(SHAPE).add({ ...SHAPE, width: 8, data: new Uint8Array(120) })).toThrow('7 x 5 x 3')
})
