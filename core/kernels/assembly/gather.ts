// Reading one frame at the places of another, and joining what many frames show of the same place.
// Samples are interleaved 32-bit floats; places are x, y pairs of 32-bit floats in px of the full picture.

// @ts-ignore: decorator
@inline
function cubic(index: i32, f: f32): f32 {
  if (index == 0) return ((-0.5 * f + 1) * f - 0.5) * f
  if (index == 1) return (1.5 * f - 2.5) * f * f + 1
  if (index == 2) return ((-1.5 * f + 2) * f + 0.5) * f
  return (0.5 * f - 0.5) * f * f
}

const WHOLE: f32 = 0.004 // nearer than this to a pixel's centre is that pixel

/**
 * Reads a rectangle of a picture (`col`, `row`, `width`, `height`) at places sent through a 3 x 3 matrix, with the
 * interpolating cubic (Keys 1981, a = -1/2). `kept` gets the share of white noise's variance that the reading keeps,
 * or -1 where the place lies outside or its footprint touches a pixel whose `taboo` is not 0; nothing is read there.
 */
export function readThrough(
  src: usize, col: i32, row: i32, width: i32, height: i32, channels: i32, taboo: usize, matrix: usize,
  xy: usize, count: i32, dst: usize, kept: usize,
): void {
  const a = load<f64>(matrix), b = load<f64>(matrix, 8), c = load<f64>(matrix, 16)
  const d = load<f64>(matrix, 24), e = load<f64>(matrix, 32), f = load<f64>(matrix, 40)
  const g = load<f64>(matrix, 48), h = load<f64>(matrix, 56), k = load<f64>(matrix, 64)
  for (let i = 0; i < count; i++) {
    const x = <f64>load<f32>(xy + (i << 3))
    const y = <f64>load<f32>(xy + (i << 3), 4)
    const w = 1.0 / (g * x + h * y + k)
    const u = <f32>((a * x + b * y + c) * w - <f64>col - 0.5)
    const v = <f32>((d * x + e * y + f) * w - <f64>row - 0.5)
    let left = <i32>floor<f32>(u)
    let top = <i32>floor<f32>(v)
    let fu = u - <f32>left
    let fv = v - <f32>top
    if (fu > 1 - WHOLE) { left++; fu = 0 }
    if (fv > 1 - WHOLE) { top++; fv = 0 }
    if (fu < WHOLE) fu = 0
    if (fv < WHOLE) fv = 0
    // The footprint: one column or row where the place is a pixel's centre, four otherwise.
    const l = fu == 0 ? left : left - 1
    const r = fu == 0 ? left : left + 2
    const t = fv == 0 ? top : top - 1
    const m = fv == 0 ? top : top + 2
    let isOpen = l >= 0 && t >= 0 && r < width && m < height
    if (isOpen && taboo != 0) {
      for (let q = t; q <= m && isOpen; q++) {
        for (let p = l; p <= r; p++) if (load<u8>(taboo + q * width + p) != 0) { isOpen = false; break }
      }
    }
    if (!isOpen) { store<f32>(kept + (i << 2), -1); continue }
    let keptX: f32 = 1
    let keptY: f32 = 1
    if (fu != 0) {
      const w0 = cubic(0, fu), w1 = cubic(1, fu), w2 = cubic(2, fu), w3 = cubic(3, fu)
      keptX = w0 * w0 + w1 * w1 + w2 * w2 + w3 * w3
    }
    if (fv != 0) {
      const w0 = cubic(0, fv), w1 = cubic(1, fv), w2 = cubic(2, fv), w3 = cubic(3, fv)
      keptY = w0 * w0 + w1 * w1 + w2 * w2 + w3 * w3
    }
    store<f32>(kept + (i << 2), keptX * keptY)
    const out = dst + ((i * channels) << 2)
    if (channels == 3 && left >= 1 && top >= 1 && left + 2 < width && top + 2 < height && fu != 0 && fv != 0) {
      read3(src + (((top - 1) * width + left - 1) * 12), width * 12, fu, fv, out)
      continue
    }
    for (let ch = 0; ch < channels; ch++) {
      let sum: f32 = 0
      for (let q = t; q <= m; q++) {
        const wy: f32 = fv == 0 ? 1 : cubic(q - t, fv)
        let across: f32 = 0
        for (let p = l; p <= r; p++) {
          across += (fu == 0 ? <f32>1 : cubic(p - l, fu)) * load<f32>(src + (((q * width + p) * channels + ch) << 2))
        }
        sum += wy * across
      }
      store<f32>(out + (ch << 2), sum)
    }
  }
}

