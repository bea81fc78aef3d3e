// Randomised search for similar patches. A pixel's features are eight floats (two vectors): colour, and the
// slope of its brightness, weighted beforehand. `field` holds for each pixel the index of the centre that its patch
// is like, or −1. Pixels whose `valid` is 1 may be such centres: their whole patch is known.

// @ts-ignore: decorator
@inline
function mix(value: u32): u32 {
  let h = value
  h = (h ^ (h >> 16)) * 0x7feb352d
  h = (h ^ (h >> 15)) * 0x846ca68b
  return h ^ (h >> 16)
}

// @ts-ignore: decorator
@inline
function lanesSum(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3)
}

/** The first offset from `from` on at which a place lies on the grid. */
// @ts-ignore: decorator
@inline
function onGrid(from: i32, place: i32, stride: i32): i32 {
  return from + (stride - ((place + from) % stride)) % stride
}

/** Squared distance of the patches around two pixels; gives up once above `most`. Both lie `radius` inside. */
function distance(features: usize, width: i32, radius: i32, a: i32, b: i32, most: f32): f32 {
  let total: f32 = 0
  for (let dy = -radius; dy <= radius; dy++) {
    let p = features + (<usize>(a + dy * width - radius) << 5)
    let q = features + (<usize>(b + dy * width - radius) << 5)
    let sum = f32x4.splat(0)
    for (let dx = -radius; dx <= radius; dx++) {
      const d = f32x4.sub(v128.load(p), v128.load(q))
      const e = f32x4.sub(v128.load(p, 16), v128.load(q, 16))
      sum = f32x4.add(sum, f32x4.add(f32x4.mul(d, d), f32x4.mul(e, e)))
      p += 32
      q += 32
    }
    total += lanesSum(sum)
    if (total > most) return total
  }
  return total
}

/** Distances of the present field. `list` holds the pixels that are searched for. */
export function patchDistances(features: usize, width: i32, radius: i32, list: usize, count: i32, field: usize, out: usize): void {
  for (let k = 0; k < count; k++) {
    const a = load<i32>(list + (<usize>k << 2))
    store<f32>(out + (<usize>a << 2), distance(features, width, radius, a, load<i32>(field + (<usize>a << 2)), f32.MAX_VALUE))
  }
}

/**
 * One pass of the search over `list`: what fits a neighbour, shifted along, then places drawn around the best
 * so far, in circles that halve from `reach`. Even passes go forward, odd ones back.
 * A pixel is never like one nearer than `apart`. Pixels of the list lie on a grid of `stride` both ways.
 */
export function patchSearch(
  features: usize, valid: usize, width: i32, height: i32, radius: i32, list: usize, count: i32,
  field: usize, distances: usize, reach: i32, pass: i32, seed: i32, apart: i32, stride: i32,
): void {
  const isBack = (pass & 1) == 1
  const step = isBack ? -stride : stride
  for (let n = 0; n < count; n++) {
    const a = load<i32>(list + (<usize>(isBack ? count - 1 - n : n) << 2))
    const col = a % width
    const row = a / width
    let best = load<i32>(field + (<usize>a << 2))
    let least = load<f32>(distances + (<usize>a << 2))
    for (let side = 0; side < 2; side++) {
      const shift = side == 0 ? step : step * width
      const neighbour = a - shift
      if (neighbour < 0 || neighbour >= width * height) continue
      const theirs = load<i32>(field + (<usize>neighbour << 2))
      if (theirs < 0) continue
      const candidate = theirs + shift
      if (candidate < 0 || candidate >= width * height || candidate == best || load<u8>(valid + candidate) == 0) continue
      if (max(abs(candidate % width - col), abs(candidate / width - row)) < apart) continue
      const d = distance(features, width, radius, a, candidate, least)
      if (d < least) {
        least = d
        best = candidate
      }
    }
    let random = mix(<u32>seed ^ mix(<u32>a ^ mix(<u32>pass)))
    for (let circle = reach; circle >= 1; circle >>= 1) {
      random = mix(random + 0x9e3779b9)
      const span = 2 * circle + 1
      const x = best % width + <i32>((random & 0xffff) * span >> 16) - circle
      const y = best / width + <i32>((random >> 16) * span >> 16) - circle
      if (x < 0 || y < 0 || x >= width || y >= height) continue
      const candidate = y * width + x
      if (load<u8>(valid + candidate) == 0) continue
      if (max(abs(x - col), abs(y - row)) < apart) continue
      const d = distance(features, width, radius, a, candidate, least)
      if (d < least) {
        least = d
        best = candidate
      }
    }
    store<i32>(field + (<usize>a << 2), best)
    store<f32>(distances + (<usize>a << 2), least)
  }
}

