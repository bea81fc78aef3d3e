import type { Rect, Size } from '../../image/rect'
import { floatsFromSamplesInto, type Samples } from '../../image/samples'
import { withKernelMemory } from '../../kernels/memory'
import type { View } from './ruler'

const WORKING_BYTES = 24 * 1024 * 1024 // straightened strips, their slopes, a tracker's windows

/** Floats of what was read, in kernel memory while `work` runs: it is straightened several times. */
export function withView<T>(
  { width, height, channels, data }: Samples,
  rect: Rect,
  picture: Size,
  work: (view: View) => T,
): T {
  return withKernelMemory(data.length * 4 + data.byteLength + WORKING_BYTES, (scope) => {
    const floats = scope.take(data.length)
    floatsFromSamplesInto(floats, data, scope)
    return work({ raster: { width, height, channels, data: floats }, rect, picture })
  })
}
