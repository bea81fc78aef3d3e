// How the light of one frame differs from another's: sums of weighted least squares over many places, and the way from
// sums to terms. Symbols: v what the other frame shows, h what this one does, X, Y the place in units around a middle;
// the row of a place is v, vX, vY, vXX, vXY, vYY, 1, its target h - v, its weight Tukey's biweight of what remains.
import { nthSmallest } from './select'

const TERMS: i32 = 7
/** Sums of w v² X^i Y^j with i + j up to 4 (15), of w v X^i Y^j with i + j up to 2 (6), of w (1); then of the targets (7). */
const SUMS: i32 = 29

const picked: usize = memory.data(16, 16)

// @ts-ignore: decorator
@inline
function lanes(v: v128): f64 {
  return (<f64>f32x4.extract_lane(v, 0) + <f64>f32x4.extract_lane(v, 1)) + (<f64>f32x4.extract_lane(v, 2) + <f64>f32x4.extract_lane(v, 3))
}

// @ts-ignore: decorator
@inline
function term(terms: usize, index: i32): v128 {
  return f32x4.splat(<f32>load<f64>(terms + (<usize>index << 3)))
}

/**
 * One round: what remains under the present `terms` (7 f64) is written to `sizes`, as a list of one in four of the
 * places that are read: enough for their median; `sums` (30 f64) gets the sums with weights that end at `reach`, and
 * that median. `count` is a multiple of 4, and `kept` at or below 0 where nothing is read. Returns how many places are.
 */
