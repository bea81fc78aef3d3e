import { maximumOf, type Samples } from '../image/samples'

/**
 * How many samples of a finished frame differ from the plate where no mend has laid anything.
 * @param finished  Of the plate's size; with one channel more, that is alpha, which counts where it is not full.
 * @param mended  For each pixel, not 0 where a mend has laid anything.
 * Cost: one pass.
 */
export function countChangedOutside(plate: Samples, finished: Samples, mended: Uint8Array): number {
  const { channels, data } = plate
  if (finished.width !== plate.width || finished.height !== plate.height || finished.channels < channels)
    throw new RangeError('a finished frame must have the size and the channels of its plate')
  const extra = finished.channels - channels
  const maximum = maximumOf(finished.data)
  const made = finished.data
  let changed = 0
  for (let pixel = 0, from = 0, to = 0; pixel < mended.length; pixel++) {
    const isOutside = mended[pixel] === 0
    for (let c = 0; c < channels; c++, from++, to++) if (data[from] !== made[to] && isOutside) changed++
    for (let c = 0; c < extra; c++, to++) if (made[to] !== maximum && isOutside) changed++
  }
  return changed
}
