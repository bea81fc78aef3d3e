// What many frames show of the same places, joined. Four places at a time, one in each lane.
// `values` holds for each frame `channels` planes of `stride` floats, `kept` a plane for each frame.

// @ts-ignore: decorator
@inline
function exchange(values: usize, weights: usize, p: usize, q: usize): void {
  const a = v128.load(values + p), b = v128.load(values + q)
  const isBelow = f32x4.lt(b, a)
  v128.store(values + p, v128.bitselect(b, a, isBelow))
  v128.store(values + q, v128.bitselect(a, b, isBelow))
  const u = v128.load(weights + p), v = v128.load(weights + q)
  v128.store(weights + p, v128.bitselect(v, u, isBelow))
  v128.store(weights + q, v128.bitselect(u, v, isBelow))
}

const FAR: f32 = 3e38

/**
 * The weighted median of each channel, and around it the mean with weights that fall as Tukey's biweight does up to
 * `tolerances`. A reading's weight is its frame's times the share of noise that it keeps; it counts where that is above 0.
 *
 * `network` lists the exchanges of a sorting network for so many frames, pairs of byte offsets (K. E. Batcher, 1968).
 * `scratch` is 3 vectors for each frame. `out` gets `channels` planes of `outStride` floats (0 where nobody saw a
 * place), `variance` the share of one frame's noise variance that is left, `seen` how many frames saw it, `agree` the
 * share of their weight within the tolerance in every channel, `from` the index of the frame with most weight, or -1.
 * `count` is a multiple of 4.
 */
export function joinPlaces(
  values: usize, kept: usize, weights: usize, frames: i32, count: i32, stride: i32, channels: i32, tolerances: usize,
  network: usize, exchanges: i32, scratch: usize, out: usize, outStride: i32, variance: usize, seen: usize, agree: usize, from: usize,
): void {
  const zero = f32x4.splat(0)
  const shares = scratch, sorted = scratch + (<usize>frames << 4), beside = scratch + (<usize>frames << 5)
  const plane = <usize>stride << 2
  for (let i = 0; i < count; i += 4) {
    const lane = <usize>i << 2
    let total = zero, n = zero, most = zero, best = f32x4.splat(-1)
    for (let fr = 0; fr < frames; fr++) {
      const share = v128.load(kept + <usize>fr * plane + lane)
      const isSeen = f32x4.gt(share, zero)
      const weight = v128.load32_splat(weights + (<usize>fr << 2))
      const w = v128.and(f32x4.mul(weight, share), isSeen)
      v128.store(shares + (<usize>fr << 4), w)
      total = f32x4.add(total, w)
      n = f32x4.add(n, v128.and(f32x4.splat(1), isSeen))
      const isMore = v128.and(isSeen, f32x4.gt(weight, most))
      most = v128.bitselect(weight, most, isMore)
      best = v128.bitselect(f32x4.splat(<f32>fr), best, isMore)
    }
    v128.store(seen + lane, n)
    v128.store(from + lane, i32x4.trunc_sat_f32x4_s(best))
    if (!v128.any_true(n)) {
      for (let ch = 0; ch < channels; ch++) v128.store(out + (<usize>(ch * outStride) << 2) + lane, zero)
      v128.store(variance + lane, zero)
      v128.store(agree + lane, zero)
      continue
    }
    let worst = f32x4.splat(1), left = zero
    for (let ch = 0; ch < channels; ch++) {
      for (let fr = 0; fr < frames; fr++) {
        const w = v128.load(shares + (<usize>fr << 4))
        const value = v128.load(values + <usize>(fr * channels + ch) * plane + lane)
        v128.store(sorted + (<usize>fr << 4), v128.bitselect(value, f32x4.splat(FAR), f32x4.gt(w, zero)))
        v128.store(beside + (<usize>fr << 4), w)
      }
      for (let x = 0; x < exchanges; x++) {
        const pair = network + (<usize>x << 3)
        exchange(sorted, beside, <usize>load<u32>(pair), <usize>load<u32>(pair, 4))
      }
      let below = zero, median = zero, found = zero
      for (let fr = 0; fr < frames; fr++) {
        below = f32x4.add(below, v128.load(beside + (<usize>fr << 4)))
        const twice = f32x4.add(below, below)
        const isHit = v128.andnot(f32x4.ge(twice, total), found)
        if (!v128.any_true(isHit)) continue
        const value = v128.load(sorted + (<usize>fr << 4))
        // Two values share the middle: their mean.
        const next = fr + 1 < frames ? v128.load(sorted + (<usize>(fr + 1) << 4)) : value
        const isHalf = v128.and(f32x4.eq(twice, total), f32x4.lt(next, f32x4.splat(FAR)))
        const middle = v128.bitselect(f32x4.mul(f32x4.splat(0.5), f32x4.add(value, next)), value, isHalf)
        median = v128.bitselect(middle, median, isHit)
        found = v128.or(found, isHit)
        if (v128.all_true<u32>(found)) break
      }
      const reach = v128.load32_splat(tolerances + (<usize>ch << 2))
      const perReach = f32x4.div(f32x4.splat(1), reach)
      let sum = zero, used = zero, squares = zero, within = zero
      for (let fr = 0; fr < frames; fr++) {
        const w = v128.load(shares + (<usize>fr << 4))
        const value = v128.load(values + <usize>(fr * channels + ch) * plane + lane)
        const off = f32x4.mul(f32x4.sub(value, median), perReach)
        const rest = f32x4.sub(f32x4.splat(1), f32x4.mul(off, off))
        // Tukey's biweight: what is far from the rest says less. Where nothing was read there may be anything.
        const isNear = v128.and(f32x4.gt(rest, zero), f32x4.gt(w, zero))
        const say = v128.and(f32x4.mul(w, f32x4.mul(rest, rest)), isNear)
        sum = f32x4.add(sum, v128.and(f32x4.mul(say, value), isNear))
        used = f32x4.add(used, say)
        const share = v128.load(kept + <usize>fr * plane + lane)
        squares = f32x4.add(squares, v128.and(f32x4.mul(f32x4.mul(say, say), share), isNear))
        within = f32x4.add(within, v128.and(w, isNear))
      }
      const isUsed = f32x4.gt(used, zero)
      v128.store(out + (<usize>(ch * outStride) << 2) + lane, v128.bitselect(f32x4.div(sum, used), v128.and(median, found), isUsed))
      left = f32x4.add(left, v128.bitselect(f32x4.div(squares, f32x4.mul(used, used)), f32x4.splat(1), isUsed))
      worst = f32x4.min(worst, f32x4.div(within, total))
    }
    const isSeen = f32x4.gt(n, zero)
    v128.store(variance + lane, v128.and(f32x4.div(left, f32x4.splat(<f32>channels)), isSeen))
    v128.store(agree + lane, v128.and(worst, isSeen))
  }
}

