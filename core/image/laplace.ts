/**
 * Laplace's equation on the pixels of an area: every value is the mean of its four neighbours, those at the
 * rim are given. Conjugate gradients with a multigrid cycle before each step, so that the number of steps
 * hardly grows with the area and cost is linear in it.
 *
 * Each level joins up to 2 × 2 unknowns of the one below. Joining sums the couplings; halving them
 * gives the coarse grid the stiffness that a grid of twice the spacing has.
 * Sources: M. Hestenes, E. Stiefel, 1952 (conjugate gradients); W. Briggs, V. Henson, S. McCormick, "A Multigrid
 * Tutorial", 2nd ed., 2000 (cycles); D. Braess, "Towards algebraic multigrid for elliptic problems of second
 * order", 1995 (joining and its scaling).
 */
import { kernels } from '../kernels/module'
import { withKernelMemory, type KernelScope } from '../kernels/memory'
import type { Raster } from './raster'

/** The unknown pixels of an area and what lies beside each. */
export interface Grid {
  readonly count: number
  /** The pixel of each unknown, in reading order. */
  readonly pixels: Int32Array
  /** Four for each unknown (left, right, above, below): the index of an unknown, NOTHING, or RIM − pixel of a known one. */
  readonly neighbours: Int32Array
  readonly hasRim: boolean
}

export const NOTHING = -1
export const RIM = -2

/**
 * @param isUnknown  1 for each pixel to be solved for.
 * @param isKnown    1 for each pixel that may stand at the rim; others are as if the picture ended there.
 */
export function gridOf(isUnknown: Uint8Array, isKnown: Uint8Array, width: number): Grid {
  const size = isUnknown.length
  let count = 0
  for (let pixel = 0; pixel < size; pixel++) count += isUnknown[pixel]!
  const indexOf = new Int32Array(size).fill(NOTHING)
  const pixels = new Int32Array(count)
  for (let pixel = 0, k = 0; pixel < size; pixel++) {
    if (isUnknown[pixel] === 0) continue
    indexOf[pixel] = k
    pixels[k++] = pixel
  }
  const neighbours = new Int32Array(count * 4)
  let hasRim = false
  for (let k = 0; k < count; k++) {
    const pixel = pixels[k]!
    const col = pixel % width
    for (let n = 0; n < 4; n++) {
      // Left, right, above, below; -1 beyond the picture.
      const at =
        n === 0
          ? col > 0
            ? pixel - 1
            : -1
          : n === 1
            ? col < width - 1
              ? pixel + 1
              : -1
            : n === 2
              ? pixel - width
              : pixel + width < size
                ? pixel + width
                : -1
      if (at < 0) neighbours[k * 4 + n] = NOTHING
      else if (indexOf[at]! >= 0) neighbours[k * 4 + n] = indexOf[at]!
      else if (isKnown[at] === 1) {
        neighbours[k * 4 + n] = RIM - at
        hasRim = true
      } else neighbours[k * 4 + n] = NOTHING
    }
  }
  return { count, pixels, neighbours, hasRim }
}

const LANES = 4
const ENOUGH = 3e-6 // root mean square of what is left, in the raster's scale: a fifth of a 16-bit step
const MAX_STEPS = 60
const COARSEST = 24
const SWEEPS_AT_THE_BOTTOM = 12

/** Bytes of kernel memory that solving for `count` unknowns takes. */
export const laplaceBytes = (count: number): number =>
  Math.ceil(count * 1.6) * (16 * 4 + 16 * 2 + 16 + 8) + 65536

/**
 * Solves for up to four channels at once.
 *
 * @param rim     Gives the values at the rim; only those pixels are read.
 * @param extra   Added to the right side: what the four differences of each unknown to its neighbours should sum to.
 * @returns The solution, `rim.channels` for each unknown; null when it was stopped.
 */
export function solveLaplace(
  grid: Grid,
  rim: Raster,
  shouldStop: () => boolean,
  extra: Float32Array | null = null,
): Float32Array | null {
  const { channels, data } = rim
  if (channels > LANES)
    throw new RangeError(`at most ${LANES} channels are solved at once. Received ${channels}`)
  const out = new Float32Array(grid.count * channels)
  if (grid.count === 0) return out
  return withKernelMemory(laplaceBytes(grid.count), (scope) => {
    const levels = levelsOf(grid, rim.width, scope)
    const finest = levels[0]!
    const { count: n } = finest
    // From the rim's mean: then the right side holds only what differs from it.
    const mean = rimMean(grid, rim)
    const b = finest.b
    for (let k = 0; k < n; k++) {
      for (let at = k * 4; at < k * 4 + 4; at++) {
        const neighbour = grid.neighbours[at]!
        if (neighbour > RIM) continue
        for (let c = 0; c < channels; c++)
          b[k * LANES + c]! += data[(RIM - neighbour) * channels + c]! - mean[c]!
      }
      if (extra) for (let c = 0; c < channels; c++) b[k * LANES + c]! += extra[k * channels + c]!
    }
    const x = zeros(scope, n + 1)
    const isDone = conjugateGradients(levels, x, b, scope, shouldStop)
    if (!isDone) return null
    for (let k = 0; k < n; k++)
      for (let c = 0; c < channels; c++) out[k * channels + c] = x[k * LANES + c]! + mean[c]!
    return out
  })
}

