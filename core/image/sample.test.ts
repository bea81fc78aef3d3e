import fc from 'fast-check'
import { loadOpenCv } from '../../evaluation/opencv'
import { withKernelMemory } from '../kernels/memory'
import { createRaster, type Raster } from './raster'
import type { Matrix3 } from '../geometry/transform'
import { sampleManyInto, warpProjective, type Interpolation } from './sample'

function noise(width: number, height: number, channels: number, seed = 1): Raster {
  const raster = createRaster(width, height, channels)
  let state = seed
  for (let i = 0; i < raster.data.length; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    raster.data[i] = (state >>> 8) / 2 ** 24
  }
  return raster
}

function sampleAll(raster: Raster, positions: number[], interpolation: Interpolation): Float32Array {
  const out = new Float32Array((positions.length / 2) * raster.channels)
  withKernelMemory(1 << 20, (scope) =>
    sampleManyInto(out, raster, Float32Array.from(positions), interpolation, scope),
  )
  return out
}

/** The plain twin: the textbook formulas, one value at a time. */
function plainSample(
  { width, height, channels, data }: Raster,
  x: number,
  y: number,
  channel: number,
  interpolation: Interpolation,
): number {
  const at = (col: number, row: number) =>
    data[
      (Math.min(Math.max(row, 0), height - 1) * width + Math.min(Math.max(col, 0), width - 1)) * channels +
        channel
    ]!
  const u = Math.min(Math.max(x - 0.5, 0), width - 1)
  const v = Math.min(Math.max(y - 0.5, 0), height - 1)
  const [col, row] = [Math.floor(u), Math.floor(v)]
  const weights = (f: number): number[] =>
    interpolation === 'bilinear'
      ? [0, 1 - f, f, 0]
      : [1 + f, f, 1 - f, 2 - f].map((d) =>
          d < 1 ? 1.5 * d ** 3 - 2.5 * d ** 2 + 1 : -0.5 * d ** 3 + 2.5 * d ** 2 - 4 * d + 2,
        )
  let sum = 0
  weights(v - row).forEach((wy, j) =>
    weights(u - col).forEach((wx, i) => (sum += wy * wx * at(col + i - 1, row + j - 1))),
  )
  return sum
}

describe.each(['bilinear', 'bicubic'] as const)('%s sampling', (interpolation) => {
  test('pixel centres are exact and the edge repeats', () => {
    const raster = noise(5, 4, 3)
    const centres: number[] = []
    for (let row = 0; row < 4; row++) for (let col = 0; col < 5; col++) centres.push(col + 0.5, row + 0.5)
    expect([...sampleAll(raster, centres, interpolation)]).toEqual([...raster.data])
    expect([...sampleAll(raster, [-7, 0.5, 99, 3.5], interpolation)]).toEqual([
      ...raster.data.slice(0, 3),
      ...raster.data.slice(-3),
    ])
  })

  test('linear ramps are read exactly between pixels', () => {
    const ramp = createRaster(9, 9, 1)
    for (let row = 0; row < 9; row++)
      for (let col = 0; col < 9; col++) ramp.data[row * 9 + col] = 2 * (col + 0.5) - 3 * (row + 0.5)
    const [value] = sampleAll(ramp, [4.3, 5.1], interpolation)
    expect(value).toBeCloseTo(2 * 4.3 - 3 * 5.1, 4)
  })

  test('the kernel agrees with its plain twin anywhere', () => {
    const raster = noise(7, 6, 2, 5)
    fc.assert(
      fc.property(
        fc.double({ min: -3, max: 10, noNaN: true }),
        fc.double({ min: -3, max: 9, noNaN: true }),
        (x, y) => {
          const [fx, fy] = [Math.fround(x), Math.fround(y)]
          const got = sampleAll(raster, [fx, fy], interpolation)
          for (let channel = 0; channel < 2; channel++)
            expect(got[channel]).toBeCloseTo(plainSample(raster, fx, fy, channel, interpolation), 5)
        },
      ),
      { seed: 11, numRuns: 200 },
    )
  })
})