/**
 * How far the frames are from what they say together, in tolerances of each channel, up to `most`: the mean over the
 * `askedShare` of those that saw a place (at least `fewest`) which agree best, with what speaks against it (`kept` of
 * -2) counted at `elsewhere`. NaN where fewer than `enough` frames tell. Layout as in `joinPlaces`.
 */
export function measureDisagreement(
  values: usize, kept: usize, frames: i32, count: i32, stride: i32, channels: i32, tolerances: usize, joined: usize, joinedStride: i32,
  network: usize, exchanges: i32, scratch: usize, most: f32, askedShare: f32, fewest: f32, enough: f32, elsewhere: f32, costs: usize,
): void {
  const zero = f32x4.splat(0)
  const plane = <usize>stride << 2
  for (let i = 0; i < count; i += 4) {
    const lane = <usize>i << 2
    let seen = zero, against = zero
    let any = zero
    for (let fr = 0; fr < frames; fr++) any = f32x4.max(any, f32x4.abs(f32x4.add(v128.load(kept + <usize>fr * plane + lane), f32x4.splat(1))))
    if (!v128.any_true(f32x4.gt(any, zero))) {
      v128.store(costs + lane, f32x4.splat(NaN)) // nobody saw any of them, and nothing speaks against them
      continue
    }
    for (let fr = 0; fr < frames; fr++) {
      const share = v128.load(kept + <usize>fr * plane + lane)
      const isSeen = f32x4.gt(share, zero)
      seen = f32x4.add(seen, v128.and(f32x4.splat(1), isSeen))
      against = f32x4.add(against, v128.and(f32x4.splat(1), f32x4.eq(share, f32x4.splat(-2))))
      let off = zero
      for (let ch = 0; ch < channels; ch++) {
        const value = v128.load(values + <usize>(fr * channels + ch) * plane + lane)
        const middle = v128.load(joined + (<usize>(ch * joinedStride) << 2) + lane)
        const apart = f32x4.div(f32x4.abs(f32x4.sub(value, middle)), v128.load32_splat(tolerances + (<usize>ch << 2)))
        off = f32x4.add(off, f32x4.pmin(f32x4.splat(most), apart))
      }
      v128.store(scratch + (<usize>fr << 4), v128.bitselect(off, f32x4.splat(FAR), isSeen))
    }
    for (let x = 0; x < exchanges; x++) {
      const pair = network + (<usize>x << 3)
      const p = scratch + <usize>load<u32>(pair), q = scratch + <usize>load<u32>(pair, 4)
      const a = v128.load(p), b = v128.load(q)
      v128.store(p, f32x4.min(a, b))
      v128.store(q, f32x4.max(a, b))
    }
    const asked = f32x4.min(seen, f32x4.max(f32x4.splat(fewest), f32x4.ceil(f32x4.mul(f32x4.splat(askedShare), seen))))
    let sum = zero
    for (let fr = 0; fr < frames; fr++) {
      const isAsked = f32x4.lt(f32x4.splat(<f32>fr), asked)
      if (!v128.any_true(isAsked)) break
      sum = f32x4.add(sum, v128.and(v128.load(scratch + (<usize>fr << 4)), isAsked))
    }
    const agreed = v128.bitselect(f32x4.div(sum, f32x4.mul(asked, f32x4.splat(<f32>channels))), zero, f32x4.gt(asked, zero))
    const tells = f32x4.add(seen, against)
    const cost = f32x4.div(f32x4.add(f32x4.mul(seen, agreed), f32x4.mul(against, f32x4.splat(elsewhere))), tells)
    v128.store(costs + lane, v128.bitselect(cost, f32x4.splat(NaN), f32x4.ge(tells, f32x4.splat(enough))))
  }
}
