// Sums of one Gauss-Newton step that lays one frame over another by the brightness of many places.
import { nthSmallest } from './select'

// @ts-ignore: decorator
@inline
function lanes(v: v128): f64 {
  return (<f64>f32x4.extract_lane(v, 0) + <f64>f32x4.extract_lane(v, 1)) + (<f64>f32x4.extract_lane(v, 2) + <f64>f32x4.extract_lane(v, 3))
}

/**
 * `values` (planes `stride` apart) is what the other frame shows at the anchors, `here` their brightness on this one,
 * `slopesX`, `slopesY` its slopes, `xs`, `ys` their places in units around a middle. Unknowns are 2 (a shift) or 6
 * (with what bends: slopeX x, slopeX y, slopeY x, slopeY y), then gain and offset. Differences count less the larger
 * they are, as Tukey's biweight does, up to `reachFactor` times their median. `work` is scratch: 20 vectors, then
 * `count` floats. `out` gets as f64 the median difference, then the upper triangle, then the right side.
 * Returns how many places are read. `count` is a multiple of 4.
 */
export function refineSums(
  values: usize, stride: i32, kept: usize, count: i32, channels: i32, here: usize, slopesX: usize, slopesY: usize, xs: usize, ys: usize,
  gain: f32, offset: f32, unknowns: i32, reachFactor: f32, minReach: f32, work: usize, out: usize,
): i32 {
  const zero = f32x4.splat(0), one = f32x4.splat(1)
  const lit = channels >= 3 ? 3 : 1
  const perLit = f32x4.splat(1 / <f32>lit)
  const rows = work, weighted = work + 128
  const seen = work + 320
  const sizes = seen + (<usize>count << 2)
  const g = f32x4.splat(gain), o = f32x4.splat(offset)
  let n = 0
  for (let i = 0; i < count; i += 4) {
    const at = <usize>i << 2
    let sum = v128.load(values + at)
    for (let ch = 1; ch < lit; ch++) sum = f32x4.add(sum, v128.load(values + (<usize>(ch * stride) << 2) + at))
    const brightness = f32x4.mul(sum, perLit)
    v128.store(seen + at, brightness)
    const size = f32x4.abs(f32x4.sub(f32x4.add(f32x4.mul(g, brightness), o), v128.load(here + at)))
    for (let q = 0; q < 4; q++) {
      if (load<f32>(kept + at + (<usize>q << 2)) <= 0) continue
      store<f32>(sizes + (<usize>n << 2), q == 0 ? f32x4.extract_lane(size, 0) : q == 1 ? f32x4.extract_lane(size, 1) : q == 2 ? f32x4.extract_lane(size, 2) : f32x4.extract_lane(size, 3))
      n++
    }
  }
  if (n == 0) return 0
  const residual = nthSmallest(sizes, n, n >> 1)
  store<f64>(out, <f64>residual)
  const perReach = f32x4.splat(1 / max<f32>(reachFactor * residual, minReach))
  const m = unknowns + 2
  const sums = sizes // the list is not wanted any more; it is longer than the sums
  const pairs = (m * (m + 1)) >> 1
  memory.fill(sums, 0, <usize>(pairs + m) << 4)
  for (let i = 0; i < count; i += 4) {
    const at = <usize>i << 2
    const isRead = f32x4.gt(v128.load(kept + at), zero)
    if (!v128.any_true(isRead)) continue
    const brightness = v128.and(v128.load(seen + at), isRead)
    const difference = v128.and(f32x4.sub(f32x4.sub(v128.load(here + at), f32x4.mul(g, brightness)), o), isRead)
    const off = f32x4.mul(difference, perReach)
    const fall = f32x4.max(zero, f32x4.sub(one, f32x4.mul(off, off)))
    const w = v128.and(f32x4.mul(fall, fall), isRead)
    const gx = v128.load(slopesX + at), gy = v128.load(slopesY + at)
    v128.store(rows, gx)
    v128.store(rows, gy, 16)
    let r: usize = 32
    if (unknowns == 6) {
      const x = v128.load(xs + at), y = v128.load(ys + at)
      v128.store(rows, f32x4.mul(gx, x), 32)
      v128.store(rows, f32x4.mul(gx, y), 48)
      v128.store(rows, f32x4.mul(gy, x), 64)
      v128.store(rows, f32x4.mul(gy, y), 80)
      r = 96
    }
    v128.store(rows + r, brightness)
    v128.store(rows + r, one, 16)
    for (let p = 0; p < m; p++) v128.store(weighted + (<usize>p << 4), f32x4.mul(w, v128.load(rows + (<usize>p << 4))))
    let to = sums
    for (let p = 0; p < m; p++) {
      const wp = v128.load(weighted + (<usize>p << 4))
      for (let q = p; q < m; q++) {
        v128.store(to, f32x4.add(v128.load(to), f32x4.mul(wp, v128.load(rows + (<usize>q << 4)))))
        to += 16
      }
    }
    for (let p = 0; p < m; p++) {
      v128.store(to, f32x4.add(v128.load(to), f32x4.mul(v128.load(weighted + (<usize>p << 4)), difference)))
      to += 16
    }
  }
  for (let p = 0; p < pairs + m; p++) store<f64>(out + (<usize>(p + 1) << 3), lanes(v128.load(sums + (<usize>p << 4))))
  return n
}
