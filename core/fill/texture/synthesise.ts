/**
 * Patch-based completion: every patch of the hole is to look like a patch of the surroundings.
 *
 * From coarse to fine, two steps in turn: each patch that touches the hole is matched with the most similar known
 * patch by a randomised search, then every pixel of the hole takes the mean of what the patches over it say.
 * Similarity counts colour and the slope of brightness.
 * Sources: Y. Wexler, E. Shechtman, M. Irani, "Space-time completion of video", IEEE Trans. PAMI 29(3), 2007 (the two
 * steps, the weights); C. Barnes et al., "PatchMatch", ACM Trans. Graphics 28(3), 2009 (the search); A. Darabi et al.,
 * "Image melding", ACM Trans. Graphics 31(4), 2012 (slopes in the similarity).
 */
import { exp } from '../../kernels/exact'
import { kernels } from '../../kernels/module'
import { withKernelMemory, type KernelScope } from '../../kernels/memory'
import { gridOf, laplaceBytes, solveLaplace } from '../../image/laplace'
import { coloursAsRaster, depthOf, halveLevel, type Level } from './levels'

export interface SynthesisSettings {
  /** Half the side of a patch, less its middle. */
  readonly radius: number
  readonly seed: number
  /** Stops a level early: a first look, at a quarter of the pixels. */
  readonly isDraft: boolean
}

export interface Synthesis {
  /** The pixels of the level's targets, in reading order. */
  readonly targets: Int32Array
  /** Three for each target: how far right and down its sources lie, x, y pairs, px. */
  readonly shifts: Int16Array
  /** Their three shares, which sum to 1. */
  readonly shares: Float32Array
}

const FEATURES = 8 // three colours, two slopes, three spare: two vectors
const SLOPE_WEIGHT = 1.4
/** The largest feature as a code: sums of squared differences over a row of the largest patch fit 32 bits. */
const MAX_CODE = 1000
const MAX_FEATURE = 2 * SLOPE_WEIGHT
const FADE = 1.3 // how much less each px further into the hole is trusted
const COARSEST_DEPTH = 1.5 // in patch radii: there a patch sees both sides of the hole
const MAX_LEVELS = 7
/** How thoroughly: rounds on the levels, passes of the search in each, every how-manieth patch. A first look is coarser. */
const CARE = {
  full: { coarsest: 14, between: 5, finest: 3, passes: 2, stride: 2 },
  preview: { coarsest: 8, between: 2, finest: 0, passes: 1, stride: 4 },
} as const
type Care = (typeof CARE)[keyof typeof CARE]
const APART = 2 // a patch is never like its close neighbour: the hole would smear

/** @returns 'nothing-known' when no whole patch of the surroundings may be used; 'stopped'. */
export function synthesise(
  finest: Level,
  settings: SynthesisSettings,
  shouldStop: () => boolean,
): Synthesis | 'nothing-known' | 'stopped' {
  const levels = [finest]
  while (levels.length < MAX_LEVELS) {
    const last = levels.at(-1)!
    if (largest(depthOf(last)) <= COARSEST_DEPTH * settings.radius) break
    if (Math.min(last.width, last.height) < 8 * settings.radius) break
    const half = halveLevel(last)
    if (!hasSource(half, settings.radius)) break
    levels.push(half)
  }
  if (!hasSource(finest, settings.radius)) return 'nothing-known'
  let field: Int32Array | null = null
  let coarser: Level | null = null
  const care = settings.isDraft ? CARE.preview : CARE.full
  const lastLevel = settings.isDraft && levels.length > 1 ? 1 : 0
  for (let depth = levels.length - 1; depth >= lastLevel; depth--) {
    const rounds = depth === levels.length - 1 ? care.coarsest : depth === 0 ? care.finest : care.between
    const done = solveLevel(
      levels[depth]!,
      coarser,
      field,
      rounds,
      care,
      { ...settings, seed: settings.seed + depth * 7919 },
      shouldStop,
    )
    if (!done) return 'stopped'
    if (depth === lastLevel && depth === 0) return done.synthesis
    field = done.field
    coarser = levels[depth]!
  }
  // The preview: the finest level takes over the matches of the one above, unsearched.
  return solveLevel(finest, coarser, field, 0, care, settings, shouldStop)?.synthesis ?? 'stopped'
}

