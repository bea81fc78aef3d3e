/** Elementary kernels over a picture of 1920 x 1080, three channels, in million pixels a second. */
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import { createRaster } from '../core/image/raster'
import { warpProjective } from '../core/image/sample'
import { print, timed } from './benchTools'

const [width, height] = [1920, 1080]

export async function benchKernels(): Promise<void> {
  const raster = createRaster(width, height, 3)
  raster.data.forEach((_, i) => (raster.data[i] = (i % 251) / 250))
  const taps = gaussianTaps(2)
  const megapixels = (width * height) / 1e6
  print(
    'convolve-13-taps',
    megapixels / ((await timed(5, () => convolveSeparable(raster, taps, taps))) / 1000),
    'Mpx/s',
    { channels: 3 },
  )
  for (const interpolation of ['bilinear', 'bicubic'] as const) {
    const ms = await timed(5, () =>
      warpProjective(raster, [1, 0.01, 0.3, -0.01, 1, 0.4, 0, 0, 1], raster, interpolation),
    )
    print(`warp-${interpolation}`, megapixels / (ms / 1000), 'Mpx/s', { channels: 3 })
  }
}
