import { keysCubic } from '../../tests/fixtures/sampleScene'
import { paintRaster } from '../../tests/fixtures/sampleInput'
import {
  floatsAt,
  gatherFrameOf,
  placesAt,
  readingPlanes,
  ROOMY_BYTES,
} from '../../tests/fixtures/samplePlaces'
import { createRandom } from '../../tests/random'
import { apply, type Matrix3 } from '../geometry/transform'
import { withKernelMemory } from '../kernels/memory'
import { openFrame, type GatherFrame } from './places'

const RECT = { col: 100, row: 50, width: 40, height: 30 }
const pictureOf = (channels: number) => {
  const next = createRandom(3 + channels)
  // Whole code values of 16 bits: what is read is compared with the picture itself.
  return paintRaster(40, 30, () => Math.floor(next() * 65536) / 65535, channels)
}
type Point = readonly [x: number, y: number]

function readAll(frame: GatherFrame, matrix: Matrix3, points: readonly Point[]) {
  const { channels } = frame.samples
  return withKernelMemory(ROOMY_BYTES, (scope) => {
    const planes = readingPlanes(scope, points.length, channels)
    openFrame(frame, scope).readInto(planes, placesAt(scope, points), matrix, null)
    const values = floatsAt(planes.values, planes.stride * channels).slice()
    return {
      kept: [...floatsAt(planes.kept, points.length)],
      valuesAt: (k: number) => Array.from({ length: channels }, (_, c) => values[c * planes.stride + k]!),
    }
  })
}

const POINTS: readonly Point[] = [
  [110.5, 60.5],
  [111.25, 61.5],
  [120.1, 66.7],
  [130.9, 70.3],
  [138.4, 79.2],
  [101.2, 52.2],
  [99, 60],
  [141, 60],
]

describe.each([1, 3, 4])('reading a frame of %i channels through a transform', (channels) => {
  const picture = pictureOf(channels)
  const frame = gatherFrameOf(picture, RECT)

  test.each<[string, Matrix3]>([
    ['a shift', [1, 0, 1.37, 0, 1, -0.61, 0, 0, 1]],
    ['a perspective', [1.01, 0.02, -2, -0.01, 0.99, 1.5, 1e-5, -2e-5, 1]],
  ])(
    'by %s gives what the cubic of Keys (1981) gives, and nothing where its footprint leaves the rectangle',
    (_name, matrix) => {
      const { kept, valuesAt } = readAll(frame, matrix, POINTS)
      POINTS.forEach(([x, y], k) => {
        const at = apply(matrix, x, y)
        const expected = keysCubic(picture, at.x - RECT.col, at.y - RECT.row)
        if (!expected) {
          expect(kept[k]).toBe(-1)
          return
        }
        expect(kept[k]).toBeCloseTo(expected.kept, 2)
        valuesAt(k).forEach((value, c) => expect(value).toBeCloseTo(expected.values[c]!, 2))
      })
    },
  )

  test('at whole pixels gives the samples themselves, up to the border', () => {
    const corners: Point[] = [
      [95.5, 53.5],
      [134.5, 82.5],
    ]
    const { kept, valuesAt } = readAll(frame, [1, 0, 5, 0, 1, -3, 0, 0, 1], corners)
    expect(kept).toEqual([1, 1])
    for (let c = 0; c < channels; c++) {
      expect(valuesAt(0)[c]).toBeCloseTo(picture.data[c]!, 6)
      expect(valuesAt(1)[c]).toBeCloseTo(picture.data[(29 * 40 + 39) * channels + c]!, 6)
    }
  })
})

test('nothing is read whose footprint touches what may not be taken', () => {
  const masked = new Uint8Array(40 * 30)
  masked[12 * 40 + 20] = 2
  const frame = gatherFrameOf(pictureOf(3), RECT, masked)
  // The pixel itself; two to the right between pixels; within two to the left and above; three to the right on a pixel's centre.
  const touching: Point[] = [
    [120.5, 62.5],
    [122.3, 62.5],
    [118.9, 60.9],
    [123.5, 62.5],
  ]
  const { kept } = readAll(frame, [1, 0, 0, 0, 1, 0, 0, 0, 1], touching)
  expect(kept.map((one) => one > 0)).toEqual([false, false, false, true])
})
