import { createRandom } from '../../tests/random'
import { withKernelMemory } from '../kernels/memory'
import {
  createSamples,
  cropSamples,
  differingRect,
  floatsFromSamplesInto,
  maximumOf,
  pasteSamplesInto,
  rgba8FromSamples,
  rgba8WithAlpha,
  sampleFromFloat,
  samplesFromRaster,
} from './samples'

test.each([8, 16] as const)('every %i-bit sample survives the way to floats and back', (bitDepth) => {
  const samples = createSamples(bitDepth === 8 ? 16 : 256, bitDepth === 8 ? 16 : 256, 1, bitDepth)
  for (let i = 0; i < samples.data.length; i++) samples.data[i] = i
  const floats = new Float32Array(samples.data.length)
  withKernelMemory(samples.data.length * 8, (scope) => floatsFromSamplesInto(floats, samples.data, scope))
  const maximum = maximumOf(samples.data)
  // The plain twin of the kernel: one division, rounded to 32 bits.
  expect(floats).toEqual(Float32Array.from(samples.data, (value) => value / maximum))
  expect(samplesFromRaster({ ...samples, data: floats }, bitDepth).data).toEqual(samples.data)
})

test.each([8, 16] as const)(
  '%i-bit samples from floats are the nearest, from the kernel as one by one',
  (bitDepth) => {
    const random = createRandom(bitDepth)
    const data = Float32Array.from({ length: 997 }, () => 1.4 * random() - 0.2)
    data.set([NaN, -Infinity, Infinity, 0.5 / 255, 1.5 / 255, 0.5 / 65535])
    const { data: samples } = samplesFromRaster({ width: 997, height: 1, channels: 1, data }, bitDepth)
    const maximum = maximumOf(samples)
    expect([...samples]).toEqual(Array.from(data, (value) => sampleFromFloat(value, maximum) || 0))
  },
)

test('values beyond the range become its ends', () => {
  expect([-0.2, 0, 0.5, 1, 1.7].map((value) => sampleFromFloat(value, 255))).toEqual([0, 0, 128, 255, 255])
})

test('a crop pasted back changes nothing, and elsewhere it lands where it is told', () => {
  const picture = createSamples(4, 3, 2, 8)
  picture.data.forEach((_, i) => (picture.data[i] = i))
  const rect = { col: 1, row: 1, width: 2, height: 2 }
  const crop = cropSamples(picture, rect)
  expect([...crop.data]).toEqual([10, 11, 12, 13, 18, 19, 20, 21])
  const copy = { ...picture, data: picture.data.slice() }
  pasteSamplesInto(copy, crop, rect)
  expect(copy.data).toEqual(picture.data)
  pasteSamplesInto(copy, crop, { ...rect, col: 0, row: 0 })
  expect([...copy.data.slice(0, 4)]).toEqual([10, 11, 12, 13])
  expect(() => cropSamples(picture, { ...rect, col: 3 })).toThrow('rect must lie inside 4 × 3')
})

test('a canvas gets the top eight bits, opaque, with or without alpha', () => {
  expect([
    ...rgba8FromSamples({ width: 1, height: 1, channels: 3, data: Uint16Array.of(0x12ff, 0xff00, 0x00ff) }),
  ]).toEqual([0x12, 0xff, 0, 255])
  expect([
    ...rgba8FromSamples({ width: 1, height: 1, channels: 4, data: Uint8Array.of(1, 2, 3, 4) }),
  ]).toEqual([1, 2, 3, 255])
})

test.each([
  [8, 3],
  [8, 4],
  [16, 3],
  [16, 4],
] as const)(
  'a picture of %i-bit samples in %i channels: the top bits, opaque, whatever its size',
  (bitDepth, channels) => {
    for (let width = 1; width <= 9; width++) {
      const samples = createSamples(width, 1, channels, bitDepth)
      for (let i = 0; i < samples.data.length; i++)
        samples.data[i] = (i * 9973 + 251) % (bitDepth === 8 ? 256 : 65536)
      const top = Array.from(samples.data, (value) => (bitDepth === 8 ? value : value >> 8))
      // The plain twin of the kernel.
      const plain = Array.from({ length: width }, (_, i) => [
        ...top.slice(i * channels, i * channels + 3),
        255,
      ])
      expect([...rgba8FromSamples(samples)]).toEqual(plain.flat())
    }
  },
)

test('a picture takes an alpha of its own', () => {
  const samples = { width: 2, height: 1, channels: 3, data: Uint8Array.of(1, 2, 3, 4, 5, 6) }
  const alpha = { width: 2, height: 1, channels: 1, data: Uint8Array.of(0, 200) }
  expect([...rgba8WithAlpha(samples, alpha)]).toEqual([1, 2, 3, 0, 4, 5, 6, 200])
})

test('where two pictures differ lies in the smallest rectangle around all that does', () => {
  const random = createRandom(4)
  for (let i = 0; i < 200; i++) {
    const [one, other] = [createSamples(9, 7, 3, 16), createSamples(9, 7, 3, 16)]
    const places = Array.from(
      { length: i % 5 },
      () => [Math.floor(9 * random()), Math.floor(7 * random())] as const,
    )
    for (const [col, row] of places) other.data[3 * (9 * row + col) + Math.floor(3 * random())] = 1
    const [cols, rows] = [places.map(([col]) => col), places.map(([, row]) => row)]
    const [col, row] = [Math.min(...cols), Math.min(...rows)]
    const around = { col, row, width: Math.max(...cols) + 1 - col, height: Math.max(...rows) + 1 - row }
    expect(differingRect(one, other)).toEqual(places.length > 0 ? around : null)
  }
})
