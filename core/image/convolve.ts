/** Separable convolution. Beyond the edge the edge pixel repeats. */
import { exp } from '../kernels/exact'
import { withKernelMemory, writeWithKernel } from '../kernels/memory'
import { kernels } from '../kernels/module'
import { createRaster, type Raster } from './raster'

/**
 * Convolves every channel with `tapsX` along rows, then with `tapsY` along columns.
 *
 * @param tapsX  An odd number of weights; the middle one falls on the pixel. Not normalised here.
 * @throws RangeError when the number of taps is even.
 * Cost: taps × pixels multiplications, four at a time. Checked against a plain twin (convolve.test.ts).
 */
export function convolveSeparable(
  raster: Raster,
  tapsX: ArrayLike<number>,
  tapsY: ArrayLike<number>,
): Raster {
  const { width, height, channels } = raster
  const radiusX = radiusOf('tapsX', tapsX)
  const radiusY = radiusOf('tapsY', tapsY)
  const out = createRaster(width, height, channels)
  withKernelMemory(raster.data.byteLength * 3 + (tapsX.length + tapsY.length) * 4, (scope) => {
    const source = scope.pointerTo(raster.data)
    const between = scope.take(raster.data.length)
    const weightsX = scope.pointerTo(Float32Array.from(tapsX))
    const weightsY = scope.pointerTo(Float32Array.from(tapsY))
    kernels().convolveRows(source, between.byteOffset, width, height, channels, weightsX, radiusX)
    writeWithKernel(scope, out.data, (to) =>
      kernels().convolveColumns(between.byteOffset, to, width, height, channels, weightsY, radiusY),
    )
  })
  return out
}

/**
 * Weights of a Gaussian, cut at three sigma and summing to 1.
 * @param sigmaPx  Above 0. @throws RangeError otherwise.
 */
export function gaussianTaps(sigmaPx: number): Float32Array {
  if (!(sigmaPx > 0)) throw new RangeError(`sigmaPx must be above 0. Received ${sigmaPx}`)
  const radius = Math.max(1, Math.ceil(3 * sigmaPx))
  const taps = new Float64Array(2 * radius + 1)
  let sum = 0
  for (let i = 0; i < taps.length; i++) {
    const distance = (i - radius) / sigmaPx
    taps[i] = exp(-0.5 * distance * distance)
    sum += taps[i]!
  }
  return Float32Array.from(taps, (tap) => tap / sum)
}

function radiusOf(name: string, taps: ArrayLike<number>): number {
  if (taps.length % 2 !== 1)
    throw new RangeError(`${name} must be an odd number of weights. Received ${taps.length}`)
  return (taps.length - 1) / 2
}
