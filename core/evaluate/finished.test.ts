import { defaultsOf, findFill } from '../fill/registry'
import { createSamples, type Samples } from '../image/samples'
import { finishedChannels, layPatches, leavesHoles } from './finished'
import { sampleEllipse, sampleMend } from '../../tests/fixtures/sampleMend'

const cut = (behind: string, isOn = true) =>
  sampleMend({
    areas: [sampleEllipse()],
    isOn,
    fill: { methodId: 'cut', methodVersion: 1, params: { ...defaultsOf(findFill('cut')!), behind } },
  })

const plateOf = (channels: number, bitDepth: 8 | 16): Samples => {
  const samples = createSamples(4, 2, channels, bitDepth)
  samples.data.forEach((_, i) => (samples.data[i] = 10 + i))
  return samples
}
const rect = { col: 1, row: 0, width: 2, height: 2 }
const piece = (channels: number, bitDepth: 8 | 16) => {
  const samples = createSamples(2, 2, channels, bitDepth)
  samples.data.fill(bitDepth === 8 ? 100 : 40_000)
  const alpha = createSamples(2, 2, 1, bitDepth)
  alpha.data.set(bitDepth === 8 ? [255, 0, 128, 255] : [65535, 0, 32768, 65535])
  return { rect, samples, alpha, mendedRuns: Int32Array.of(0, 4) }
}

test('only a hole asks for an alpha channel, and only where it can be kept', () => {
  expect(leavesHoles([cut('colour'), sampleMend()])).toBe(false)
  expect(leavesHoles([cut('nothing', false)])).toBe(false)
  expect(leavesHoles([cut('nothing')])).toBe(true)
  expect(finishedChannels(3, [cut('nothing')], true)).toBe(4)
  expect(finishedChannels(3, [cut('nothing')], false)).toBe(3)
  expect(finishedChannels(3, [sampleMend()], true)).toBe(3)
  expect(finishedChannels(4, [cut('nothing')], true)).toBe(4)
})

test.each([8, 16] as const)(
  'holes become alpha, straight; everything else is the plate, opaque (%i bits)',
  (bitDepth) => {
    const plate = plateOf(3, bitDepth)
    const maximum = bitDepth === 8 ? 255 : 65535
    const out = layPatches(plate, [piece(3, bitDepth)], 4)
    expect(out.channels).toBe(4)
    const pixel = (col: number, row: number) => [
      ...out.data.slice((row * 4 + col) * 4, (row * 4 + col) * 4 + 4),
    ]
    expect(pixel(0, 0)).toEqual([10, 11, 12, maximum])
    expect(pixel(1, 0)).toEqual([...Array(3).fill(bitDepth === 8 ? 100 : 40_000), maximum])
    expect(pixel(2, 0)[3]).toBe(0)
    expect(pixel(1, 1)[3]).toBe(bitDepth === 8 ? 128 : 32768)
    expect(plate).toEqual(plateOf(3, bitDepth))
  },
)

test('where alpha cannot be kept holes are black; a plate with alpha of its own keeps it and loses what is cut', () => {
  const flat = layPatches(plateOf(3, 8), [piece(3, 8)], 3)
  expect([...flat.data.slice(6, 9)]).toEqual([0, 0, 0])
  expect([...flat.data.slice(3, 6)]).toEqual([100, 100, 100])
  const own = layPatches(plateOf(4, 8), [piece(4, 8)], 4)
  expect([own.data[7], own.data[11], own.data[23]]).toEqual([100, 0, 50])
  const plain = layPatches(plateOf(3, 8), [{ ...piece(3, 8), alpha: null }], 3)
  expect([...plain.data.slice(6, 9)]).toEqual([100, 100, 100])
})
