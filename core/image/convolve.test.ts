import fc from 'fast-check'
import { loadOpenCv } from '../../evaluation/opencv'
import { convolveSeparable, gaussianTaps } from './convolve'
import { createRaster, type Raster } from './raster'

/** The plain twin: one output at a time, in 64 bits. */
function plainConvolve(raster: Raster, tapsX: ArrayLike<number>, tapsY: ArrayLike<number>): number[] {
  const { width, height, channels, data } = raster
  const clamp = (i: number, count: number) => Math.min(Math.max(i, 0), count - 1)
  const out: number[] = []
  for (let row = 0; row < height; row++)
    for (let col = 0; col < width; col++)
      for (let channel = 0; channel < channels; channel++) {
        let sum = 0
        for (let j = 0; j < tapsY.length; j++)
          for (let i = 0; i < tapsX.length; i++) {
            const c = clamp(col + i - (tapsX.length - 1) / 2, width)
            const r = clamp(row + j - (tapsY.length - 1) / 2, height)
            sum += tapsY[j]! * tapsX[i]! * data[(r * width + c) * channels + channel]!
          }
        out.push(sum)
      }
  return out
}

const rasters = fc
  .tuple(
    fc.integer({ min: 1, max: 13 }),
    fc.integer({ min: 1, max: 9 }),
    fc.integer({ min: 1, max: 4 }),
    fc.infiniteStream(fc.double({ min: -1, max: 2, noNaN: true })),
  )
  .map(([width, height, channels, values]) => {
    const raster = createRaster(width, height, channels)
    for (let i = 0; i < raster.data.length; i++) raster.data[i] = values.next().value as number
    return raster
  })
const taps = fc
  .integer({ min: 0, max: 5 })
  .chain((r) =>
    fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 2 * r + 1, maxLength: 2 * r + 1 }),
  )

test('the kernel agrees with its plain twin, for every size, channel count and radius', () => {
  fc.assert(
    fc.property(rasters, taps, taps, (raster, tapsX, tapsY) => {
      const got = convolveSeparable(raster, tapsX, tapsY)
      plainConvolve(raster, tapsX, tapsY).forEach((value, i) => expect(got.data[i]).toBeCloseTo(value, 4))
    }),
    { seed: 7, numRuns: 60 },
  )
})

test('one lit pixel shows the weights', () => {
  const raster = createRaster(5, 3, 1)
  raster.data[7] = 1
  expect([...convolveSeparable(raster, [1, 2, 3], [0, 1, 0]).data]).toEqual([
    0, 0, 0, 0, 0, 0, 3, 2, 1, 0, 0, 0, 0, 0, 0,
  ])
})

test('an even number of weights is refused', () => {
  expect(() => convolveSeparable(createRaster(2, 2, 1), [1, 1], [1])).toThrow('tapsX must be an odd number')
})

test('Gaussian weights sum to one and blur like opencv-js GaussianBlur', async () => {
  const weights = gaussianTaps(2)
  expect(weights.reduce((a, b) => a + b)).toBeCloseTo(1, 6)
  const { cv } = await loadOpenCv()
  const raster = createRaster(24, 18, 1)
  for (let i = 0; i < raster.data.length; i++) raster.data[i] = ((i * 7919) % 101) / 100
  const source = cv.matFromArray(18, 24, cv.CV_32FC1, raster.data)
  const out = new cv.Mat()
  cv.GaussianBlur(source, out, new cv.Size(weights.length, weights.length), 2, 2, cv.BORDER_REPLICATE)
  const got = convolveSeparable(raster, weights, weights)
  for (let i = 0; i < got.data.length; i++) expect(got.data[i]).toBeCloseTo(out.data32F[i], 4)
  source.delete()
  out.delete()
})
