/** How the surroundings of an area moved to another frame, beyond what is known: a shift in px, found by itself. The loops are in `kernels/assembly/drift.ts`. */
import { apply, type Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import { maximumOf, type Samples } from '../image/samples'
import type { Rect } from '../image/rect'
import { withKernelMemory, type KernelScope } from '../kernels/memory'
import { kernels } from '../kernels/module'

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
  const bytes = picture.data.byteLength + beside.picture.data.byteLength + 80 * some.length + 4096
  return withKernelMemory(bytes, (scope) => {
    const compared = openComparison(picture, rect, some, beside, scope)
    return refine(compared, wholeDrift(compared))
  })
}

/** Places here and there in kernel memory. */
interface Comparison {
  readonly count: number
  differenceAt(dx: number, dy: number): number
  /** The sums of one step: xx, xy, yy, xr, yr. @returns null where too few places lie in the other picture. */
  sumsAt(dx: number, dy: number): Float64Array | null
}

function openComparison(
  picture: Raster,
  rect: Rect,
  places: Int32Array,
  { picture: other, rect: there, thereFromHere }: PictureBeside,
  scope: KernelScope,
): Comparison {
  const count = places.length
  const list = () => scope.reserve(8 * count)
  const [sums, means, slopesX, slopesY, xs, ys, residues] = [
    list(),
    list(),
    list(),
    list(),
    list(),
    list(),
    list(),
  ]
  const [sizes, out] = [scope.reserve(4 * count), scope.reserve(40)]
  const { driftOwn, driftDifference, driftSums, memory } = kernels()
  const source = scope.pointerTo(other.data)
  // prettier-ignore
  driftOwn(
    scope.pointerTo(picture.data), picture.width, picture.channels, scope.pointerTo(places), count,
    sums, means, slopesX, slopesY,
  )
  const [toX, toY] = [new Float64Array(memory.buffer, xs, count), new Float64Array(memory.buffer, ys, count)]
  for (let k = 0; k < count; k++) {
    const row = (places[k]! / picture.width) | 0
    const to = apply(thereFromHere, rect.col + places[k]! - row * picture.width + 0.5, rect.row + row + 0.5)
    toX[k] = to.x - there.col
    toY[k] = to.y - there.row
  }
  const is16 = other.data.BYTES_PER_ELEMENT === 2
  const scale = 1 / maximumOf(other.data)
  const { width, height, channels } = other
  return {
    count,
    differenceAt: (dx, dy) =>
      driftDifference(sums, xs, ys, count, source, is16, scale, width, height, channels, dx, dy),
    sumsAt(dx, dy) {
      // prettier-ignore
      const seen = driftSums(
        means, slopesX, slopesY, xs, ys, count, source, is16, scale, width, height, channels, dx, dy,
        residues, sizes, out,
      )
      return 2 * seen < count || seen === 0 ? null : new Float64Array(memory.buffer, out, 5)
    },
  }
}

const AROUND = [[-1, 0], [1, 0], [0, -1], [0, 1], [-1, -1], [1, -1], [-1, 1], [1, 1]] as const // prettier-ignore

function wholeDrift({ differenceAt }: Comparison): Drift {
  const known = new Map<number, number>()
  const costAt = (dx: number, dy: number): number => {
    if (Math.abs(dx) > MAX_DRIFT_PX || Math.abs(dy) > MAX_DRIFT_PX) return Infinity
    const key = dx * 64 + dy
    let cost = known.get(key)
    if (cost === undefined) known.set(key, (cost = differenceAt(dx, dy)))
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
function refine({ sumsAt }: Comparison, from: Drift): Drift {
  let { dx, dy } = from
  const limited = (step: number) => Math.min(Math.max(step, -MAX_STEP_PX), MAX_STEP_PX)
  for (let round = 0; round < ROUNDS; round++) {
    const sums = sumsAt(dx, dy)
    if (!sums) return from
    const [xx, xy, yy, xr, yr] = sums as unknown as [number, number, number, number, number]
    const determinant = xx * yy - xy * xy
    // Stripes say nothing of the way along them, flat colour nothing at all.
    if (!(determinant > 1e-3 * (xx + yy) * (xx + yy))) return from
    const stepX = limited((xy * yr - yy * xr) / determinant)
    const stepY = limited((xy * xr - xx * yr) / determinant)
    dx += stepX
    dy += stepY
    if (Math.abs(dx - from.dx) > 1 || Math.abs(dy - from.dy) > 1) return from
    if (Math.abs(stepX) < SETTLED_PX && Math.abs(stepY) < SETTLED_PX) break
  }
  return { dx, dy }
}