function rimMean(grid: Grid, { channels, data }: Raster): Float64Array {
  const mean = new Float64Array(channels)
  let count = 0
  for (const neighbour of grid.neighbours) {
    if (neighbour > RIM) continue
    for (let c = 0; c < channels; c++) mean[c]! += data[(RIM - neighbour) * channels + c]!
    count++
  }
  return mean.map((sum) => (count > 0 ? sum / count : 0))
}

interface Level {
  readonly count: number
  /** Addresses in kernel memory. */
  readonly neighbours: number
  readonly weights: number
  readonly diagonal: number
  readonly inverse: number
  /** Of each unknown the one of the next level that it is part of; 0 on the last level. */
  readonly parent: number
  readonly b: Float32Array
  readonly x: Float32Array
}

function zeros(scope: KernelScope, vectors: number): Float32Array {
  const address = scope.reserve(vectors * LANES * 4)
  return new Float32Array(kernels().memory.buffer, address, vectors * LANES).fill(0)
}

interface PlainLevel {
  readonly cols: Int32Array
  readonly rows: Int32Array
  readonly neighbours: Int32Array
  readonly weights: Float32Array
  readonly diagonal: Float32Array
}

function levelsOf(grid: Grid, width: number, scope: KernelScope): Level[] {
  const { count, pixels } = grid
  const neighbours = new Int32Array(count * 4)
  const weights = new Float32Array(count * 4)
  const diagonal = new Float32Array(count)
  for (let k = 0; k < count; k++) {
    for (let at = k * 4; at < k * 4 + 4; at++) {
      const neighbour = grid.neighbours[at]!
      if (neighbour !== NOTHING) diagonal[k]!++
      neighbours[at] = neighbour >= 0 ? neighbour : count
      weights[at] = neighbour >= 0 ? 1 : 0
    }
    if (diagonal[k] === 0) diagonal[k] = 1 // alone: it stays at the mean
  }
  let plain: PlainLevel = {
    cols: pixels.map((pixel) => pixel % width),
    rows: pixels.map((pixel) => (pixel / width) | 0),
    neighbours,
    weights,
    diagonal,
  }
  const levels: Level[] = []
  for (;;) {
    const isLast = plain.cols.length <= COARSEST || levels.length > 12
    const joined = isLast ? null : joinUnknowns(plain)
    const n = plain.cols.length
    levels.push({
      count: n,
      neighbours: scope.pointerTo(plain.neighbours),
      weights: scope.pointerTo(plain.weights),
      diagonal: scope.pointerTo(plain.diagonal),
      inverse: scope.pointerTo(plain.diagonal.map((value) => 1 / value)),
      parent: joined ? scope.pointerTo(joined.parent) : 0,
      b: zeros(scope, n + 1),
      x: zeros(scope, n + 1),
    })
    if (!joined || joined.level.cols.length === n) return levels
    plain = joined.level
  }
}

function joinUnknowns({ cols, rows, neighbours, weights, diagonal }: PlainLevel): {
  level: PlainLevel
  parent: Int32Array
} {
  const n = cols.length
  const parent = new Int32Array(n)
  const across = (largest(cols) >> 1) + 2
  const top = smallest(rows) >> 1
  const seen = new Int32Array(across * ((largest(rows) >> 1) - top + 1)).fill(-1)
  const coarseCols: number[] = []
  const coarseRows: number[] = []
  for (let k = 0; k < n; k++) {
    const [col, row] = [cols[k]! >> 1, rows[k]! >> 1]
    const key = (row - top) * across + col
    let index = seen[key]!
    if (index < 0) {
      index = coarseCols.length
      seen[key] = index
      coarseCols.push(col)
      coarseRows.push(row)
    }
    parent[k] = index
  }
  const count = coarseCols.length
  const level: PlainLevel = {
    cols: Int32Array.from(coarseCols),
    rows: Int32Array.from(coarseRows),
    neighbours: new Int32Array(count * 4).fill(count),
    weights: new Float32Array(count * 4),
    diagonal: new Float32Array(count),
  }
  for (let k = 0; k < n; k++) {
    const own = parent[k]!
    let fixedHolds = diagonal[k]!
    for (let at = 0; at < 4; at++) {
      const neighbour = neighbours[k * 4 + at]!
      if (neighbour === n) continue
      fixedHolds -= weights[k * 4 + at]!
      const other = parent[neighbour]!
      if (other === own) continue
      // Left, right, above and below stay so: a coarse unknown has no more than four neighbours.
      level.neighbours[own * 4 + at] = other
      level.weights[own * 4 + at]! += weights[k * 4 + at]! / 2
      level.diagonal[own]! += weights[k * 4 + at]! / 2
    }
    level.diagonal[own]! += fixedHolds / 2
  }
  for (let k = 0; k < count; k++) if (!(level.diagonal[k]! > 0)) level.diagonal[k] = 1
  return { level, parent }
}

