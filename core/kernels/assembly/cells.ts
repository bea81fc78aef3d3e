// Cells of a frame at half size: how far it is from what another frame shows of it, averaged over squares but not across
// edges. A cell is 2 x 2 half-size px.
import { boxSums } from './windows'

const SIDE = 2

/**
 * Means over cells of the absolute difference to another frame read through the 3 x 3 matrix at `matrix` (f64, half-size px
 * there from here), up to `maxOff`; `known` gets the share of each cell that could be compared. Masks, where there are any,
 * are not 0 where nothing may be compared.
 */
export function cellDifferences(
  here: usize, hereMask: usize, there: usize, thereMask: usize, width: i32, height: i32, matrix: usize, gain: f32, maxOff: f32,
  cols: i32, rows: i32, means: usize, known: usize,
): void {
  const a = load<f64>(matrix), b = load<f64>(matrix, 8), c = load<f64>(matrix, 16)
  const d = load<f64>(matrix, 24), e = load<f64>(matrix, 32), f = load<f64>(matrix, 40)
  const g = load<f64>(matrix, 48), h = load<f64>(matrix, 56), k = load<f64>(matrix, 64)
  const isAffine = g == 0 && h == 0 && k == 1
  memory.fill(means, 0, <usize>(cols * rows) << 2)
  memory.fill(known, 0, <usize>(cols * rows) << 2)
  for (let row = 0; row < height; row++) {
    const y = <f64>row + 0.5
    const line = (row / SIDE) * cols
    for (let col = 0; col < width; col++) {
      const i = row * width + col
      const x = <f64>col + 0.5
      let px = a * x + b * y + c, py = d * x + e * y + f
      if (!isAffine) {
        const w = 1.0 / (g * x + h * y + k)
        px *= w
        py *= w
      }
      if (!(px >= 1 && py >= 1 && px < <f64>(width - 1) && py < <f64>(height - 1))) continue
      if (hereMask != 0 && load<u8>(hereMask + <usize>i) != 0) continue
      if (thereMask != 0 && load<u8>(thereMask + <usize>(<i32>py * width + <i32>px)) != 0) continue
      const u = <f32>(px - 0.5), v = <f32>(py - 0.5)
      const left = <i32>u, top = <i32>v
      const fu = u - <f32>left, fv = v - <f32>top
      const from = there + (<usize>(top * width + left) << 2)
      const below = from + (<usize>width << 2)
      const upper = load<f32>(from) + fu * (load<f32>(from, 4) - load<f32>(from))
      const lower = load<f32>(below) + fu * (load<f32>(below, 4) - load<f32>(below))
      const off = min<f32>(maxOff, abs<f32>(gain * (upper + fv * (lower - upper)) - load<f32>(here + (<usize>i << 2))))
      const cell = <usize>(line + col / SIDE) << 2
      store<f32>(means + cell, load<f32>(means + cell) + off)
      store<f32>(known + cell, load<f32>(known + cell) + 1)
    }
  }
  for (let cell = 0; cell < cols * rows; cell++) {
    const at = <usize>cell << 2
    const n = load<f32>(known + at)
    if (n == 0) continue
    store<f32>(means + at, load<f32>(means + at) / n)
    store<f32>(known + at, n / <f32>(SIDE * SIDE))
  }
}

/** Means of a half-size plane over cells. */
export function cellMeans(plane: usize, width: i32, height: i32, cols: i32, rows: i32, means: usize): void {
  for (let cellRow = 0; cellRow < rows; cellRow++) {
    for (let cellCol = 0; cellCol < cols; cellCol++) {
      let sum: f32 = 0, n: f32 = 0
      for (let row = cellRow * SIDE; row < min((cellRow + 1) * SIDE, height); row++) {
        for (let col = cellCol * SIDE; col < min((cellCol + 1) * SIDE, width); col++) {
          sum += load<f32>(plane + (<usize>(row * width + col) << 2))
          n += 1
        }
      }
      store<f32>(means + (<usize>(cellRow * cols + cellCol) << 2), sum / n)
    }
  }
}