test('bilinear sampling agrees with opencv-js remap, whose pixel centres lie on whole numbers', async () => {
  const { cv } = await loadOpenCv()
  const raster = noise(16, 12, 1, 3)
  const positions: number[] = []
  for (let i = 0; i < 60; i++) positions.push(1 + ((i * 37) % 440) / 32, 1 + ((i * 53) % 320) / 32) // remap rounds to 1/32 px
  const source = cv.matFromArray(12, 16, cv.CV_32FC1, raster.data)
  const mapX = cv.matFromArray(
    1,
    60,
    cv.CV_32FC1,
    positions.filter((_, i) => i % 2 === 0).map((x) => x - 0.5),
  )
  const mapY = cv.matFromArray(
    1,
    60,
    cv.CV_32FC1,
    positions.filter((_, i) => i % 2 === 1).map((y) => y - 0.5),
  )
  const out = new cv.Mat()
  cv.remap(source, out, mapX, mapY, cv.INTER_LINEAR, cv.BORDER_REPLICATE)
  const got = sampleAll(raster, positions, 'bilinear')
  for (let i = 0; i < 60; i++) expect(got[i]).toBeCloseTo(out.data32F[i], 5)
  for (const mat of [source, mapX, mapY, out]) mat.delete()
})

describe('warpProjective', () => {
  test('the identity changes nothing', () => {
    const raster = noise(8, 5, 3)
    expect([...warpProjective(raster, [1, 0, 0, 0, 1, 0, 0, 0, 1], raster, 'bicubic').data]).toEqual([
      ...raster.data,
    ])
  })

  test('four quarter turns about the middle are none', () => {
    const size = { width: 6, height: 6 }
    const quarter: Matrix3 = [0, 1, 0, -1, 0, 6, 0, 0, 1]
    const raster = noise(6, 6, 1)
    let turned = raster
    for (let i = 0; i < 4; i++) turned = warpProjective(turned, quarter, size, 'bilinear')
    expect([...turned.data]).toEqual([...raster.data])
    expect([...warpProjective(raster, quarter, size, 'bilinear').data]).not.toEqual([...raster.data])
  })

  test('agrees with opencv-js warpPerspective inside the picture', async () => {
    const { cv } = await loadOpenCv()
    const raster = createRaster(40, 30, 1)
    for (let i = 0; i < raster.data.length; i++)
      raster.data[i] = Math.sin((i % 40) / 6) * Math.cos(Math.floor(i / 40) / 5)
    const corner: Matrix3 = [0.9, 0.05, 3, -0.04, 0.95, 2, 0.0004, -0.0003, 1]
    // Corner-origin to centre-origin: half a pixel on the way in, half a pixel back on the way out.
    const shift = (m: Matrix3): number[] => {
      const [a, b, c, d, e, f, g, h, k] = m
      const into = [a, b, c + (a + b) / 2, d, e, f + (d + e) / 2, g, h, k + (g + h) / 2] as const
      return [
        into[0] - into[6] / 2,
        into[1] - into[7] / 2,
        into[2] - into[8] / 2,
        into[3] - into[6] / 2,
        into[4] - into[7] / 2,
        into[5] - into[8] / 2,
        into[6],
        into[7],
        into[8],
      ]
    }
    const source = cv.matFromArray(30, 40, cv.CV_32FC1, raster.data)
    const matrix = cv.matFromArray(3, 3, cv.CV_64FC1, shift(corner))
    const out = new cv.Mat()
    cv.warpPerspective(
      source,
      out,
      matrix,
      new cv.Size(30, 22),
      cv.INTER_LINEAR | cv.WARP_INVERSE_MAP,
      cv.BORDER_REPLICATE,
      new cv.Scalar(),
    )
    const got = warpProjective(raster, corner, { width: 30, height: 22 }, 'bilinear')
    const FIXED_POINT = 0.01 // the library rounds positions to 1/32 px; the steepest slope here is 0.2 per px
    for (let i = 0; i < got.data.length; i++)
      expect(Math.abs(got.data[i]! - out.data32F[i])).toBeLessThan(FIXED_POINT)
    for (const mat of [source, matrix, out]) mat.delete()
  })
})
