import ssim from 'ssim.js'
import { loadOpenCv } from '../../evaluation/opencv'
import { createRaster, type Raster } from '../image/raster'
import { measureMeanSquare, measurePsnr, measureSsim } from './difference'

function picture(seed: number, amount: number): Raster {
  const raster = createRaster(48, 40, 1)
  for (let i = 0; i < raster.data.length; i++) {
    const scene = 128 + 60 * Math.sin((i % 48) / 5) * Math.cos(Math.floor(i / 48) / 7)
    raster.data[i] = Math.round(
      Math.min(255, Math.max(0, scene + amount * Math.sin(i * seed * 12.9898) * 20)),
    )
  }
  return raster
}

const rgba = ({ width, height, data }: Raster) => ({
  width,
  height,
  data: Uint8ClampedArray.from({ length: data.length * 4 }, (_, i) =>
    i % 4 === 3 ? 255 : data[Math.floor(i / 4)]!,
  ),
})

test('PSNR agrees with opencv-js and with its definition', async () => {
  const { cv } = await loadOpenCv()
  const [a, b] = [picture(1, 0), picture(2, 1)]
  const matA = cv.matFromArray(40, 48, cv.CV_8UC1, a.data)
  const matB = cv.matFromArray(40, 48, cv.CV_8UC1, b.data)
  const meanSquare = cv.norm1(matA, matB, cv.NORM_L2, new cv.Mat()) ** 2 / a.data.length
  expect(measureMeanSquare(a, b)).toBeCloseTo(meanSquare, 3)
  expect(measurePsnr(a, b, undefined, 255)).toBeCloseTo(10 * Math.log10(255 ** 2 / meanSquare), 6)
  expect(measurePsnr(a, a)).toBe(Infinity)
  matA.delete()
  matB.delete()
})

test('a matte chooses what counts', () => {
  const a = createRaster(2, 1, 1)
  const b = { ...a, data: Float32Array.of(0.5, 0.1) }
  expect(measureMeanSquare(a, b, { width: 2, height: 1, data: Float32Array.of(1, 0) })).toBeCloseTo(0.25, 6)
  expect(measureMeanSquare(a, b, { width: 2, height: 1, data: Float32Array.of(0, 0) })).toBeNaN()
})

test('structural similarity agrees with ssim.js', () => {
  for (const amount of [0.2, 1, 3]) {
    const [a, b] = [picture(1, 0), picture(2, amount)]
    const { mssim } = ssim(rgba(a), rgba(b), {
      ssim: 'original',
      rgb2grayVersion: 'integer',
      downsample: false,
    })
    const GREY_ROUNDING = 0.005 // the library turns RGB into whole grey values first
    expect(Math.abs(measureSsim(a, b, 255) - mssim)).toBeLessThan(GREY_ROUNDING)
  }
  expect(measureSsim(picture(1, 1), picture(1, 1), 255)).toBeCloseTo(1, 5)
})

test('pictures of different shapes are refused', () => {
  expect(() => measureMeanSquare(createRaster(2, 2, 1), createRaster(2, 1, 1))).toThrow('one shape')
  expect(() => measureSsim(createRaster(5, 5, 1), createRaster(5, 5, 1))).toThrow('11 × 11')
})
