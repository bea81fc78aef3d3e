/**
 * What a clip is like at every pixel over time: its mean and how much it changes. One pass, frame by frame; memory is that of a few
 * frames, whatever the clip's length.
 */
import { maximumOf, type SampleArray, type Samples } from '../image/samples'

const { imul } = Math // looked up once: it runs for every sample

/** Of all frames of a clip. */
export type ClipShape = Pick<Samples, 'width' | 'height' | 'channels'>

export interface ClipStatistics extends ClipShape {
  readonly frames: number
  /** Of each sample, 0 to 1; channels interleaved. */
  readonly mean: Float32Array
  readonly variance: Float32Array
  /** The first frame, 0 to 1: what the mean has lost of its detail tells whether the picture moves. */
  readonly first: Float32Array
}

export interface ClipCounter {
  /** The frame is not to be changed afterwards. @throws RangeError when it has another shape, or the clip is longer than can be counted. */
  add(frame: Samples): void
  /** @throws RangeError when there was no frame. */
  finish(): ClipStatistics
}

/** Squares of 8 bits fit into 32 bits for so many frames: 45 minutes at 24 a second. */
const MAX_FRAMES = 65_000

/** Sums and sums of squares as whole numbers: exact, so that a pixel that never changes has a variance of 0. Source: common practice. */
export function countClip({ width, height, channels }: ClipShape): ClipCounter {
  const count = width * height * channels
  let sums: Int32Array | Float64Array = new Int32Array(0)
  let squares: Int32Array | Float64Array = sums
  let first: SampleArray = new Uint8Array(0)
  let frames = 0
  /** Of 8 bits, frames that are not counted yet: several at once need the sums only once. */
  let waiting: Uint8Array[] = []
  const countWaiting = () => {
    if (waiting.length === AT_ONCE) addFour8(sums as Int32Array, squares as Int32Array, ...(waiting as Four))
    else for (const data of waiting) addInto8(sums as Int32Array, squares as Int32Array, data)
    waiting = []
  }
  return {
    add({ data, width: w, height: h, channels: c }) {
      if (w !== width || h !== height || c !== channels)
        throw new RangeError(`frames must be ${width} x ${height} x ${channels}. Received ${w} x ${h} x ${c}`)
      if (frames === MAX_FRAMES) throw new RangeError(`a clip may have ${MAX_FRAMES} frames at most`)
      if (frames++ === 0) {
        first = data.slice()
        const is8 = maximumOf(data) === 255
        sums = is8 ? new Int32Array(count) : new Float64Array(count)
        squares = is8 ? new Int32Array(count) : new Float64Array(count)
      }
      if (data instanceof Uint8Array) {
        waiting.push(data)
        if (waiting.length === AT_ONCE) countWaiting()
      } else addInto16(sums as Float64Array, squares as Float64Array, data)
    },
    finish() {
      if (frames === 0) throw new RangeError('a clip must have a frame')
      countWaiting()
      const unit = 1 / maximumOf(first)
      const unsigned = sums instanceof Int32Array ? (value: number) => value >>> 0 : (value: number) => value
      const [mean, variance] = [new Float32Array(count), new Float32Array(count)]
      for (let i = 0; i < count; i++) {
        const middle = unsigned(sums[i]!) / frames
        mean[i] = middle * unit
        variance[i] = Math.max(0, unsigned(squares[i]!) / frames - middle * middle) * unit * unit
      }
      return {
        width,
        height,
        channels,
        frames,
        mean,
        variance,
        first: Float32Array.from(first).map((value) => value * unit),
      }
    },
  }
}

const AT_ONCE = 4
type Four = [Uint8Array, Uint8Array, Uint8Array, Uint8Array]

/** Of 8 bits in 32: both sums stay below 2^32, and their bits are read as unsigned at the end. */
function addInto8(sums: Int32Array, squares: Int32Array, data: Uint8Array): void {
  for (let i = 0; i < data.length; i++) {
    const value = data[i]!
    sums[i] = (sums[i]! + value) | 0
    squares[i] = (squares[i]! + imul(value, value)) | 0
  }
}

function addFour8(
  sums: Int32Array,
  squares: Int32Array,
  a: Uint8Array,
  b: Uint8Array,
  c: Uint8Array,
  d: Uint8Array,
): void {
  for (let i = 0; i < sums.length; i++) {
    const va = a[i]!
    const vb = b[i]!
    const vc = c[i]!
    const vd = d[i]!
    sums[i] = (sums[i]! + va + vb + vc + vd) | 0
    squares[i] = (squares[i]! + va * va + vb * vb + vc * vc + vd * vd) | 0
  }
}

/** Of 16 bits: doubles hold whole numbers up to 2^53. */
function addInto16(sums: Float64Array, squares: Float64Array, data: SampleArray): void {
  for (let i = 0; i < data.length; i++) {
    const value = data[i]!
    sums[i]! += value
    squares[i]! += value * value
  }
}
