/**
 * What a clip is like at every pixel over time: its mean and how much it changes. One pass, frame by frame; memory is that of three
 * frames, whatever the clip's length.
 */
import { maximumOf, type Samples } from '../image/samples'

/** Of all frames of a clip. */
export type ClipShape = Pick<Samples, 'width' | 'height' | 'channels'>

export interface ClipStatistics extends ClipShape {
  readonly frames: number
  /** Of each sample, 0 to 1; channels interleaved. */
  readonly mean: Float32Array
  readonly variance: Float32Array
  /** The first frame: what the mean has lost of its detail tells whether the picture moves. */
  readonly first: Float32Array
}

export interface ClipCounter {
  /** @throws RangeError when the frame has another shape. */
  add(frame: Samples): void
  /** @throws RangeError when there was no frame. */
  finish(): ClipStatistics
}

/** Sums of differences from the first frame, so that nothing is lost where a pixel never changes. Source: common practice. */
export function countClip({ width, height, channels }: ClipShape): ClipCounter {
  const count = width * height * channels
  const [first, sum, squares] = [new Float32Array(count), new Float32Array(count), new Float32Array(count)]
  let frames = 0
  return {
    add({ data, width: w, height: h, channels: c }) {
      if (w !== width || h !== height || c !== channels)
        throw new RangeError(`frames must be ${width} x ${height} x ${channels}. Received ${w} x ${h} x ${c}`)
      const unit = 1 / maximumOf(data)
      if (frames++ === 0) {
        for (let i = 0; i < count; i++) first[i] = data[i]! * unit
        return
      }
      for (let i = 0; i < count; i++) {
        const off = data[i]! * unit - first[i]!
        sum[i]! += off
        squares[i]! += off * off
      }
    },
    finish() {
      if (frames === 0) throw new RangeError('a clip must have a frame')
      const [mean, variance] = [new Float32Array(count), new Float32Array(count)]
      for (let i = 0; i < count; i++) {
        const off = sum[i]! / frames
        mean[i] = first[i]! + off
        variance[i] = Math.max(0, squares[i]! / frames - off * off)
      }
      return { width, height, channels, frames, mean, variance, first }
    },
  }
}