const largest = (numbers: Int32Array): number => numbers.reduce((max, value) => Math.max(max, value), 0)

const hasSource = (level: Level, radius: number): boolean => validCentres(level, radius).includes(1)

/** 1 for each pixel whose whole patch may be copied. */
function validCentres({ width, height, isUsable }: Level, radius: number): Uint8Array {
  return wholeWindows(isUsable, width, height, radius)
}

/** 1 where the whole window is 1 and lies inside. */
function wholeWindows(mask: Uint8Array, width: number, height: number, radius: number): Uint8Array {
  const along = new Uint8Array(mask.length)
  const size = 2 * radius + 1
  for (let row = 0; row < height; row++) {
    let run = 0
    for (let col = 0; col < width; col++) {
      run = mask[row * width + col] === 1 ? run + 1 : 0
      if (run >= size) along[row * width + col - radius] = 1
    }
  }
  const out = new Uint8Array(mask.length)
  for (let col = 0; col < width; col++) {
    let run = 0
    for (let row = 0; row < height; row++) {
      run = along[row * width + col] === 1 ? run + 1 : 0
      if (run >= size) out[(row - radius) * width + col] = 1
    }
  }
  return out
}

/** Pixels of a mask and all within `radius` of them that lie so far inside the level and on the grid. */
function patchesTouching(
  isTarget: Uint8Array,
  width: number,
  height: number,
  radius: number,
  stride: number,
): Int32Array {
  const empty = isTarget.map((target) => 1 - target)
  const isClear = wholeWindows(empty, width, height, radius)
  const list: number[] = []
  const first = Math.ceil(radius / stride) * stride
  for (let row = first; row < height - radius; row += stride) {
    for (let col = first; col < width - radius; col += stride)
      if (isClear[row * width + col] === 0) list.push(row * width + col)
  }
  return Int32Array.from(list)
}

/** Large patches overlap so much that some of them are enough: those on a grid of so many px. */
const strideOf = (radius: number, { stride }: Care): number => Math.max(1, Math.min(stride, radius >> 1))

function indicesOf(mask: Uint8Array): Int32Array {
  const list = new Int32Array(mask.length)
  let count = 0
  for (let at = 0; at < mask.length; at++) if (mask[at] === 1) list[count++] = at
  return list.slice(0, count)
}

interface Solved {
  readonly field: Int32Array
  readonly synthesis: Synthesis
}