/** Three channels, the whole footprint inside: twelve floats of each of four lines at a time. */
// @ts-ignore: decorator
@inline
function read3(from: usize, line: i32, fu: f32, fv: f32, out: usize): void {
  let one = f32x4.splat(0), two = f32x4.splat(0), three = f32x4.splat(0)
  for (let j = 0; j < 4; j++) {
    const wy = f32x4.splat(cubic(j, fv))
    one = f32x4.add(one, f32x4.mul(wy, v128.load(from)))
    two = f32x4.add(two, f32x4.mul(wy, v128.load(from, 16)))
    three = f32x4.add(three, f32x4.mul(wy, v128.load(from, 32)))
    from += line
  }
  const w0 = cubic(0, fu), w1 = cubic(1, fu), w2 = cubic(2, fu), w3 = cubic(3, fu)
  store<f32>(out, w0 * f32x4.extract_lane(one, 0) + w1 * f32x4.extract_lane(one, 3) + w2 * f32x4.extract_lane(two, 2) + w3 * f32x4.extract_lane(three, 1))
  store<f32>(out, w0 * f32x4.extract_lane(one, 1) + w1 * f32x4.extract_lane(two, 0) + w2 * f32x4.extract_lane(two, 3) + w3 * f32x4.extract_lane(three, 2), 4)
  store<f32>(out, w0 * f32x4.extract_lane(one, 2) + w1 * f32x4.extract_lane(two, 1) + w2 * f32x4.extract_lane(three, 0) + w3 * f32x4.extract_lane(three, 3), 8)
}

/** What a reading says: its frame's weight, less where it lies between pixels and is softer. */
// @ts-ignore: decorator
@inline
function sayOf(weights: usize, kept: usize, fr: i32, at: i32): f32 {
  const share = load<f32>(kept + (at << 2))
  return share <= 0 ? 0 : load<f32>(weights + (fr << 2)) * share
}

/**
 * Joins what `frames` frames show of `count` places. Of each channel the weighted median is found; values within
 * `tolerance` of it (for that channel) are then averaged by their weights. A reading counts where `kept` is above 0.
 *
 * `values` and `kept` are frame after frame. `order` is scratch for `frames` 32-bit integers. `out` gets the values,
 * `variance` the share of one frame's noise variance that is left (all readings independent), `seen` how many
 * frames saw the place, `agree` the share of their weight that lies within the tolerance in every channel.
 * Where none did, `out` is left as it is and `seen` is 0.
 */
export function joinReadings(
  values: usize, kept: usize, weights: usize, frames: i32, count: i32, channels: i32, tolerance: usize,
  order: usize, out: usize, variance: usize, seen: usize, agree: usize,
): void {
  for (let i = 0; i < count; i++) {
    let n = 0
    let total: f32 = 0
    for (let fr = 0; fr < frames; fr++) {
      const w = sayOf(weights, kept, fr, fr * count + i)
      if (w <= 0) continue
      total += w
      n++
    }
    store<f32>(seen + (i << 2), <f32>n)
    store<f32>(agree + (i << 2), 0)
    store<f32>(variance + (i << 2), 0)
    if (n == 0) continue
    let worst: f32 = 1
    let left: f32 = 0
    for (let ch = 0; ch < channels; ch++) {
      // Insertion sort of the frames by their value: there are only a few.
      let m = 0
      for (let fr = 0; fr < frames; fr++) {
        if (sayOf(weights, kept, fr, fr * count + i) <= 0) continue
        const value = load<f32>(values + (((fr * count + i) * channels + ch) << 2))
        let at = m
        while (at > 0) {
          const before = load<i32>(order + ((at - 1) << 2))
          if (load<f32>(values + (((before * count + i) * channels + ch) << 2)) <= value) break
          store<i32>(order + (at << 2), before)
          at--
        }
        store<i32>(order + (at << 2), fr)
        m++
      }
      let below: f32 = 0
      let median: f32 = 0
      for (let q = 0; q < m; q++) {
        const fr = load<i32>(order + (q << 2))
        below += sayOf(weights, kept, fr, fr * count + i)
        if (below + below >= total) {
          median = load<f32>(values + (((fr * count + i) * channels + ch) << 2))
          // Two values share the middle: their mean.
          if (below + below == total && q + 1 < m) {
            const next = load<i32>(order + ((q + 1) << 2))
            median = 0.5 * (median + load<f32>(values + (((next * count + i) * channels + ch) << 2)))
          }
          break
        }
      }
      const reach = load<f32>(tolerance + (ch << 2))
      let sum: f32 = 0
      let used: f32 = 0
      let squares: f32 = 0
      for (let q = 0; q < m; q++) {
        const fr = load<i32>(order + (q << 2))
        const value = load<f32>(values + (((fr * count + i) * channels + ch) << 2))
        const off = abs<f32>(value - median) / reach
        if (off >= 1) continue
        // Tukey's biweight: what is far from the rest says less.
        const rest: f32 = <f32>1 - off * off
        const w = sayOf(weights, kept, fr, fr * count + i) * rest * rest
        sum += w * value
        used += w
        squares += w * w * load<f32>(kept + ((fr * count + i) << 2))
      }
      store<f32>(out + ((i * channels + ch) << 2), used > 0 ? sum / used : median)
      left += used > 0 ? squares / (used * used) : 1
      let within: f32 = 0
      for (let q = 0; q < m; q++) {
        const fr = load<i32>(order + (q << 2))
        const value = load<f32>(values + (((fr * count + i) * channels + ch) << 2))
        if (abs<f32>(value - median) < reach) within += sayOf(weights, kept, fr, fr * count + i)
      }
      worst = min<f32>(worst, within / total)
    }
    store<f32>(variance + (i << 2), left / <f32>channels)
    store<f32>(agree + (i << 2), worst)
  }
}
