/** How the surroundings of an area moved to another frame, beyond what is known: a shift in px, found by itself. */
import { apply, type Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import { maximumOf, type Samples } from '../image/samples'
import type { Rect } from '../image/rect'

/** The same part of the plate on another frame: few of its samples are looked at, so they stay as they are. */
export interface PictureBeside {
  readonly picture: Samples
  readonly rect: Rect
  /** Where places move to, as far as is known. */
  readonly thereFromHere: Matrix3
}

/** Further than this nothing is looked for. */
export const MAX_DRIFT_PX = 10
const MAX_PLACES = 700
export interface Drift {
  readonly dx: number
  readonly dy: number
}

/**
 * The shift that makes the surroundings most alike: descent over whole px by the mean absolute difference, from coarse
 * steps to fine; then, on means of 3 x 3 px, steps of B. D. Lucas and T. Kanade, "An iterative image registration
 * technique", IJCAI 1981, with places that fit badly counting less.
 * @param places  Pixels of `picture` to go by, each at least 2 px inside of it.
 */
export function findDrift(picture: Raster, rect: Rect, places: Int32Array, beside: PictureBeside): Drift {
  const stride = Math.max(1, Math.ceil(places.length / MAX_PLACES))
  const some = stride === 1 ? places : places.filter((_, i) => i % stride === 0)
  const whole = wholeDrift(picture, rect, some, beside)
  return refine(picture, rect, some, beside, whole)
}

const AROUND = [[-1, 0], [1, 0], [0, -1], [0, 1], [-1, -1], [1, -1], [-1, 1], [1, 1]] as const // prettier-ignore

function wholeDrift(picture: Raster, rect: Rect, places: Int32Array, beside: PictureBeside): Drift {
  const known = new Map<number, number>()
  const costAt = (dx: number, dy: number): number => {
    if (Math.abs(dx) > MAX_DRIFT_PX || Math.abs(dy) > MAX_DRIFT_PX) return Infinity
    const key = dx * 64 + dy
    let cost = known.get(key)
    if (cost === undefined) known.set(key, (cost = differenceAt(picture, rect, places, beside, dx, dy)))
    return cost
  }
  let [x, y] = [0, 0]
  for (const step of [4, 2, 1]) {
    for (;;) {
      let [bestX, bestY] = [x, y]
      for (const [dx, dy] of AROUND) {
        if (costAt(x + dx * step, y + dy * step) < costAt(bestX, bestY))
          [bestX, bestY] = [x + dx * step, y + dy * step]
      }
      if (bestX === x && bestY === y) break
      ;[x, y] = [bestX, bestY]
    }
  }
  return { dx: x, dy: y }
}

const ROUNDS = 6
const MAX_STEP_PX = 0.5
const SETTLED_PX = 0.002

/** To fractions of a px. What leads further than a px away from where it began is not believed. */
function refine(
  picture: Raster,
  rect: Rect,
  places: Int32Array,
  { picture: other, rect: there, thereFromHere }: PictureBeside,
  from: Drift,
): Drift {
  const count = places.length
  const [value, slopeX, slopeY, residue] = [
    new Float32Array(count),
    new Float32Array(count),
    new Float32Array(count),
    new Float32Array(count),
  ]
  const { width } = picture
  const scale = 1 / maximumOf(other.data)
  for (let k = 0; k < count; k++) {
    const [col, row] = [places[k]! % width, (places[k]! / width) | 0]
    value[k] = meanAround(picture, col, row)
    slopeX[k] = (meanAround(picture, col + 1, row) - meanAround(picture, col - 1, row)) / 2
    slopeY[k] = (meanAround(picture, col, row + 1) - meanAround(picture, col, row - 1)) / 2
  }
  let { dx, dy } = from
  for (let round = 0; round < ROUNDS; round++) {
    for (let k = 0; k < count; k++) {
      const to = apply(
        thereFromHere,
        rect.col + (places[k]! % width) + 0.5,
        rect.row + ((places[k]! / width) | 0) + 0.5,
      )
      residue[k] =
        scale * meanBetween(other, to.x + dx - there.col - 0.5, to.y + dy - there.row - 0.5) - value[k]!
    }
    const sizes = residue
      .filter((one) => !Number.isNaN(one))
      .map(Math.abs)
      .sort()
    if (2 * sizes.length < count) return from
    const usual = Math.max(2 * sizes[sizes.length >> 1]!, 1e-6)
    let [xx, xy, yy, xr, yr] = [0, 0, 0, 0, 0]
    for (let k = 0; k < count; k++) {
      if (Number.isNaN(residue[k]!)) continue
      const misfit = residue[k]! / usual
      const weight = 1 / (1 + misfit * misfit)
      xx += weight * slopeX[k]! * slopeX[k]!
      xy += weight * slopeX[k]! * slopeY[k]!
      yy += weight * slopeY[k]! * slopeY[k]!
      xr += weight * slopeX[k]! * residue[k]!
      yr += weight * slopeY[k]! * residue[k]!
    }
    const determinant = xx * yy - xy * xy
    // Stripes say nothing of the way along them, flat colour nothing at all.
    if (!(determinant > 1e-3 * (xx + yy) * (xx + yy))) return from
    const limited = (step: number) => Math.min(Math.max(step, -MAX_STEP_PX), MAX_STEP_PX)
    const [stepX, stepY] = [
      limited((xy * yr - yy * xr) / determinant),
      limited((xy * xr - xx * yr) / determinant),
    ]
    dx += stepX
    dy += stepY
    if (Math.abs(dx - from.dx) > 1 || Math.abs(dy - from.dy) > 1) return from
    if (Math.abs(stepX) < SETTLED_PX && Math.abs(stepY) < SETTLED_PX) break
  }
  return { dx, dy }
}

/** Mean of 3 x 3 px, all channels together; NaN beyond the picture. */
function meanAround({ width, height, channels, data }: Raster | Samples, col: number, row: number): number {
  if (col < 1 || row < 1 || col + 1 >= width || row + 1 >= height) return NaN
  let sum = 0
  for (let y = row - 1; y <= row + 1; y++) {
    const begin = (y * width + col - 1) * channels
    for (let at = begin; at < begin + 3 * channels; at++) sum += data[at]!
  }
  return sum / 9
}

function meanBetween(picture: Samples, x: number, y: number): number {
  const [col, row] = [Math.floor(x), Math.floor(y)]
  const [right, down] = [x - col, y - row]
  const upper = (1 - right) * meanAround(picture, col, row) + right * meanAround(picture, col + 1, row)
  const lower =
    (1 - right) * meanAround(picture, col, row + 1) + right * meanAround(picture, col + 1, row + 1)
  return (1 - down) * upper + down * lower
}

/** Mean absolute difference of all channels together; without limit where too little of it is in the other picture. */
function differenceAt(
  { width, channels, data }: Raster,
  rect: Rect,
  places: Int32Array,
  { picture, rect: there, thereFromHere }: PictureBeside,
  dx: number,
  dy: number,
): number {
  const scale = 1 / maximumOf(picture.data)
  let [sum, count] = [0, 0]
  for (const pixel of places) {
    const { x, y } = apply(
      thereFromHere,
      rect.col + (pixel % width) + 0.5,
      rect.row + ((pixel / width) | 0) + 0.5,
    )
    const [col, row] = [Math.floor(x) + dx - there.col, Math.floor(y) + dy - there.row]
    if (col < 0 || row < 0 || col >= there.width || row >= there.height) continue
    const other = (row * there.width + col) * channels
    let difference = 0
    for (let c = 0; c < channels; c++)
      difference += data[pixel * channels + c]! - scale * picture.data[other + c]!
    sum += Math.abs(difference)
    count++
  }
  return 2 * count > places.length ? sum / count : Infinity
}
