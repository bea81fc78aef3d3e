import { maximumOf, type Samples } from '../image/samples'

/**
 * How many samples of a finished frame differ from the plate where no mend has laid anything.
 * @param finished  Of the plate's size; with one channel more, that is alpha, which counts where it is not full.
 * @param mended  For each pixel, not 0 where a mend has laid anything.
 * Cost: one pass, some samples at a time as long as they are equal.
 */
export function countChangedOutside(plate: Samples, finished: Samples, mended: Uint8Array): number {
  const { channels, data } = plate
  if (finished.width !== plate.width || finished.height !== plate.height || finished.channels < channels)
    throw new RangeError('a finished frame must have the size and the channels of its plate')
  if (finished.channels === channels) return changedOf(data, finished.data, channels, mended)
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

function changedOf(
  before: Samples['data'],
  after: Samples['data'],
  channels: number,
  mended: Uint8Array,
): number {
  const each = 4 / before.BYTES_PER_ELEMENT
  const words = Math.floor(before.length / each)
  const [a, b] = [wordsOf(before, words), wordsOf(after, words)]
  let changed = 0
  const look = (from: number, to: number) => {
    for (let i = from; i < to; i++)
      if (before[i] !== after[i] && mended[Math.floor(i / channels)] === 0) changed++
  }
  for (let word = 0; word < words; word++) if (a[word] !== b[word]) look(word * each, word * each + each)
  look(words * each, before.length)
  return changed
}

/** Four bytes at a time; copied where they do not begin at a whole one. */
const wordsOf = ({ buffer, byteOffset, byteLength }: Samples['data'], count: number): Uint32Array =>
  byteOffset % 4 === 0
    ? new Uint32Array(buffer, byteOffset, count)
    : new Uint32Array(buffer.slice(byteOffset, byteOffset + byteLength - (byteLength % 4)))
