/**
 * What the line looks like: the direction in colour that tells it best from what lies beside it.
 *
 * Source: R. A. Fisher, "The use of multiple measurements in taxonomic problems", 1936 (linear discriminant).
 */
import { solveSymmetric } from '../../geometry/linear'
import type { Plane } from '../../image/raster'
import { ACROSS_PX, type Straightened } from './ruler'

/** Brightness of the line is `weights · colour`, higher on the line than beside it. */
export interface Appearance {
  readonly weights: readonly number[]
}

/** Each channel by itself. */
export const channelLooks = (channels: number): Appearance[] =>
  Array.from({ length: channels }, (_, c) => ({
    weights: Array.from({ length: channels }, (_, i) => (i === c ? 1 : 0)),
  }))

/** The looks that are tried before the line is known: brighter or darker, in all channels or one. */
export function firstLooks(channels: number): Appearance[] {
  const colours = Math.min(channels, 3)
  const all = Array.from({ length: colours }, () => 1 / colours)
  const single = colours === 1 ? [] : channelLooks(colours)
  return [{ weights: all }, ...single].flatMap(({ weights }) => [
    { weights: weights.map((w) => -w) },
    { weights },
  ])
}

/** One number for each sample of the straightened picture. */
export function seenThrough({ raster }: Straightened, { weights }: Appearance): Plane {
  const { width, height, channels, data } = raster
  const out = new Float32Array(width * height)
  for (let i = 0; i < out.length; i++) {
    let sum = 0
    for (let c = 0; c < weights.length; c++) sum += weights[c]! * data[i * channels + c]!
    out[i] = sum
  }
  return { width, height, data: out }
}

const STEADY = 4e-5 // added to each variance: grain of about 1.6 codes never decides alone

/**
 * Learns the look from a line that has been found.
 * @param offsets  Of the centre from the middle column, px, for each row. @param widths  px, for each row.
 * @returns null where line and surroundings cannot be told apart.
 */
export function learnLook(
  straightened: Straightened,
  offsets: ArrayLike<number>,
  widths: ArrayLike<number>,
  isUsed: (row: number) => boolean,
): Appearance | null {
  const { raster, middle } = straightened
  const colours = Math.min(raster.channels, 3)
  const inside = new Moments(colours)
  const outside = new Moments(colours)
  for (let row = 0; row < raster.height; row++) {
    if (!isUsed(row)) continue
    for (let column = 0; column < raster.width; column++) {
      const off = Math.abs((column - middle) * ACROSS_PX - offsets[row]!)
      const half = widths[row]! / 2
      if (off < half * 0.6) inside.add(raster.data, (row * raster.width + column) * raster.channels)
      else if (off > half + 1.5 && off < half + 8)
        outside.add(raster.data, (row * raster.width + column) * raster.channels)
    }
  }
  if (inside.count < 8 || outside.count < 8) return null
  const upper = new Float64Array((colours * (colours + 1)) / 2)
  for (let i = 0, at = 0; i < colours; i++)
    for (let j = i; j < colours; j++, at++)
      upper[at] = inside.covariance(at, i, j) + outside.covariance(at, i, j) + (i === j ? STEADY : 0)
  const between = Float64Array.from({ length: colours }, (_, c) => inside.mean(c) - outside.mean(c))
  const solved = solveSymmetric(upper, between)
  if (!solved) return null
  const gap = solved.reduce((sum, w, c) => sum + w * between[c]!, 0)
  // The line is 1 higher than its surroundings: edges then count alike in every shot.
  return gap > 1e-9 ? { weights: Array.from(solved, (w) => w / gap) } : null
}

class Moments {
  count = 0
  readonly #sums: Float64Array
  readonly #products: Float64Array
  readonly #colours: number

  constructor(colours: number) {
    this.#colours = colours
    this.#sums = new Float64Array(colours)
    this.#products = new Float64Array((colours * (colours + 1)) / 2)
  }

  add(data: Float32Array, at: number): void {
    this.count++
    for (let i = 0, k = 0; i < this.#colours; i++) {
      this.#sums[i]! += data[at + i]!
      for (let j = i; j < this.#colours; j++, k++) this.#products[k]! += data[at + i]! * data[at + j]!
    }
  }

  mean = (c: number): number => this.#sums[c]! / this.count
  covariance = (at: number, i: number, j: number): number =>
    this.#products[at]! / this.count - this.mean(i) * this.mean(j)
}