/**
 * The guided filter with a guide of one channel (K. He, J. Sun and X. Tang, 2010): a map averaged over squares of
 * 2 radius + 1 but not across the edges of the guide. Places count as much as `known` says; where a square knows less than
 * `fewest` of them the result is infinite. Maps are whole vectors long; `scratch` holds nine, `across` one, `columns` `width`
 * f64.
 */
export function guidedMean(
  guide: usize, map: usize, known: usize, width: i32, height: i32, radius: i32, floor: f32, fewest: f32,
  scratch: usize, across: usize, columns: usize, out: usize,
): void {
  const size = width * height
  const bytes = <usize>((size + 3) & ~3) << 2
  const work = scratch, sums = scratch + bytes
  // Sums of: known, guide, map, guide times map, guide squared; all by what is known.
  for (let which = 0; which < 5; which++) {
    for (let i = 0; i < size; i += 4) {
      const at = <usize>i << 2
      const n = v128.load(known + at)
      let value = n
      if (which == 1) value = f32x4.mul(n, v128.load(guide + at))
      else if (which == 2) value = f32x4.mul(n, v128.load(map + at))
      else if (which == 3) value = f32x4.mul(f32x4.mul(n, v128.load(map + at)), v128.load(guide + at))
      else if (which == 4) value = f32x4.mul(f32x4.mul(n, v128.load(guide + at)), v128.load(guide + at))
      v128.store(work + at, value)
    }
    boxSums(work, width, height, radius, across, columns, sums + <usize>which * bytes)
  }
  const n = sums, guides = sums + bytes, maps = sums + 2 * bytes, both = sums + 3 * bytes, squares = sums + 4 * bytes
  const slopes = sums + 5 * bytes, rests = sums + 6 * bytes, told = sums + 7 * bytes
  const one = f32x4.splat(1), none = f32x4.splat(0)
  for (let i = 0; i < size; i += 4) {
    const at = <usize>i << 2
    const count = v128.load(n + at)
    const isTold = f32x4.ge(count, f32x4.splat(fewest))
    const each = f32x4.div(one, f32x4.max(count, f32x4.splat(1e-9)))
    const meanGuide = f32x4.mul(v128.load(guides + at), each), meanMap = f32x4.mul(v128.load(maps + at), each)
    const variance = f32x4.max(none, f32x4.sub(f32x4.mul(v128.load(squares + at), each), f32x4.mul(meanGuide, meanGuide)))
    const covariance = f32x4.sub(f32x4.mul(v128.load(both + at), each), f32x4.mul(meanGuide, meanMap))
    const slope = f32x4.div(covariance, f32x4.add(variance, f32x4.splat(floor)))
    v128.store(slopes + at, v128.and(slope, isTold))
    v128.store(rests + at, v128.and(f32x4.sub(meanMap, f32x4.mul(slope, meanGuide)), isTold))
    v128.store(told + at, v128.and(one, isTold))
  }
  boxSums(slopes, width, height, radius, across, columns, guides)
  boxSums(rests, width, height, radius, across, columns, maps)
  boxSums(told, width, height, radius, across, columns, both)
  for (let i = 0; i < size; i += 4) {
    const at = <usize>i << 2
    const isTold = f32x4.ge(v128.load(n + at), f32x4.splat(fewest))
    const mean = f32x4.div(
      f32x4.add(f32x4.mul(v128.load(guides + at), v128.load(guide + at)), v128.load(maps + at)), v128.load(both + at),
    )
    v128.store(out + at, v128.bitselect(mean, f32x4.splat(Infinity), isTold))
  }
}

/** `least` becomes the lesser of itself and of what is above 0 of `costs`. */
export function keepLeast(least: usize, costs: usize, size: i32): void {
  const none = f32x4.splat(0)
  for (let i = 0; i < size; i += 4) {
    const at = <usize>i << 2
    v128.store(least + at, f32x4.min(v128.load(least + at), f32x4.max(none, v128.load(costs + at))))
  }
}
