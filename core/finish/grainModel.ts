/**
 * How grainy a plate is around an area: a level for each channel and brightness, and how coarse the grain is.
 *
 * Two measures are taken. In space, second differences at two spacings: flat colour and ramps drop out, the lower
 * quartile of their sizes ignores edges and texture as long as a quarter of the places is free of them. In time, the
 * difference to the frames beside, carried along by the ground: all that rests drops out. Both can only be too high, by
 * texture the one, by motion that is not known the other; the lower one is taken.
 * Sources: J. Immerkær, "Fast noise variance estimation", CVIU 64(2), 1996 (the mask); quartiles: common practice.
 */
import { apply, type Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import type { EdgeField } from '../matte/edge'
import { coarseTaps, FINEST_PX } from './grain'

export const GRAIN_BINS = 8

export interface GrainModel {
  /** Standard deviation in the raster's own scale: a row of GRAIN_BINS brightnesses, 0 to 1, for each channel. */
  readonly levels: Float32Array
  /** Deviation of the blur that makes white grain as coarse, px; 0 for white grain. */
  readonly coarsePx: number
}

/** The same part of the plate on another frame. */
export interface GrainBeside {
  readonly picture: Raster
  readonly rect: Rect
  readonly thereFromHere: Matrix3
}

const MOST_PLACES = 3000 // beyond this the estimate no longer improves, only its cost
const FEWEST_PLACES = 16
const FEWEST_IN_BIN = 40
const LOWER_QUARTILE_OF_NORMAL = 0.3186394 // of |N(0, 1)|; tables of the normal distribution
const SAME_FRAME_SHARE = 0.9 // as many equal samples mean a frame that was doubled, not one without grain

/**
 * Integer plates have rounding noise of their own and differences that are whole steps. Sizes are therefore spread over a
 * step each, and what rounding and spreading add is taken off again: a finished frame is rounded once more by itself.
 *
 * @param clearPx   Distance from the area's edge at which untouched plate begins; nearer is left out.
 * @param taboo     Pixels that are not 0 are left out too.
 * @param stepSize  One step of the plate's samples in the raster's scale: 1/255 for 8 bits.
 */
export function measureGrain(
  picture: Raster,
  rect: Rect,
  field: EdgeField,
  clearPx: number,
  taboo: Uint8Array | null,
  stepSize: number,
  beside: readonly GrainBeside[] = [],
): GrainModel {
  const places = clearPlaces(picture, field, clearPx, taboo)
  const none = { levels: new Float32Array(picture.channels * GRAIN_BINS), coarsePx: 0 }
  if (places.length < FEWEST_PLACES) return none
  const inSpace = measureInSpace(picture, places, stepSize)
  const inTime = measureInTime(picture, rect, places, stepSize, beside)
  return inTime && inTime.pooled < inSpace.pooled ? inTime : inSpace
}

/** The level at a brightness; between bins it runs straight. */
export function grainLevelAt({ levels }: GrainModel, channel: number, value: number): number {
  const at = Math.min(Math.max(value * GRAIN_BINS - 0.5, 0), GRAIN_BINS - 1)
  const bin = Math.min(Math.floor(at), GRAIN_BINS - 2)
  const f = at - bin
  const from = channel * GRAIN_BINS + bin
  return levels[from]! + f * (levels[from + 1]! - levels[from]!)
}

const MARGIN_PX = 2 // the wider mask reads so far

function clearPlaces({ width, height }: Raster, { count, pixels, edges }: EdgeField, clearPx: number, taboo: Uint8Array | null): Int32Array {
  const places: number[] = []
  for (let i = 0; i < count; i++) {
    if (!(edges[i]! > clearPx + MARGIN_PX + 0.5)) continue
    const pixel = pixels[i]!
    const col = pixel % width
    const row = (pixel / width) | 0
    if (col < MARGIN_PX || row < MARGIN_PX || col >= width - MARGIN_PX || row >= height - MARGIN_PX) continue
    if (taboo && isTabooNear(taboo, pixel, width)) continue
    places.push(pixel)
  }
  const stride = Math.max(1, Math.ceil(places.length / MOST_PLACES))
  return Int32Array.from(stride === 1 ? places : places.filter((_, i) => i % stride === 0))
}

const isTabooNear = (taboo: Uint8Array, pixel: number, width: number): boolean =>
  [pixel, pixel - MARGIN_PX, pixel + MARGIN_PX, pixel - MARGIN_PX * width, pixel + MARGIN_PX * width].some((at) => taboo[at] !== 0)

interface Measured extends GrainModel {
  /** One level for everything: what tells which measure to trust. */
  readonly pooled: number
}

/** Uniform noise of one step has this share of its square as variance. */
const ROUNDING = 1 / 12
const GOLDEN = 0.6180339887498949

/** Sizes of differences, spread over a step each: their variance, as if they were normal. */
class Sizes {
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
  /** From the lower quartile; what the spreading has added is taken off. Sizes are reordered by it. */
  variance(): number {
    if (this.#count === 0) return 0
    const deviation = nthSmallest(this.#values, this.#count, Math.floor(this.#count / 4)) / LOWER_QUARTILE_OF_NORMAL
    return Math.max(0, deviation * deviation - ROUNDING * this.stepSize * this.stepSize)
  }
}

/** Sizes apart by channel and brightness. */
class BinnedSizes {
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
      const isFull = bins.map((sizes) => sizes.count >= FEWEST_IN_BIN)
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

/** The value that would stand at `index` were the first `count` in order. They are partly reordered. Hoare, 1961. */
function nthSmallest(values: Float32Array, count: number, index: number): number {
  let [low, high] = [0, count - 1]
  while (low < high) {
    const pivot = values[(low + high) >> 1]!
    let [i, j] = [low, high]
    while (i <= j) {
      while (values[i]! < pivot) i++
      while (values[j]! > pivot) j--
      if (i > j) break
      const swap = values[i]!
      values[i++] = values[j]!
      values[j--] = swap
    }
    if (index <= j) high = j
    else if (index >= i) low = i
    else break
  }
  return values[index]!
}

function nearestFull(isFull: readonly boolean[], bin: number): number {
  for (let away = 0; away < isFull.length; away++) {
    if (isFull[bin - away]) return bin - away
    if (isFull[bin + away]) return bin + away
  }
  return -1
}

function measureInSpace({ width, channels, data }: Raster, places: Int32Array, stepSize: number): Measured {
  const all = places.length * channels
  const [fine, pooled, wide] = [new BinnedSizes(channels, places.length, stepSize), new Sizes(all, stepSize), new Sizes(all, stepSize)]
  const down = width * channels
  for (const pixel of places) {
    for (let c = 0; c < channels; c++) {
      const at = pixel * channels + c
      const brightness = (data[at - channels]! + data[at + channels]! + data[at - down]! + data[at + down]! + 2 * data[at]!) / 6
      const size = secondDifference(data, at, channels, down)
      fine.add(c, brightness, size)
      pooled.add(size)
      wide.add(secondDifference(data, at, 2 * channels, 2 * down))
    }
  }
  const rounding = ROUNDING * stepSize * stepSize
  // Rounding noise is white: the mask makes 36 times its variance of it.
  const clean = (variance: number) => Math.max(0, variance - 36 * rounding)
  const [narrow, broad] = [clean(pooled.variance()), clean(wide.variance())]
  const coarsePx = coarsenessWhere((one) => one.wideOverFine, narrow > 0 ? Math.sqrt(broad / narrow) : 1)
  const gain = statsOf(coarsePx).fineGain
  return { levels: levelsFrom(fine, (variance) => clean(variance) / (gain * gain)), coarsePx, pooled: Math.sqrt(narrow) / gain }
}

const levelsFrom = (sizes: BinnedSizes, grainOf: (variance: number) => number): Float32Array =>
  Float32Array.from(sizes.byBin(), (variance) => Math.sqrt(Math.max(0, grainOf(variance))))

/** The mask (1 −2 1)ᵀ(1 −2 1): it turns white noise of deviation s into 6 s. */
function secondDifference(data: Float32Array, at: number, side: number, down: number): number {
  const above = data[at - down - side]! - 2 * data[at - down]! + data[at - down + side]!
  const here = data[at - side]! - 2 * data[at]! + data[at + side]!
  const below = data[at + down - side]! - 2 * data[at + down]! + data[at + down + side]!
  return above - 2 * here + below
}

function measureInTime(
  { width, channels, data }: Raster,
  rect: Rect,
  places: Int32Array,
  stepSize: number,
  beside: readonly GrainBeside[],
): Measured | null {
  const most = places.length * channels * beside.length
  const binned = new BinnedSizes(channels, places.length * beside.length, stepSize)
  const [single, sums, steps] = [new Sizes(most, stepSize), new Sizes(most, stepSize), new Sizes(most, stepSize)]
  const others = new Int32Array(places.length)
  for (const { picture, rect: there, thereFromHere } of beside) {
    let [equal, compared] = [0, 0]
    for (let k = 0; k < places.length; k++) {
      const pixel = places[k]!
      const { x, y } = apply(thereFromHere, rect.col + (pixel % width) + 0.5, rect.row + ((pixel / width) | 0) + 0.5)
      const [col, row] = [Math.floor(x) - there.col, Math.floor(y) - there.row]
      const isThere = col >= 0 && row >= 0 && col + 1 < there.width && row < there.height
      others[k] = isThere ? (row * there.width + col) * channels : -1
      if (!isThere) continue
      for (let c = 0; c < channels; c++) if (data[pixel * channels + c] === picture.data[others[k]! + c]) equal++
      compared += channels
    }
    if (compared < FEWEST_PLACES * channels || equal > SAME_FRAME_SHARE * compared) continue
    for (let k = 0; k < places.length; k++) {
      if (others[k]! < 0) continue
      for (let c = 0; c < channels; c++) {
        const [at, other] = [places[k]! * channels + c, others[k]! + c]
        const first = data[at]! - picture.data[other]!
        const second = data[at + channels]! - picture.data[other + channels]!
        binned.add(c, (data[at]! + picture.data[other]!) / 2, first)
        single.add(first)
        sums.add(first + second)
        steps.add(first - second)
      }
    }
  }
  if (single.count === 0) return null
  // A difference of two frames holds the rounding of both, sums and differences of two such of four samples.
  const rounding = ROUNDING * stepSize * stepSize
  const [s, t] = [Math.max(0, sums.variance() - 4 * rounding), Math.max(0, steps.variance() - 4 * rounding)]
  const coarsePx = coarsenessWhere((one) => one.neighbour, s + t > 0 ? (s - t) / (s + t) : 0)
  const grainOf = (variance: number) => (variance - 2 * rounding) / 2
  return { levels: levelsFrom(binned, grainOf), coarsePx, pooled: Math.sqrt(Math.max(0, grainOf(single.variance()))) }
}

interface CoarseStats {
  readonly coarsePx: number
  /** What the mask at spacing 1 makes of grain of deviation 1; 6 for white grain. */
  readonly fineGain: number
  /** The mask at spacing 2 against that at spacing 1. */
  readonly wideOverFine: number
  /** Correlation of neighbours. */
  readonly neighbour: number
}

let table: readonly CoarseStats[] | undefined

function statsOf(coarsePx: number): CoarseStats {
  if (coarsePx < FINEST_PX) return { coarsePx: 0, fineGain: 6, wideOverFine: 1, neighbour: 0 }
  const taps = coarseTaps(coarsePx)
  const correlation = (lag: number) => taps.reduce((sum, tap, i) => sum + tap * (taps[i + lag] ?? 0), 0)
  const [r1, r2, r4] = [correlation(1), correlation(2), correlation(4)]
  // The energy of (1 −2 1) on a row; both ways the root of its square.
  const [fineGain, wideGain] = [6 - 8 * r1 + 2 * r2, 6 - 8 * r2 + 2 * r4]
  return { coarsePx, fineGain, wideOverFine: wideGain / fineGain, neighbour: r1 }
}

/** The coarseness at which a statistic, rising with it, has a value; between the table's steps it runs straight. */
function coarsenessWhere(statistic: (one: CoarseStats) => number, value: number): number {
  table ??= Array.from({ length: 31 }, (_, i) => statsOf(i === 0 ? 0 : FINEST_PX + (i - 1) * 0.05))
  if (value <= statistic(table[0]!)) return 0
  for (let i = 1; i < table.length; i++) {
    const [low, high] = [table[i - 1]!, table[i]!]
    if (value > statistic(high)) continue
    const f = (value - statistic(low)) / Math.max(statistic(high) - statistic(low), 1e-9)
    return low.coarsePx + f * (high.coarsePx - low.coarsePx)
  }
  return table.at(-1)!.coarsePx
}
