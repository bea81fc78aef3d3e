/** Sizes of differences between samples, and the variance of the grain behind them. */
import { withKernelMemory } from '../kernels/memory'
import { kernels } from '../kernels/module'

export const GRAIN_BINS = 8
/** Thinner bins are edges between others, more often than grain of their own. */
const MIN_IN_BIN = 40
const MIN_SHARE_OF_BIN = 0.06
const LOWER_QUARTILE_OF_NORMAL = 0.3186394 // of |N(0, 1)|; tables of the normal distribution
const FAR_OUT = 2 // deviations
const VARIANCE_WITHIN = 0.7737 // of N(0, 1) cut off there: 1 − 2 c φ(c) / (2 Φ(c) − 1)
const ROUNDS = 12

/** Uniform noise of one step has this share of its square as variance. */
export const ROUNDING = 1 / 12
const GOLDEN = 0.6180339887498949

/** Sizes of differences, spread over a step each: their variance, as if they were normal. */
export class Sizes {
  readonly #values: Float32Array
  #count = 0
  constructor(
    capacity: number,
    readonly stepSize: number,
  ) {
    this.#values = new Float32Array(capacity)
  }
  add(value: number): void {
    const spread = this.#count * GOLDEN
    this.#values[this.#count++] = Math.abs(value + (spread - Math.floor(spread) - 0.5) * this.stepSize)
  }
  get count(): number {
    return this.#count
  }
  /**
   * Begins with the lower quartile, then leaves out what is far out for a normal distribution of that size and takes the
   * variance of the rest, again and again: a fifth of edges would make the quartile alone a quarter too large. What the
   * spreading has added is taken off.
   */
  variance(): number {
    const variance = withKernelMemory(4 * this.#count + 256, (scope) => {
      const sizes = scope.pointerTo(this.#values.subarray(0, this.#count))
      // prettier-ignore
      return kernels().normalVariance(
        sizes, this.#count, LOWER_QUARTILE_OF_NORMAL, FAR_OUT, VARIANCE_WITHIN, ROUNDS,
      )
    })
    return Math.max(0, variance - ROUNDING * this.stepSize * this.stepSize)
  }
}

/** Sizes apart by channel and brightness. */
export class BinnedSizes {
  readonly #bins: Sizes[]
  readonly #whole: Sizes[]
  constructor(
    readonly channels: number,
    capacity: number,
    stepSize: number,
  ) {
    this.#bins = Array.from({ length: channels * GRAIN_BINS }, () => new Sizes(capacity, stepSize))
    this.#whole = Array.from({ length: channels }, () => new Sizes(capacity, stepSize))
  }
  add(channel: number, brightness: number, value: number): void {
    const bin = Math.min(Math.max(Math.floor(brightness * GRAIN_BINS), 0), GRAIN_BINS - 1)
    this.#bins[channel * GRAIN_BINS + bin]!.add(value)
    this.#whole[channel]!.add(value)
  }
  /** A variance for each channel and bin; thin bins take that of the nearest full one, or of the whole channel. */
  byBin(): Float64Array {
    const out = new Float64Array(this.channels * GRAIN_BINS)
    for (let channel = 0; channel < this.channels; channel++) {
      const bins = this.#bins.slice(channel * GRAIN_BINS, (channel + 1) * GRAIN_BINS)
      const isFull = bins.map(
        (sizes) => sizes.count >= Math.max(MIN_IN_BIN, MIN_SHARE_OF_BIN * this.#whole[channel]!.count),
      )
      const whole = isFull.includes(true) ? 0 : this.#whole[channel]!.variance()
      const values = bins.map((sizes, bin) => (isFull[bin] ? sizes.variance() : 0))
      for (let bin = 0; bin < GRAIN_BINS; bin++) {
        const nearest = nearestFull(isFull, bin)
        out[channel * GRAIN_BINS + bin] = nearest < 0 ? whole : values[nearest]!
      }
    }
    return out
  }
}

function nearestFull(isFull: readonly boolean[], bin: number): number {
  for (let away = 0; away < isFull.length; away++) {
    if (isFull[bin - away]) return bin - away
    if (isFull[bin + away]) return bin + away
  }
  return -1
}

/** A level for each channel and bin. */
export const levelsFrom = (sizes: BinnedSizes, grainOf: (variance: number) => number): Float32Array =>
  Float32Array.from(sizes.byBin(), (variance) => Math.sqrt(Math.max(0, grainOf(variance))))
