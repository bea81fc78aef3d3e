import { keysCubic } from '../../tests/fixtures/sampleScene'
import { openFrame, openFrameBytes, joinReadings, type GatherFrame, type Readings } from './reading'
import { withKernelMemory } from '../kernels/memory'
import type { Matrix3 } from '../geometry/transform'
import { apply } from '../geometry/transform'
import { paintRaster } from '../../tests/fixtures/sampleInput'
import { createRandom } from '../../tests/random'

const frameOf = (channels: number, taboo: Uint8Array | null = null): GatherFrame => {
  const next = createRandom(3 + channels)
  return {
    frame: 1002,
    picture: paintRaster(40, 30, () => next(), channels),
    rect: { col: 100, row: 50, width: 40, height: 30 },
    taboo,
    layersFromHere: [],
  }
}

const readAll = (frame: GatherFrame, matrix: Matrix3, places: Float32Array): Readings =>
  withKernelMemory(openFrameBytes(frame, places.length / 2), (scope) =>
    openFrame(frame, scope).read(matrix, places),
  )

const PLACES = Float32Array.from([
  110.5, 60.5, 111.25, 61.5, 120.1, 66.7, 130.9, 70.3, 138.4, 79.2, 101.2, 52.2, 99, 60, 141, 60,
])

describe.each([1, 3, 4])('reading a frame of %i channels through a transform', (channels) => {
  test.each<[string, Matrix3]>([
    ['a shift', [1, 0, 1.37, 0, 1, -0.61, 0, 0, 1]],
    ['a perspective', [1.01, 0.02, -2, -0.01, 0.99, 1.5, 1e-5, -2e-5, 1]],
  ])(
    'by %s gives what the cubic of Keys (1981) gives, and nothing where its footprint leaves the rectangle',
    (_name, matrix) => {
      const frame = frameOf(channels)
      const { values, kept } = readAll(frame, matrix, PLACES)
      for (let k = 0; k < PLACES.length / 2; k++) {
        const at = apply(matrix, PLACES[2 * k]!, PLACES[2 * k + 1]!)
        const expected = keysCubic(frame.picture, at.x - frame.rect.col, at.y - frame.rect.row)
        if (!expected) {
          expect(kept[k]).toBe(-1)
          continue
        }
        expect(kept[k]).toBeCloseTo(expected.kept, 2)
        for (let c = 0; c < channels; c++)
          expect(values[k * channels + c]).toBeCloseTo(expected.values[c]!, 3)
      }
    },
  )

  test('at whole pixels gives the samples themselves, up to the border', () => {
    const frame = frameOf(channels)
    const { values, kept } = readAll(
      frame,
      [1, 0, 5, 0, 1, -3, 0, 0, 1],
      Float32Array.from([95.5, 53.5, 134.5, 82.5]),
    )
    expect([...kept]).toEqual([1, 1])
    for (let c = 0; c < channels; c++) {
      expect(values[c]).toBe(frame.picture.data[c])
      expect(values[channels + c]).toBe(frame.picture.data[(29 * 40 + 39) * channels + c])
    }
  })
})

test('nothing is read whose footprint touches what may not be taken', () => {
  const taboo = new Uint8Array(40 * 30)
  taboo[12 * 40 + 20] = 2
  const frame = frameOf(3, taboo)
  const touching = Float32Array.from([120.5, 62.5, 122.3, 62.5, 118.9, 60.9, 123.5, 62.5])
  // The pixel itself; two to the right between pixels; within two to the left and above; three to the right on a pixel's centre.
  expect([...readAll(frame, [1, 0, 0, 0, 1, 0, 0, 0, 1], touching).kept].map((one) => one > 0)).toEqual([
    false,
    false,
    false,
    true,
  ])
})

describe('joining', () => {
  const frames: Readings[] = [0.2, 0.22, 0.21, 0.9].map((value) => ({
    values: Float32Array.of(value, value),
    kept: Float32Array.of(1, 1),
  }))
  frames[2] = { values: frames[2]!.values, kept: Float32Array.of(1, -1) }

  test('is the mean of what agrees with the weighted median; what is far off has no say', () => {
    const { values, seen, agree } = joinReadings(frames, [1, 1, 1, 1], [0.1])
    // By hand: the median of four is the mean of the middle two, 0.215; weights fall as (1 - (off / 0.1)^2)^2.
    const weight = (value: number) => (1 - ((value - 0.215) / 0.1) ** 2) ** 2
    const [a, b, c] = [0.2, 0.22, 0.21]
    const expected = (a * weight(a) + b * weight(b) + c * weight(c)) / (weight(a) + weight(b) + weight(c))
    expect(values[0]).toBeCloseTo(expected, 6)
    expect([...seen]).toEqual([4, 3])
    expect(agree[0]).toBeCloseTo(0.75, 6)
  })

  test('a frame that says more moves the median to itself', () => {
    expect(joinReadings(frames, [1, 1, 1, 10], [0.1]).values[0]).toBeCloseTo(0.9, 6)
  })

  test('what nobody saw stays 0 and is said to be unseen; the variance that is left falls with the number of frames', () => {
    const none = joinReadings([{ values: Float32Array.of(0.5), kept: Float32Array.of(-1) }], [1], [0.1])
    expect([none.seen[0], none.values[0], none.variance[0]]).toEqual([0, 0, 0])
    const alike = Array.from({ length: 8 }, () => ({
      values: Float32Array.of(0.4),
      kept: Float32Array.of(1),
    }))
    expect(
      joinReadings(
        alike,
        alike.map(() => 1),
        [0.1],
      ).variance[0],
    ).toBeCloseTo(1 / 8, 6)
  })
})
