/** Each kernel against a loop that anyone can read. */
import { grainAt, grainOver } from '../finish/grain'
import { kernels } from './module'
import { withKernelMemory, type KernelScope } from './memory'

const [WIDTH, HEIGHT, FEATURES] = [24, 18, 8]
const SIZE = WIDTH * HEIGHT

function random(seed: number): () => number {
  let state = seed
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    return (state >>> 8) / 2 ** 24
  }
}

test('grain is the same from the kernel and from the function, on any rectangle', () => {
  const rect = { col: 1003, row: -7, width: 9, height: 5 }
  const pixels = Int32Array.of(0, 4, 17, 44)
  const made = grainOver(-77, 1024, rect, pixels, 4, 0)
  pixels.forEach((pixel, i) => {
    for (let c = 0; c < 4; c++)
      expect(made[i * 4 + c]).toBe(
        Math.fround(grainAt(-77, 1024, rect.col + (pixel % 9), rect.row + Math.floor(pixel / 9), c)),
      )
  })
})

const SCALE = 400

/** Features as whole numbers, as the kernel compares them. */
const codesOf = (features: Float32Array): Int16Array =>
  Int16Array.from(features, (value) => roundedToEven(Math.fround(SCALE * value)))

const roundedToEven = (value: number): number => {
  const low = Math.floor(value)
  return value - low === 0.5 ? low + (low & 1) : Math.round(value)
}

/** Where the codes of features begin, in kernel memory. */
function codesIn(scope: KernelScope, features: Float32Array): number {
  const at = scope.reserve(features.length * 2)
  kernels().patchCodes(scope.pointerTo(features), features.length / FEATURES, SCALE, at)
  return at
}

/** Squared distance of two patches, feature by feature. */
function patchDistance(features: Int16Array, radius: number, a: number, b: number): number {
  let sum = 0
  for (let dy = -radius; dy <= radius; dy++) {
    for (let dx = -radius; dx <= radius; dx++) {
      for (let f = 0; f < FEATURES; f++)
        sum +=
          (features[(a + dy * WIDTH + dx) * FEATURES + f]! -
            features[(b + dy * WIDTH + dx) * FEATURES + f]!) **
          2
    }
  }
  return sum
}

function scene(seed: number) {
  const next = random(seed)
  const features = Float32Array.from({ length: SIZE * FEATURES }, next)
  const radius = 2
  const isInside = (at: number) =>
    at % WIDTH >= radius && at % WIDTH < WIDTH - radius && at >= radius * WIDTH && at < SIZE - radius * WIDTH
  const valid = Uint8Array.from({ length: SIZE }, (_, at) => (isInside(at) && at % WIDTH < 12 ? 1 : 0))
  const list = Int32Array.from({ length: SIZE }, (_, at) => at).filter(
    (at) => isInside(at) && at % WIDTH >= 14,
  )
  const centres = Int32Array.from({ length: SIZE }, (_, at) => at).filter((at) => valid[at] === 1)
  const field = new Int32Array(SIZE).fill(-1)
  for (const at of list) field[at] = centres[Math.floor(next() * centres.length)]!
  return { features, radius, valid, list, field, next }
}

test('patch distances are what adding them up gives', () => {
  const { features, radius, list, field } = scene(5)
  const codes = codesOf(features)
  withKernelMemory(2 * features.byteLength + SIZE * 16, (scope) => {
    const distances = scope.take(SIZE)
    kernels().patchDistances(
      codesIn(scope, features),
      WIDTH,
      radius,
      scope.pointerTo(list),
      list.length,
      scope.pointerTo(field),
      distances.byteOffset,
    )
    for (const at of list) expect(distances[at]).toBe(patchDistance(codes, radius, at, field[at]!))
  })
})

test('the search only ever improves, stays on what is valid and away from itself, and finds a copy that is there', () => {
  const { features, radius, valid, list, field } = scene(6)
  // The patch around (18, 8) is a copy of the one around (6, 9).
  const [there, here] = [9 * WIDTH + 6, 8 * WIDTH + 18]
  for (let dy = -4; dy <= 4; dy++) {
    for (let dx = -4; dx <= 4; dx++) {
      const [from, to] = [(there + dy * WIDTH + dx) * FEATURES, (here + dy * WIDTH + dx) * FEATURES]
      features.copyWithin(to, from, from + FEATURES)
    }
  }
  const codes = codesOf(features)
  withKernelMemory(2 * features.byteLength + SIZE * 32, (scope) => {
    const pointers = {
      features: codesIn(scope, features),
      valid: scope.pointerTo(valid),
      list: scope.pointerTo(list),
      field: scope.pointerTo(field),
    }
    const found = new Int32Array(kernels().memory.buffer, pointers.field, SIZE)
    const distances = scope.take(SIZE)
    kernels().patchDistances(
      pointers.features,
      WIDTH,
      radius,
      pointers.list,
      list.length,
      pointers.field,
      distances.byteOffset,
    )
    let before = distances.slice()
    for (let pass = 0; pass < 14; pass++) {
      kernels().patchSearch(
        pointers.features,
        pointers.valid,
        WIDTH,
        HEIGHT,
        radius,
        pointers.list,
        list.length,
        pointers.field,
        distances.byteOffset,
        16,
        pass,
        9 + pass,
        2,
        1,
      )
      for (const at of list) {
        expect(distances[at]).toBeLessThanOrEqual(before[at]!)
        expect(valid[found[at]!]).toBe(1)
        expect(distances[at]).toBe(patchDistance(codes, radius, at, found[at]!))
      }
      before = distances.slice()
    }
    expect(found[here]).toBe(there)
    expect(distances[here]).toBe(0)
  })
})

