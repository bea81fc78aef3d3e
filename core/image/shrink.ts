/** A raster made smaller by a whole number. */
import { withKernelMemory, writeWithKernel } from '../kernels/memory'
import { kernels } from '../kernels/module'
import { createRaster, type Raster } from './raster'

/** Each pixel is the mean of `by` × `by` pixels, of fewer at the right and lower edge. */
export function shrink(raster: Raster, by: number): Raster {
  if (by === 1) return raster
  const { width, height, channels, data } = raster
  const out = createRaster(Math.ceil(width / by), Math.ceil(height / by), channels)
  withKernelMemory(data.byteLength + out.data.byteLength, (scope) => {
    const source = scope.pointerTo(data)
    writeWithKernel(scope, out.data, (to) => kernels().shrink(source, width, height, channels, by, to))
  })
  return out
}
