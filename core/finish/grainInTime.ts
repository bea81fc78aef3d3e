/** Grain told from the frames beside: all that rests, or drifts, drops out of the difference. */
import { apply } from '../geometry/transform'
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import { maximumOf } from '../image/samples'
import { coarsenessWhere, statsOf, type CoarseStats } from './coarseness'
import { findDrift, type Drift, type PictureBeside } from './drift'
import { BinnedSizes, levelsFrom, ROUNDING, Sizes } from './grainSizes'
import type { MeasuredGrain } from './measuredGrain'

const MIN_PLACES = 16
const SAME = 1e-6 // less than a step of 16 bits
const SAME_FRAME_SHARE = 0.9 // as many equal samples mean a frame that was doubled, not one without grain

/**
 * Where a place falls between the other frame's pixels it is read bilinearly, which takes some of that frame's
 * grain away: how much follows from the fractions and from the grain's coarseness, and is put back.
 */
export function measureGrainInTime(
  picture: Raster,
  rect: Rect,
  places: Int32Array,
  stepSize: number,
  beside: readonly PictureBeside[],
): MeasuredGrain | null {
  const { channels, data } = picture
  const max = places.length * channels * beside.length
  const binned = new BinnedSizes(channels, places.length * beside.length, stepSize)
  const [single, sums, steps] = [new Sizes(max, stepSize), new Sizes(max, stepSize), new Sizes(max, stepSize)]
  const mixtures: Mixture[] = []
  for (const other of beside) {
    const spots = new Spots(picture, rect, places, other)
    if (spots.isDoubled()) continue
    spots.drift()
    const mixture = { right: 0, down: 0 }
    let found = 0
    for (let k = 0; k < places.length; k++) {
      if (!spots.moveTo(k)) continue
      found++
      mixture.right += spots.right * (1 - spots.right)
      mixture.down += spots.down * (1 - spots.down)
      for (let c = 0; c < channels; c++) {
        const at = places[k]! * channels + c
        const there = spots.read(c)
        const first = data[at]! - there
        const second = data[at + channels]! - spots.read(channels + c)
        binned.add(c, (data[at]! + there) / 2, first)
        single.add(first)
        sums.add(first + second)
        steps.add(first - second)
      }
    }
    if (found > 0) mixtures.push({ right: mixture.right / found, down: mixture.down / found })
  }
  if (mixtures.length === 0) return null
  // Rounding noise is white. Each difference holds that of both frames; a sum or a difference of two, twice that.
  const rounding = ROUNDING * stepSize * stepSize
  const white = expected(mixtures, statsOf(0))
  const s = Math.max(0, sums.variance() - rounding * 2 * (white.alone + white.pair))
  const t = Math.max(0, steps.variance() - rounding * 2 * (white.alone - white.pair))
  const correlation = (one: CoarseStats) => {
    const { alone, pair } = expected(mixtures, one)
    return pair / alone
  }
  const coarsePx = coarsenessWhere(correlation, s + t > 0 ? (s - t) / (s + t) : 0)
  const { alone } = expected(mixtures, statsOf(coarsePx))
  const grainOf = (variance: number) => (variance - rounding * white.alone) / alone
  return {
    levels: levelsFrom(binned, grainOf),
    coarsePx,
    pooled: Math.sqrt(Math.max(0, grainOf(single.variance()))),
  }
}

/** Where places of the picture fall on the other frame: by the known motion, and the drift of all of them. */
class Spots {
  right = 0
  down = 0
  #at = 0
  readonly #scale: number
  #drift: Drift = { dx: 0, dy: 0 }
  constructor(
    readonly picture: Raster,
    readonly rect: Rect,
    readonly places: Int32Array,
    readonly other: PictureBeside,
  ) {
    this.#scale = 1 / maximumOf(other.picture.data)
  }

  drift(): void {
    this.#drift = findDrift(this.picture, this.rect, this.places, this.other)
  }

  /** Goes to a place; false where it, or the place right of it, is not on the other frame. */
  moveTo(k: number): boolean {
    const { picture, rect: there, thereFromHere } = this.other
    const pixel = this.places[k]!
    const row = (pixel / this.picture.width) | 0
    const to = apply(
      thereFromHere,
      this.rect.col + (pixel - row * this.picture.width) + 0.5,
      this.rect.row + row + 0.5,
    )
    const [left, top] = [to.x + this.#drift.dx - 0.5 - there.col, to.y + this.#drift.dy - 0.5 - there.row]
    const [leftmost, topmost] = [Math.floor(left), Math.floor(top)]
    if (leftmost < 0 || topmost < 0 || leftmost + 2 >= picture.width || topmost + 1 >= picture.height)
      return false
    this.#at = (topmost * picture.width + leftmost) * picture.channels
    this.right = left - leftmost
    this.down = top - topmost
    return true
  }

  /** The other frame's value there, bilinear. @param offset  A channel; plus the number of channels for the place to the right. */
  read(offset: number): number {
    const { data, width, channels } = this.other.picture
    const [at, below] = [this.#at + offset, this.#at + offset + width * channels]
    const upper = data[at]! + this.right * (data[at + channels]! - data[at]!)
    return (
      this.#scale *
      (upper + this.down * (data[below]! + this.right * (data[below + channels]! - data[below]!) - upper))
    )
  }

  /** Whether the other frame is this one again, as where a film of fewer frames was stretched. */
  isDoubled(): boolean {
    const { data, channels } = this.picture
    let [equal, compared] = [0, 0]
    for (let k = 0; k < this.places.length; k++) {
      if (!this.moveTo(k)) continue
      for (let c = 0; c < channels; c++)
        if (Math.abs(data[this.places[k]! * channels + c]! - this.read(c)) < SAME) equal++
      compared += channels
    }
    return compared < MIN_PLACES * channels || equal > SAME_FRAME_SHARE * compared
  }
}

/** Means of f (1 - f) of the fractions f between pixels, along rows and columns: how much of neighbours is mixed in. */
interface Mixture {
  readonly right: number
  readonly down: number
}

/** The variance of a difference of two frames, and its covariance with that of the place beside it, for grain of deviation 1. */
function expected(
  mixtures: readonly Mixture[],
  { correlations: { r1, r2 } }: CoarseStats,
): { alone: number; pair: number } {
  let [alone, pair] = [0, 0]
  for (const { right, down } of mixtures) {
    const acrossRows = 1 - 2 * down + 2 * down * r1
    alone += 1 + acrossRows * (1 - 2 * right + 2 * right * r1)
    pair += r1 + acrossRows * ((1 - 2 * right) * r1 + right * (1 + r2))
  }
  return { alone: alone / mixtures.length, pair: pair / mixtures.length }
}
