// Randomised search for similar patches. A pixel's features are eight numbers: colour, and the slope of its brightness, weighted
// beforehand; as floats (two vectors) for taking means, and as 16-bit integers (one vector, `codes`) for comparing. `field` holds
// for each pixel the index of the centre that its patch is like, or −1. Pixels whose `valid` is 1 may be such centres: their whole
// patch is known.

/** Codes of so many pixels' features: `scale` times as large, rounded, held to 16 bits. */
export function patchCodes(features: usize, count: i32, scale: f32, codes: usize): void {
  for (let k = 0; k < count; k++) codeOf(features + (<usize>k << 5), codes + (<usize>k << 4), scale)
}

/** Takes over new features of some pixels, and their codes. */
export function patchTake(
  votes: usize, pixels: usize, count: i32, scale: f32, features: usize, codes: usize,
): void {
  for (let k = 0; k < count; k++) {
    const from = votes + (<usize>k << 5)
    const at = <usize>load<i32>(pixels + (<usize>k << 2))
    v128.store(features + (at << 5), v128.load(from))
    v128.store(features + (at << 5), v128.load(from, 16), 16)
    codeOf(from, codes + (at << 4), scale)
  }
}

// @ts-ignore: decorator
@inline
function codeOf(from: usize, to: usize, scale: f32): void {
  const s = f32x4.splat(scale)
  const first = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(s, v128.load(from))))
  const second = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(s, v128.load(from, 16))))
  v128.store(to, i16x8.narrow_i32x4_s(first, second))
}

// @ts-ignore: decorator
@inline
function mix(value: u32): u32 {
  let h = value
  h = (h ^ (h >> 16)) * 0x7feb352d
  h = (h ^ (h >> 15)) * 0x846ca68b
  return h ^ (h >> 16)
}

/** The first offset from `from` on at which a place lies on the grid. */
// @ts-ignore: decorator
@inline
function onGrid(from: i32, place: i32, stride: i32): i32 {
  return from + (stride - ((place + from) % stride)) % stride
}

/**
 * Squared distance of the patches around two pixels; gives up once above `most`. Both lie `radius` inside. From the middle row outwards:
 * what is unlike shows there as soon as anywhere. Sums of a row fit 32 bits: codes are small enough for that (`MAX_CODE`).
 */
function distance(codes: usize, width: i32, radius: i32, a: i32, b: i32, most: f32): f32 {
  let total: f32 = 0
  for (let n = 0; n <= 2 * radius; n++) {
    const dy = (n & 1) == 1 ? (n + 1) >> 1 : -(n >> 1)
    let p = codes + (<usize>(a + dy * width - radius) << 4)
    let q = codes + (<usize>(b + dy * width - radius) << 4)
    let sum = i32x4.splat(0)
    for (let dx = -radius; dx <= radius; dx++) {
      const d = i16x8.sub(v128.load(p), v128.load(q))
      sum = i32x4.add(sum, i32x4.dot_i16x8_s(d, d))
      p += 16
      q += 16
    }
    total += <f32>(i32x4.extract_lane(sum, 0) + i32x4.extract_lane(sum, 1) + i32x4.extract_lane(sum, 2) + i32x4.extract_lane(sum, 3))
    if (total > most) return total
  }
  return total
}

/** Distances of the present field, in squared codes. `list` holds the pixels that are searched for. */
export function patchDistances(codes: usize, width: i32, radius: i32, list: usize, count: i32, field: usize, out: usize): void {
  for (let k = 0; k < count; k++) {
    const a = load<i32>(list + (<usize>k << 2))
    store<f32>(out + (<usize>a << 2), distance(codes, width, radius, a, load<i32>(field + (<usize>a << 2)), f32.MAX_VALUE))
  }
}

/**
 * One pass of the search over `list`: what fits a neighbour, shifted along, then places drawn around the best
 * so far, in circles that halve from `reach`. Even passes go forward, odd ones back.
 * A pixel is never like one nearer than `apart`. Pixels of the list lie on a grid of `stride` both ways.
 */
export function patchSearch(
  codes: usize, valid: usize, width: i32, height: i32, radius: i32, list: usize, count: i32,
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
      const d = distance(codes, width, radius, a, candidate, least)
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
      const d = distance(codes, width, radius, a, candidate, least)
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
 * New features of the pixels in `targets`: what the patches that cover each say of it, weighted by how well those patches fit
 * (`weights`, one for each pixel; `list` holds the patches' middles). Features are seven: the eighth place of `sums` (eight floats for
 * each pixel, scratch) counts the weights. Patches are added up row by row, so that memory is read in order.
 */
export function patchVote(
  features: usize, width: i32, height: i32, radius: i32, list: usize, patches: i32, targets: usize, count: i32, field: usize,
  weights: usize, sums: usize, out: usize,
): void {
  memory.fill(sums, 0, <usize>(width * height) << 5)
  for (let n = 0; n < patches; n++) {
    const middle = load<i32>(list + (<usize>n << 2))
    const source = load<i32>(field + (<usize>middle << 2))
    if (source < 0) continue
    const w = f32x4.splat(load<f32>(weights + (<usize>middle << 2)))
    for (let dy = -radius; dy <= radius; dy++) {
      let from = features + (<usize>(source + dy * width - radius) << 5)
      let to = sums + (<usize>(middle + dy * width - radius) << 5)
      for (let dx = -radius; dx <= radius; dx++) {
        v128.store(to, f32x4.add(v128.load(to), f32x4.mul(w, v128.load(from))))
        const second = f32x4.replace_lane(v128.load(from, 16), 3, 1)
        v128.store(to, f32x4.add(v128.load(to, 16), f32x4.mul(w, second)), 16)
        from += 32
        to += 32
      }
    }
  }
  for (let k = 0; k < count; k++) {
    const at = sums + (<usize>load<i32>(targets + (<usize>k << 2)) << 5)
    const to = out + (<usize>k << 5)
    const total = load<f32>(at, 28)
    const scale = f32x4.splat(total > 0 ? 1 / total : 0)
    v128.store(to, f32x4.mul(v128.load(at), scale))
    v128.store(to, f32x4.replace_lane(f32x4.mul(v128.load(at, 16), scale), 3, 0), 16)
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