export function toneSums(
  xs: usize, ys: usize, here: usize, there: usize, kept: usize, count: i32, terms: usize, reach: f32, sizes: usize, sums: usize,
): i32 {
  const zero = f32x4.splat(0), one = f32x4.splat(1)
  const t0 = term(terms, 0), t1 = term(terms, 1), t2 = term(terms, 2), t3 = term(terms, 3), t4 = term(terms, 4), t5 = term(terms, 5), t6 = term(terms, 6)
  const perReach = f32x4.splat(1 / reach)
  let s00 = zero, s10 = zero, s01 = zero, s20 = zero, s11 = zero, s02 = zero, s30 = zero, s21 = zero, s12 = zero, s03 = zero
  let s40 = zero, s31 = zero, s22 = zero, s13 = zero, s04 = zero
  let l00 = zero, l10 = zero, l01 = zero, l20 = zero, l11 = zero, l02 = zero, ww = zero
  let r0 = zero, r1 = zero, r2 = zero, r3 = zero, r4 = zero, r5 = zero, r6 = zero
  let n = 0, seen = 0
  for (let i = 0; i < count; i += 4) {
    const at = <usize>i << 2
    const isRead = f32x4.gt(v128.load(kept + at), zero)
    if (!v128.any_true(isRead)) continue
    const x = v128.load(xs + at), y = v128.load(ys + at)
    const v = v128.and(v128.load(there + at), isRead)
    const xx = f32x4.mul(x, x), xy = f32x4.mul(x, y), yy = f32x4.mul(y, y)
    const target = v128.and(f32x4.sub(v128.load(here + at), v), isRead)
    let gain = f32x4.add(t0, f32x4.add(f32x4.mul(t1, x), f32x4.mul(t2, y)))
    gain = f32x4.add(gain, f32x4.add(f32x4.mul(t3, xx), f32x4.add(f32x4.mul(t4, xy), f32x4.mul(t5, yy))))
    const rest = f32x4.sub(target, f32x4.add(f32x4.mul(gain, v), t6))
    const size = f32x4.abs(rest)
    const read = i32x4.bitmask(isRead)
    seen += popcnt<i32>(read)
    // Another lane each time: what repeats every four places is met as often as it is.
    const lane = (i >> 2) & 3
    if (((read >> lane) & 1) != 0) {
      v128.store(picked, size)
      store<f32>(sizes + (<usize>n << 2), load<f32>(picked + (<usize>lane << 2)))
      n++
    }
    const off = f32x4.mul(rest, perReach)
    const fall = f32x4.max(zero, f32x4.sub(one, f32x4.mul(off, off)))
    const w = v128.and(f32x4.mul(fall, fall), isRead)
    const wv = f32x4.mul(w, v), wvv = f32x4.mul(wv, v)
    const x3 = f32x4.mul(xx, x), y3 = f32x4.mul(yy, y)
    s00 = f32x4.add(s00, wvv)
    s10 = f32x4.add(s10, f32x4.mul(wvv, x))
    s01 = f32x4.add(s01, f32x4.mul(wvv, y))
    s20 = f32x4.add(s20, f32x4.mul(wvv, xx))
    s11 = f32x4.add(s11, f32x4.mul(wvv, xy))
    s02 = f32x4.add(s02, f32x4.mul(wvv, yy))
    s30 = f32x4.add(s30, f32x4.mul(wvv, x3))
    s21 = f32x4.add(s21, f32x4.mul(wvv, f32x4.mul(xx, y)))
    s12 = f32x4.add(s12, f32x4.mul(wvv, f32x4.mul(x, yy)))
    s03 = f32x4.add(s03, f32x4.mul(wvv, y3))
    s40 = f32x4.add(s40, f32x4.mul(wvv, f32x4.mul(xx, xx)))
    s31 = f32x4.add(s31, f32x4.mul(wvv, f32x4.mul(x3, y)))
    s22 = f32x4.add(s22, f32x4.mul(wvv, f32x4.mul(xx, yy)))
    s13 = f32x4.add(s13, f32x4.mul(wvv, f32x4.mul(x, y3)))
    s04 = f32x4.add(s04, f32x4.mul(wvv, f32x4.mul(yy, yy)))
    l00 = f32x4.add(l00, wv)
    l10 = f32x4.add(l10, f32x4.mul(wv, x))
    l01 = f32x4.add(l01, f32x4.mul(wv, y))
    l20 = f32x4.add(l20, f32x4.mul(wv, xx))
    l11 = f32x4.add(l11, f32x4.mul(wv, xy))
    l02 = f32x4.add(l02, f32x4.mul(wv, yy))
    ww = f32x4.add(ww, w)
    const wvt = f32x4.mul(wv, target)
    r0 = f32x4.add(r0, wvt)
    r1 = f32x4.add(r1, f32x4.mul(wvt, x))
    r2 = f32x4.add(r2, f32x4.mul(wvt, y))
    r3 = f32x4.add(r3, f32x4.mul(wvt, xx))
    r4 = f32x4.add(r4, f32x4.mul(wvt, xy))
    r5 = f32x4.add(r5, f32x4.mul(wvt, yy))
    r6 = f32x4.add(r6, f32x4.mul(w, target))
  }
  store<f64>(sums, lanes(s00))
  store<f64>(sums, lanes(s10), 8)
  store<f64>(sums, lanes(s01), 16)
  store<f64>(sums, lanes(s20), 24)
  store<f64>(sums, lanes(s11), 32)
  store<f64>(sums, lanes(s02), 40)
  store<f64>(sums, lanes(s30), 48)
  store<f64>(sums, lanes(s21), 56)
  store<f64>(sums, lanes(s12), 64)
  store<f64>(sums, lanes(s03), 72)
  store<f64>(sums, lanes(s40), 80)
  store<f64>(sums, lanes(s31), 88)
  store<f64>(sums, lanes(s22), 96)
  store<f64>(sums, lanes(s13), 104)
  store<f64>(sums, lanes(s04), 112)
  store<f64>(sums, lanes(l00), 120)
  store<f64>(sums, lanes(l10), 128)
  store<f64>(sums, lanes(l01), 136)
  store<f64>(sums, lanes(l20), 144)
  store<f64>(sums, lanes(l11), 152)
  store<f64>(sums, lanes(l02), 160)
  store<f64>(sums, lanes(ww), 168)
  store<f64>(sums, lanes(r0), 176)
  store<f64>(sums, lanes(r1), 184)
  store<f64>(sums, lanes(r2), 192)
  store<f64>(sums, lanes(r3), 200)
  store<f64>(sums, lanes(r4), 208)
  store<f64>(sums, lanes(r5), 216)
  store<f64>(sums, lanes(r6), 224)
  // The median of what remains, after the sums.
  store<f64>(sums, n == 0 ? 0 : <f64>nthSmallest(sizes, n, n >> 1), 232)
  return seen
}

/** Median of here over there at every third place where the other frame is brighter than `dark`; 1 of fewer than `enough`. `sizes` is scratch. */
export function usualRatio(here: usize, there: usize, kept: usize, count: i32, dark: f32, enough: i32, sizes: usize): f32 {
  let n = 0
  for (let i = 0; i < count; i += 3) {
    const at = <usize>i << 2
    const v = load<f32>(there + at)
    if (load<f32>(kept + at) <= 0 || v <= dark) continue
    store<f32>(sizes + (<usize>n << 2), load<f32>(here + at) / v)
    n++
  }
  return n < enough ? 1 : nthSmallest(sizes, n, n >> 1)
}

/** Median of |here - gain there| at every fifth place; 0 of none. `sizes` is scratch. */
export function usualDifference(here: usize, there: usize, kept: usize, count: i32, gain: f32, sizes: usize): f32 {
  let n = 0
  for (let i = 0; i < count; i += 5) {
    const at = <usize>i << 2
    if (load<f32>(kept + at) <= 0) continue
    store<f32>(sizes + (<usize>n << 2), abs<f32>(load<f32>(here + at) - gain * load<f32>(there + at)))
    n++
  }
  return n == 0 ? 0 : nthSmallest(sizes, n, n >> 1)
}