function solveLevel(
  level: Level,
  coarser: Level | null,
  coarserField: Int32Array | null,
  rounds: number,
  care: Care,
  { radius, seed }: SynthesisSettings,
  shouldStop: () => boolean,
): Solved | null {
  const { width, height } = level
  const size = width * height
  const valid = validCentres(level, radius)
  const stride = strideOf(radius, care)
  const list = patchesTouching(level.isTarget, width, height, radius, stride)
  const holes = indicesOf(level.isHole)
  const targets = indicesOf(level.isTarget)
  const colours = coarser && coarserField ? null : stretchedOver(level)
  const bytes =
    size * (FEATURES * (4 + 2 + 4) + 4 + 4 + 4 + 1) +
    (list.length + holes.length * (1 + FEATURES) + targets.length * 7) * 4 +
    65536
  return withKernelMemory(bytes, (scope) => {
    const { memory } = kernels()
    const features = scope.take(size * FEATURES)
    const fieldAt = scope.reserve(size * 4)
    const field = new Int32Array(memory.buffer, fieldAt, size).fill(-1)
    const weights = scope.take(size)
    const distances = scope.take(size)
    const pointers = {
      features: features.byteOffset,
      codes: scope.reserve(size * FEATURES * 2),
      sums: scope.reserve(size * FEATURES * 4),
      valid: scope.pointerTo(valid),
      list: scope.pointerTo(list),
      holes: scope.pointerTo(holes),
      targets: scope.pointerTo(targets),
      field: fieldAt,
      weights: weights.byteOffset,
      distances: distances.byteOffset,
    }
    beginField(field, list, valid, level, coarser, coarserField, radius, stride, seed)
    const scale = MAX_CODE / MAX_FEATURE
    if (rounds > 0) {
      featuresInto(features, colours ?? level.colours, level)
      kernels().patchCodes(pointers.features, size, scale, pointers.codes)
    }
    const votes = scope.take(holes.length * FEATURES)
    const trust = trustOf(level)
    const k = kernels()
    const vote = () => {
      weightsInto(weights, distances, list, trust)
      k.patchVote(
        pointers.features,
        width,
        height,
        radius,
        pointers.list,
        list.length,
        pointers.holes,
        holes.length,
        pointers.field,
        pointers.weights,
        pointers.sums,
        votes.byteOffset,
      )
      k.patchTake(votes.byteOffset, pointers.holes, holes.length, scale, pointers.features, pointers.codes)
    }
    const measure = () =>
      k.patchDistances(
        pointers.codes,
        width,
        radius,
        pointers.list,
        list.length,
        pointers.field,
        pointers.distances,
      )
    const search = (round: number) => {
      measure()
      const reach = coarser ? Math.max(8, Math.min(width, height) >> 2) : Math.max(width, height)
      for (let pass = 0; pass < care.passes; pass++) {
        k.patchSearch(
          pointers.codes,
          pointers.valid,
          width,
          height,
          radius,
          pointers.list,
          list.length,
          pointers.field,
          pointers.distances,
          reach,
          pass,
          seed + round * care.passes + pass,
          APART,
          stride,
        )
      }
    }
    // What came from the coarser level says what the hole looks like here before anything is compared.
    if (coarser && rounds > 0) {
      distances.fill(0)
      vote()
    }
    for (let round = 0; round < rounds; round++) {
      if (shouldStop()) return null
      search(round)
      vote()
    }
    // A level that only takes matches over cannot tell good ones from bad.
    if (rounds === 0) weights.set(trust)
    return { field: field.slice(), synthesis: shiftsOf(scope, level, targets, pointers, radius, stride) }
  })
}

/** The hole's first colours on the coarsest level: the smoothest surface through what is known. */
function stretchedOver(level: Level): Float32Array {
  const isKnown = level.isHole.map((hole) => 1 - hole)
  const grid = gridOf(level.isHole, isKnown, level.width)
  const raster = coloursAsRaster(level)
  if (grid.count === 0 || !grid.hasRim) return raster.data
  const solved = withKernelMemory(laplaceBytes(grid.count), () => solveLaplace(grid, raster, () => false))!
  for (let k = 0; k < grid.count; k++) raster.data.set(solved.subarray(3 * k, 3 * k + 3), grid.pixels[k]! * 3)
  return raster.data
}

function featuresInto(features: Float32Array, colours: Float32Array, { width, height }: Level): void {
  const size = width * height
  const brightness = new Float32Array(size)
  for (let at = 0; at < size; at++)
    brightness[at] = (colours[at * 3]! + colours[at * 3 + 1]! + colours[at * 3 + 2]!) / 3
  features.fill(0)
  for (let row = 0, at = 0; row < height; row++) {
    for (let col = 0; col < width; col++, at++) {
      const to = at * FEATURES
      features[to] = colours[at * 3]!
      features[to + 1] = colours[at * 3 + 1]!
      features[to + 2] = colours[at * 3 + 2]!
      const across = brightness[col < width - 1 ? at + 1 : at]! - brightness[col > 0 ? at - 1 : at]!
      const down = brightness[row < height - 1 ? at + width : at]! - brightness[row > 0 ? at - width : at]!
      features[to + 4] = SLOPE_WEIGHT * across
      features[to + 5] = SLOPE_WEIGHT * down
    }
  }
}

