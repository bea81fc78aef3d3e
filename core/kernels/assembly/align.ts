// Registration of a template with a plane: one linearised least-squares step at a time.
// Symbols: T template values at n places (x, y) around its own origin, I the plane read bilinearly at
// M (x, y, 1), S the n x p steepest-descent values of the warp, w weights, e = I - gain T - offset.
// Source: S. Baker, I. Matthews, "Lucas-Kanade 20 years on: a unifying framework", IJCV 56(3), 2004
// (inverse compositional; gain and offset as two more columns, T and 1).

// @ts-ignore: decorator
@inline
function readPlane(src: usize, width: i32, height: i32, x: f32, y: f32): f32 {
  const u = min<f32>(max<f32>(x - 0.5, 0), <f32>(width - 1))
  const v = min<f32>(max<f32>(y - 0.5, 0), <f32>(height - 1))
  const col = min(<i32>u, width - 2)
  const row = min(<i32>v, height - 2)
  const fu = u - <f32>col
  const fv = v - <f32>row
  const at = src + ((row * width + col) << 2)
  const below = at + (width << 2)
  const top = load<f32>(at) + fu * (load<f32>(at, 4) - load<f32>(at))
  const bottom = load<f32>(below) + fu * (load<f32>(below, 4) - load<f32>(below))
  return top + fv * (bottom - top)
}

/**
 * Adds up one step. `out` gets, as f64: the upper triangle of the (p + 2)² normal matrix row by row
 * (only where `isRobust`), then the p + 2 right sides, then sum w, sum w T, sum w I, sum w T², sum w I²,
 * sum w T I, sum w e², sum of w inside the plane. Where `isRobust`, weights fall with |e| / scale as
 * Tukey's biweight does; the last eight sums always use the plain weights.
 */
export function alignStep(
  src: usize, width: i32, height: i32, matrix: usize, n: i32, xy: usize, template: usize, weights: usize,
  descent: usize, p: i32, gain: f64, offset: f64, isRobust: bool, scale: f64, out: usize,
): void {
  const a = load<f64>(matrix), b = load<f64>(matrix, 8), c = load<f64>(matrix, 16)
  const d = load<f64>(matrix, 24), e = load<f64>(matrix, 32), f = load<f64>(matrix, 40)
  const g = load<f64>(matrix, 48), h = load<f64>(matrix, 56), k = load<f64>(matrix, 64)
  const q = p + 2
  const triangle = isRobust ? (q * (q + 1)) >> 1 : 0
  const right = out + (triangle << 3)
  const sums = right + (q << 3)
  memory.fill(out, 0, (triangle + q + 8) << 3)
  let sw: f64 = 0, st: f64 = 0, si: f64 = 0, stt: f64 = 0, sii: f64 = 0, sti: f64 = 0, see: f64 = 0, inside: f64 = 0
  for (let i = 0; i < n; i++) {
    const x = <f64>load<f32>(xy + (i << 3))
    const y = <f64>load<f32>(xy + (i << 3), 4)
    const w1 = 1.0 / (g * x + h * y + k)
    const px = <f32>((a * x + b * y + c) * w1)
    const py = <f32>((d * x + e * y + f) * w1)
    const isInside = px >= 0 && py >= 0 && px <= <f32>width && py <= <f32>height
    const weight = <f64>load<f32>(weights + (i << 2))
    if (!isInside) { sw += weight; continue }
    const value = <f64>readPlane(src, width, height, px, py)
    const t = <f64>load<f32>(template + (i << 2))
    const error = value - gain * t - offset
    sw += weight
    inside += weight
    st += weight * t
    si += weight * value
    stt += weight * t * t
    sii += weight * value * value
    sti += weight * t * value
    see += weight * error * error
    let used = weight
    if (isRobust) {
      const ratio = error / scale
      const rest = 1.0 - ratio * ratio
      if (rest <= 0) continue
      used = weight * rest * rest
    }
    const line = descent + ((i * p) << 2)
    if (isRobust) {
      let at = out
      for (let r = 0; r < q; r++) {
        const sr: f64 = r < p ? <f64>load<f32>(line + (r << 2)) : r == p ? t : 1.0
        const ws = used * sr
        for (let s = r; s < q; s++) {
          const ss: f64 = s < p ? <f64>load<f32>(line + (s << 2)) : s == p ? t : 1.0
          store<f64>(at, load<f64>(at) + ws * ss)
          at += 8
        }
        store<f64>(right + (r << 3), load<f64>(right + (r << 3)) + ws * error)
      }
    } else {
      const we = used * error
      for (let r = 0; r < p; r++) {
        const at = right + (r << 3)
        store<f64>(at, load<f64>(at) + we * <f64>load<f32>(line + (r << 2)))
      }
      store<f64>(right + (p << 3), load<f64>(right + (p << 3)) + we * t)
      store<f64>(right + ((p + 1) << 3), load<f64>(right + ((p + 1) << 3)) + we)
    }
  }
  store<f64>(sums, sw)
  store<f64>(sums, st, 8)
  store<f64>(sums, si, 16)
  store<f64>(sums, stt, 24)
  store<f64>(sums, sii, 32)
  store<f64>(sums, sti, 40)
  store<f64>(sums, see, 48)
  store<f64>(sums, inside, 56)
}