function largest(numbers: Int32Array): number {
  let max = 0
  for (const number of numbers) max = Math.max(max, number)
  return max
}

const smallest = (numbers: Int32Array): number =>
  numbers.reduce((min, value) => Math.min(min, value), Infinity)

/** One symmetric cycle: `level.x` becomes about A⁻¹ `level.b`. */
function cycle(levels: readonly Level[], depth: number): void {
  const level = levels[depth]!
  const { count, neighbours, weights, diagonal, inverse, parent, b, x } = level
  const k = kernels()
  x.fill(0)
  if (depth === levels.length - 1) {
    for (let i = 0; i < SWEEPS_AT_THE_BOTTOM; i++)
      k.membraneSweep(count, neighbours, weights, inverse, b.byteOffset, x.byteOffset, 0)
    for (let i = 0; i < SWEEPS_AT_THE_BOTTOM; i++)
      k.membraneSweep(count, neighbours, weights, inverse, b.byteOffset, x.byteOffset, 1)
    return
  }
  const coarse = levels[depth + 1]!
  k.membraneSweep(count, neighbours, weights, inverse, b.byteOffset, x.byteOffset, 0)
  coarse.b.fill(0)
  k.membraneRestrict(
    count,
    neighbours,
    weights,
    diagonal,
    b.byteOffset,
    x.byteOffset,
    parent,
    coarse.b.byteOffset,
  )
  cycle(levels, depth + 1)
  k.membraneProlong(count, parent, coarse.x.byteOffset, x.byteOffset)
  k.membraneSweep(count, neighbours, weights, inverse, b.byteOffset, x.byteOffset, 1)
}

/** @returns false when it was stopped. `residual` starts as the right side and is used up. */
function conjugateGradients(
  levels: readonly Level[],
  x: Float32Array,
  right: Float32Array,
  scope: KernelScope,
  shouldStop: () => boolean,
): boolean {
  const k = kernels()
  const finest = levels[0]!
  const { count: n, neighbours, weights, diagonal } = finest
  const residual = zeros(scope, n + 1)
  residual.set(right)
  const direction = zeros(scope, n + 1)
  const along = zeros(scope, n + 1)
  const products = new Float64Array(kernels().memory.buffer, scope.reserve(32), 4)
  const factor = zeros(scope, 1)
  const scale = zeros(scope, 1)
  const dot = (a: Float32Array, b: Float32Array) => {
    k.membraneDot(n, a.byteOffset, b.byteOffset, products.byteOffset)
    return [products[0]!, products[1]!, products[2]!, products[3]!]
  }
  const ratio = (a: number, b: number) => (Math.abs(b) > 1e-30 ? a / b : 0)
  let energy = [0, 0, 0, 0]
  let left = dot(residual, residual)
  for (let step = 0; step < MAX_STEPS; step++) {
    if (shouldStop()) return false
    if (left.every((rest) => rest <= ENOUGH * ENOUGH * n)) return true
    finest.b.set(residual)
    cycle(levels, 0)
    const next = dot(residual, finest.x)
    for (let c = 0; c < LANES; c++) {
      scale[c] = step === 0 ? 0 : ratio(next[c]!, energy[c]!)
      factor[c] = 1
    }
    k.membraneBlend(n, scale.byteOffset, direction.byteOffset, factor.byteOffset, finest.x.byteOffset)
    energy = next
    k.membraneApplyDot(
      n,
      neighbours,
      weights,
      diagonal,
      direction.byteOffset,
      along.byteOffset,
      products.byteOffset,
    )
    for (let c = 0; c < LANES; c++) factor[c] = ratio(energy[c]!, products[c]!)
    k.membraneStep(
      n,
      factor.byteOffset,
      direction.byteOffset,
      along.byteOffset,
      x.byteOffset,
      residual.byteOffset,
      products.byteOffset,
    )
    left = [...products]
  }
  return true
}