/** Matches to begin with: those of the coarser level, doubled; otherwise any. */
function beginField(
  field: Int32Array,
  list: Int32Array,
  valid: Uint8Array,
  { width, height }: Level,
  coarser: Level | null,
  coarserField: Int32Array | null,
  radius: number,
  stride: number,
  seed: number,
): void {
  const centres = indicesOf(valid)
  for (let n = 0; n < list.length; n++) {
    const at = list[n]!
    const [col, row] = [at % width, (at / width) | 0]
    let match = -1
    if (coarser && coarserField) {
      // The nearest place of the coarser grid, and the way from there.
      const [u, v] = [
        gridPlace(col >> 1, coarser.width, radius, stride),
        gridPlace(row >> 1, coarser.height, radius, stride),
      ]
      const from = coarserField[v * coarser.width + u]!
      if (from >= 0) {
        const x = 2 * (from % coarser.width) + col - 2 * u
        const y = 2 * ((from / coarser.width) | 0) + row - 2 * v
        if (x >= 0 && y >= 0 && x < width && y < height && valid[y * width + x] === 1) match = y * width + x
      }
    }
    if (match < 0) match = centres[hashed(seed ^ at) % centres.length]!
    field[at] = match
  }
}

/** The place of a level's grid at or before `at`, so far inside that a patch fits. */
function gridPlace(at: number, size: number, radius: number, stride: number): number {
  const [first, last] = [
    Math.ceil(radius / stride) * stride,
    Math.floor((size - 1 - radius) / stride) * stride,
  ]
  return Math.min(Math.max(Math.floor(at / stride) * stride, first), last)
}

function hashed(value: number): number {
  let h = value | 0
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d)
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b)
  return (h ^ (h >>> 16)) >>> 0
}

/** How much a patch counts by where its middle lies: patches over known ground more than patches deep in the hole. */
function trustOf(level: Level): Float32Array {
  const powers = new Float32Array(MAX_DEPTH + 1).fill(1)
  for (let depth = 1; depth <= MAX_DEPTH; depth++) powers[depth] = powers[depth - 1]! / FADE
  const depths = depthOf(level)
  const trust = new Float32Array(depths.length)
  for (let at = 0; at < depths.length; at++) trust[at] = powers[Math.min(depths[at]!, MAX_DEPTH)]!
  return trust
}

const MAX_DEPTH = 60

function weightsInto(
  weights: Float32Array,
  distances: Float32Array,
  list: Int32Array,
  trust: Float32Array,
): void {
  const sorted = new Float32Array(list.length)
  for (let n = 0; n < list.length; n++) sorted[n] = distances[list[n]!]!
  sorted.sort()
  const spread = Math.max(sorted[Math.floor(sorted.length * 0.75)] ?? 0, 1e-6) // Wexler et al.: three quarters lie below
  for (let n = 0; n < list.length; n++) {
    const at = list[n]!
    weights[at] = trust[at]! * exp(-0.5 * Math.min(distances[at]! / spread, 40)) + 1e-20
  }
}

function shiftsOf(
  scope: KernelScope,
  { width, height }: Level,
  targets: Int32Array,
  pointers: { readonly targets: number; readonly field: number; readonly weights: number },
  radius: number,
  stride: number,
): Synthesis {
  const count = targets.length
  const work = scope.reserve((2 * radius + 1) * (2 * radius + 1) * 8)
  const shiftsAt = scope.reserve(count * 12)
  const sharesAt = scope.reserve(count * 12)
  kernels().patchShifts(
    width,
    height,
    radius,
    stride,
    pointers.targets,
    count,
    pointers.field,
    pointers.weights,
    work,
    shiftsAt,
    sharesAt,
  )
  const { buffer } = kernels().memory
  const raw = new Int32Array(buffer, shiftsAt, count * 3)
  const shifts = new Int16Array(count * 6)
  for (let k = 0; k < count; k++) {
    const target = targets[k]!
    for (let place = 0; place < 3; place++) {
      const source = target + raw[3 * k + place]!
      shifts[6 * k + 2 * place] = (source % width) - (target % width)
      shifts[6 * k + 2 * place + 1] = ((source / width) | 0) - ((target / width) | 0)
    }
  }
  return { targets, shifts, shares: new Float32Array(buffer, sharesAt, count * 3).slice() }
}