/**
 * New features of the pixels in `targets`: what the patches that cover each say of it, weighted by how well those
 * patches fit (`weights`, one for each pixel).
 */
export function patchVote(
  features: usize, width: i32, height: i32, radius: i32, stride: i32, targets: usize, count: i32, field: usize, weights: usize, out: usize,
): void {
  for (let k = 0; k < count; k++) {
    const a = load<i32>(targets + (<usize>k << 2))
    const col = a % width
    const row = a / width
    let first = f32x4.splat(0)
    let second = f32x4.splat(0)
    let total: f32 = 0
    for (let dy = onGrid(max(-radius, -row), row, stride); dy <= min(radius, height - 1 - row); dy += stride) {
      for (let dx = onGrid(max(-radius, -col), col, stride); dx <= min(radius, width - 1 - col); dx += stride) {
        const other = a + dy * width + dx
        const source = load<i32>(field + (<usize>other << 2))
        if (source < 0) continue
        const weight = load<f32>(weights + (<usize>other << 2))
        const from = features + (<usize>(source - dy * width - dx) << 5)
        const w = f32x4.splat(weight)
        first = f32x4.add(first, f32x4.mul(w, v128.load(from)))
        second = f32x4.add(second, f32x4.mul(w, v128.load(from, 16)))
        total += weight
      }
    }
    const to = out + (<usize>k << 5)
    const scale = f32x4.splat(total > 0 ? 1 / total : 0)
    v128.store(to, f32x4.mul(first, scale))
    v128.store(to, f32x4.mul(second, scale), 16)
  }
}

/**
 * For each target the three shifts that the patches covering it agree on most, and their weights, which sum to 1
 * (raised to the eighth power first, so that one shift rules and others only smooth the passage to the next).
 * `shifts`: three i32 for each target, source pixel minus target pixel; `shares`: three f32.
 */
export function patchShifts(
  width: i32, height: i32, radius: i32, stride: i32, targets: usize, count: i32, field: usize, weights: usize, work: usize, shifts: usize, shares: usize,
): void {
  for (let k = 0; k < count; k++) {
    const a = load<i32>(targets + (<usize>k << 2))
    const col = a % width
    const row = a / width
    let n = 0
    for (let dy = onGrid(max(-radius, -row), row, stride); dy <= min(radius, height - 1 - row); dy += stride) {
      for (let dx = onGrid(max(-radius, -col), col, stride); dx <= min(radius, width - 1 - col); dx += stride) {
        const other = a + dy * width + dx
        const source = load<i32>(field + (<usize>other << 2))
        if (source < 0) continue
        const weight = load<f32>(weights + (<usize>other << 2))
        const shift = source - other
        let i = 0
        while (i < n && load<i32>(work + (<usize>i << 3)) != shift) i++
        const at = work + (<usize>i << 3)
        if (i == n) {
          store<i32>(at, shift)
          store<f32>(at, weight, 4)
          n++
        } else store<f32>(at, load<f32>(at, 4) + weight, 4)
      }
    }
    let total: f32 = 0
    let first: f32 = 0
    for (let place = 0; place < 3; place++) {
      let best = -1
      let most: f32 = 0
      for (let i = 0; i < n; i++) {
        const weight = load<f32>(work + (<usize>i << 3), 4)
        if (weight > most) {
          most = weight
          best = i
        }
      }
      const to = <usize>(3 * k + place) << 2
      store<i32>(shifts + to, best < 0 ? 0 : load<i32>(work + (<usize>best << 3)))
      if (place == 0) first = most
      const ratio = first > 0 ? most / first : 0
      const squared = ratio * ratio
      const sharp = squared * squared * squared * squared
      store<f32>(shares + to, sharp)
      total += sharp
      if (best >= 0) store<f32>(work + (<usize>best << 3), 0, 4)
    }
    for (let place = 0; place < 3; place++) {
      const to = shares + (<usize>(3 * k + place) << 2)
      store<f32>(to, total > 0 ? load<f32>(to) / total : 0)
    }
  }
}