/**
 * Normalised correlation of the template with the plane at (2 reach + 1)² shifts, `step` px apart,
 * around the matrix. `out` gets x shift, y shift and correlation of the best as f64; shifts for which
 * less than three quarters of the weight lies inside the plane do not count (correlation -2: none did).
 */
export function searchShift(
  src: usize, width: i32, height: i32, matrix: usize, n: i32, xy: usize, template: usize, weights: usize,
  reach: i32, step: f64, out: usize,
): void {
  const a = load<f64>(matrix), b = load<f64>(matrix, 8), c = load<f64>(matrix, 16)
  const d = load<f64>(matrix, 24), e = load<f64>(matrix, 32), f = load<f64>(matrix, 40)
  let best: f64 = -2, bestX: f64 = 0, bestY: f64 = 0
  for (let j = -reach; j <= reach; j++) {
    for (let i = -reach; i <= reach; i++) {
      const dx = <f64>i * step
      const dy = <f64>j * step
      let sw: f64 = 0, st: f64 = 0, si: f64 = 0, stt: f64 = 0, sii: f64 = 0, sti: f64 = 0, all: f64 = 0
      for (let m = 0; m < n; m++) {
        const x = <f64>load<f32>(xy + (m << 3))
        const y = <f64>load<f32>(xy + (m << 3), 4)
        const w = <f64>load<f32>(weights + (m << 2))
        all += w
        const px = <f32>(a * x + b * y + c + dx)
        const py = <f32>(d * x + e * y + f + dy)
        if (px < 0 || py < 0 || px > <f32>width || py > <f32>height) continue
        const value = <f64>readPlane(src, width, height, px, py)
        const t = <f64>load<f32>(template + (m << 2))
        sw += w
        st += w * t
        si += w * value
        stt += w * t * t
        sii += w * value * value
        sti += w * t * value
      }
      if (sw < 0.75 * all) continue
      const varT = stt - st * st / sw
      const varI = sii - si * si / sw
      if (varT <= 1e-12 || varI <= 1e-12) continue
      const ncc = (sti - st * si / sw) / sqrt(varT * varI)
      if (ncc > best) { best = ncc; bestX = dx; bestY = dy }
    }
  }
  store<f64>(out, bestX)
  store<f64>(out, bestY, 8)
  store<f64>(out, best, 16)
}

/** One channel or a weighted sum of three, from integer samples: `scale` brings the maximum to 1. */
export function planeFromSamples(
  src: usize, is16: bool, count: i32, channels: i32, red: f32, green: f32, blue: f32, scale: f32, dst: usize,
): void {
  for (let i = 0; i < count; i++) {
    const at = i * channels
    let sum: f32
    if (is16) {
      const from = src + (at << 1)
      sum = channels < 3 ? <f32>load<u16>(from) : red * <f32>load<u16>(from) + green * <f32>load<u16>(from, 2) + blue * <f32>load<u16>(from, 4)
    } else {
      const from = src + at
      sum = channels < 3 ? <f32>load<u8>(from) : red * <f32>load<u8>(from) + green * <f32>load<u8>(from, 1) + blue * <f32>load<u8>(from, 2)
    }
    store<f32>(dst + (i << 2), sum * scale)
  }
}

/** Half the size: every 2 x 2 pixels become one, through (1 3 3 1) / 8 both ways. dst is ceil(size / 2). */
export function halvePlane(src: usize, width: i32, height: i32, scratch: usize, dst: usize): void {
  const halfWidth = (width + 1) >> 1
  const halfHeight = (height + 1) >> 1
  for (let row = 0; row < height; row++) {
    const line = src + ((row * width) << 2)
    const out = scratch + ((row * halfWidth) << 2)
    for (let col = 0; col < halfWidth; col++) {
      const c1 = min(col << 1, width - 1)
      const c0 = max(c1 - 1, 0)
      const c2 = min(c1 + 1, width - 1)
      const c3 = min(c1 + 2, width - 1)
      store<f32>(out + (col << 2), 0.125 * (load<f32>(line + (c0 << 2)) + load<f32>(line + (c3 << 2))) + 0.375 * (load<f32>(line + (c1 << 2)) + load<f32>(line + (c2 << 2))))
    }
  }
  for (let row = 0; row < halfHeight; row++) {
    const r1 = min(row << 1, height - 1)
    const l0 = scratch + ((max(r1 - 1, 0) * halfWidth) << 2)
    const l1 = scratch + ((r1 * halfWidth) << 2)
    const l2 = scratch + ((min(r1 + 1, height - 1) * halfWidth) << 2)
    const l3 = scratch + ((min(r1 + 2, height - 1) * halfWidth) << 2)
    const out = dst + ((row * halfWidth) << 2)
    for (let col = 0; col < halfWidth; col++) {
      const i = col << 2
      store<f32>(out + i, 0.125 * (load<f32>(l0 + i) + load<f32>(l3 + i)) + 0.375 * (load<f32>(l1 + i) + load<f32>(l2 + i)))
    }
  }
}