test.each([1, 2])('votes and shifts are what every covering patch says, weighted (grid of %i)', (stride) => {
  const { features, radius, list, field, next } = scene(7)
  const weights = Float32Array.from({ length: SIZE }, () => 0.1 + next())
  for (let at = 0; at < SIZE; at++)
    if ((at % WIDTH) % stride !== 0 || Math.floor(at / WIDTH) % stride !== 0) field[at] = -1
  const targets = list.filter((at) => at % 3 === 0)
  const patches = Int32Array.from(field.keys()).filter((at) => field[at]! >= 0)
  withKernelMemory(2 * features.byteLength + SIZE * 68, (scope) => {
    const pointers = {
      features: scope.pointerTo(features),
      field: scope.pointerTo(field),
      weights: scope.pointerTo(weights),
      targets: scope.pointerTo(targets),
    }
    const votes = scope.take(targets.length * FEATURES)
    kernels().patchVote(
      pointers.features,
      WIDTH,
      HEIGHT,
      radius,
      scope.pointerTo(patches),
      patches.length,
      pointers.targets,
      targets.length,
      pointers.field,
      pointers.weights,
      scope.reserve(SIZE * FEATURES * 4),
      votes.byteOffset,
    )
    const [shiftsAt, sharesAt] = [scope.reserve(targets.length * 12), scope.reserve(targets.length * 12)]
    kernels().patchShifts(
      WIDTH,
      HEIGHT,
      radius,
      stride,
      pointers.targets,
      targets.length,
      pointers.field,
      pointers.weights,
      scope.reserve(25 * 8),
      shiftsAt,
      sharesAt,
    )
    const shifts = new Int32Array(kernels().memory.buffer, shiftsAt, targets.length * 3)
    const shares = new Float32Array(kernels().memory.buffer, sharesAt, targets.length * 3)
    targets.forEach((a, k) => {
      const byShift = new Map<number, number>()
      const sums = new Float64Array(FEATURES)
      let total = 0
      for (let dy = -radius; dy <= radius; dy++) {
        for (let dx = -radius; dx <= radius; dx++) {
          const other = a + dy * WIDTH + dx
          if (field[other]! < 0) continue
          const weight = weights[other]!
          total += weight
          byShift.set(field[other]! - other, (byShift.get(field[other]! - other) ?? 0) + weight)
          for (let f = 0; f < FEATURES; f++)
            sums[f]! += weight * features[(field[other]! - dy * WIDTH - dx) * FEATURES + f]!
        }
      }
      // The eighth place counts weights.
      for (let f = 0; f < FEATURES - 1; f++)
        expect(votes[k * FEATURES + f]).toBeCloseTo(total > 0 ? sums[f]! / total : 0, 4)
      const best = [...byShift].sort(([, p], [, q]) => q - p).slice(0, 3)
      if (best.length === 0) return
      expect(shifts[3 * k]).toBe(best[0]![0])
      const powers = best.map(([, weight]) => (weight / best[0]![1]) ** 8)
      const sum = powers.reduce((p, q) => p + q, 0)
      powers.forEach((power, place) => expect(shares[3 * k + place]).toBeCloseTo(power / sum, 3))
    })
  })
})

test('votes are taken over as features and as codes', () => {
  const { features, next } = scene(8)
  const pixels = Int32Array.of(5, 40, 77)
  const votes = Float32Array.from({ length: pixels.length * FEATURES }, () => 3 * next() - 1)
  withKernelMemory(2 * features.byteLength + 4096, (scope) => {
    const at = scope.pointerTo(features)
    const codes = codesIn(scope, features)
    const { buffer } = kernels().memory
    kernels().patchTake(scope.pointerTo(votes), scope.pointerTo(pixels), pixels.length, SCALE, at, codes)
    const taken = new Float32Array(buffer, at, features.length)
    expect([...new Int16Array(buffer, codes, features.length)]).toEqual([...codesOf(taken)])
    expect([...taken.subarray(40 * FEATURES, 41 * FEATURES)]).toEqual([
      ...votes.subarray(FEATURES, 2 * FEATURES),
    ])
    expect(taken[6 * FEATURES]).toBe(features[6 * FEATURES])
  })
})
