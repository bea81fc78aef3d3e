// Other frames at the places of one frame: reading integer samples between pixels, and what may not be read.
// Places are x and y in two planes of 32-bit floats, px of the full picture. What is read is planar too: a plane of
// `stride` floats for each channel. Symbols: M the 3 x 3 matrix that sends a place to the other frame, f its
// fraction between pixels, w the weights of Keys' cubic (1981, a = -1/2).

/** Stands in `kept` where something further back is seen, or what this layer cannot be. */
const BEHIND_SEEN: f32 = -2
const WHOLE: f32 = 0.004 // px: nearer to a pixel's centre is that pixel

// @ts-ignore: decorator
@inline
function cubicWeights(f: f32): v128 {
  const w0: f32 = ((-0.5 * f + 1) * f - 0.5) * f
  const w1: f32 = (1.5 * f - 2.5) * f * f + 1
  const w2: f32 = ((-1.5 * f + 2) * f + 0.5) * f
  const w3: f32 = (0.5 * f - 0.5) * f * f
  return f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(w0), 1, w1), 2, w2), 3, w3)
}

// @ts-ignore: decorator
@inline
function squaresSum(w: v128): f32 {
  const s = f32x4.mul(w, w)
  return f32x4.extract_lane(s, 0) + f32x4.extract_lane(s, 1) + f32x4.extract_lane(s, 2) + f32x4.extract_lane(s, 3)
}

// @ts-ignore: decorator
@inline
function sampleAt(src: usize, index: i32, is16: bool): f32 {
  return is16 ? <f32>load<u16>(src + (<usize>index << 1)) : <f32>load<u8>(src + <usize>index)
}

/** Twelve samples of a line, four pixels of three channels, as three vectors at `cell`. */
// @ts-ignore: decorator
@inline
function lineOfThree(at: usize, is16: bool, k: i32): v128 {
  if (is16) {
    const part = v128.load64_zero(at + (<usize>k << 3))
    return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(part))
  }
  const part = v128.load32_zero(at + (<usize>k << 2))
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(part)))
}

/**
 * Reads a crop (`col`, `row`, `width`, `height`) of a frame at `count` places sent through M. `kept` gets the share
 * of white noise's variance that the reading keeps, or -1 where the place lies outside or its footprint touches a
 * pixel that `masked` marks (0: no such mask). With `tone` (0: none) values are brought to another light: for each
 * channel 1 + t0 + t1 X + t2 Y + t3 X² + t4 XY + t5 Y² times the value, plus t6, where X = (x - x0) / unit.
 */
export function readPlaces(
  src: usize, is16: bool, scale: f32, col: i32, row: i32, width: i32, height: i32, channels: i32, masked: usize, matrix: usize,
  xs: usize, ys: usize, count: i32, tone: usize, x0: f32, y0: f32, unit: f32, values: usize, stride: i32, kept: usize,
): void {
  const a = load<f64>(matrix), b = load<f64>(matrix, 8), c = load<f64>(matrix, 16)
  const d = load<f64>(matrix, 24), e = load<f64>(matrix, 32), f = load<f64>(matrix, 40)
  const g = load<f64>(matrix, 48), h = load<f64>(matrix, 56), k = load<f64>(matrix, 64)
  const isAffine = g == 0 && h == 0 && k == 1
  const plane = <usize>stride << 2
  const byteShift: usize = is16 ? 1 : 0
  const line = (<usize>(width * channels)) << byteShift
  for (let i = 0; i < count; i++) {
    const x = <f64>load<f32>(xs + (<usize>i << 2))
    const y = <f64>load<f32>(ys + (<usize>i << 2))
    let px = a * x + b * y + c
    let py = d * x + e * y + f
    if (!isAffine) {
      const w = 1.0 / (g * x + h * y + k)
      px *= w
      py *= w
    }
    const u = <f32>(px - <f64>col - 0.5)
    const v = <f32>(py - <f64>row - 0.5)
    const keptAt = kept + (<usize>i << 2)
    if (!(u > -1 && v > -1 && u < <f32>width && v < <f32>height)) { store<f32>(keptAt, -1); continue }
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
    if (isOpen && masked != 0) {
      if (fu != 0) {
        for (let q = t; q <= m; q++) if (load<u32>(masked + q * width + l) != 0) { isOpen = false; break }
      } else {
        for (let q = t; q <= m; q++) if (load<u8>(masked + q * width + l) != 0) { isOpen = false; break }
      }
    }
    if (!isOpen) { store<f32>(keptAt, -1); continue }
    const wx = fu == 0 ? f32x4.replace_lane(f32x4.splat(0), 0, 1) : cubicWeights(fu)
    const wy = fv == 0 ? f32x4.replace_lane(f32x4.splat(0), 0, 1) : cubicWeights(fv)
    store<f32>(keptAt, squaresSum(wx) * squaresSum(wy))
    let first: f32, second: f32, third: f32, fourth: f32 = 0
    const rows = fv == 0 ? 1 : 4
    if (channels == 3 && fu != 0) {
      let at = src + ((<usize>((t * width + l) * 3)) << byteShift)
      let one = f32x4.splat(0), two = f32x4.splat(0), three = f32x4.splat(0)
      for (let j = 0; j < rows; j++) {
        const weight = f32x4.splat(j == 0 ? f32x4.extract_lane(wy, 0) : j == 1 ? f32x4.extract_lane(wy, 1) : j == 2 ? f32x4.extract_lane(wy, 2) : f32x4.extract_lane(wy, 3))
        one = f32x4.add(one, f32x4.mul(weight, lineOfThree(at, is16, 0)))
        two = f32x4.add(two, f32x4.mul(weight, lineOfThree(at, is16, 1)))
        three = f32x4.add(three, f32x4.mul(weight, lineOfThree(at, is16, 2)))
        at += line
      }
      const w0 = f32x4.extract_lane(wx, 0), w1 = f32x4.extract_lane(wx, 1), w2 = f32x4.extract_lane(wx, 2), w3 = f32x4.extract_lane(wx, 3)
      first = w0 * f32x4.extract_lane(one, 0) + w1 * f32x4.extract_lane(one, 3) + w2 * f32x4.extract_lane(two, 2) + w3 * f32x4.extract_lane(three, 1)
      second = w0 * f32x4.extract_lane(one, 1) + w1 * f32x4.extract_lane(two, 0) + w2 * f32x4.extract_lane(two, 3) + w3 * f32x4.extract_lane(three, 2)
      third = w0 * f32x4.extract_lane(one, 2) + w1 * f32x4.extract_lane(two, 1) + w2 * f32x4.extract_lane(three, 0) + w3 * f32x4.extract_lane(three, 3)
    } else {
      const columns = fu == 0 ? 1 : 4
      let sum = f32x4.splat(0)
      for (let q = 0; q < rows; q++) {
        const weightY = q == 0 ? f32x4.extract_lane(wy, 0) : q == 1 ? f32x4.extract_lane(wy, 1) : q == 2 ? f32x4.extract_lane(wy, 2) : f32x4.extract_lane(wy, 3)
        for (let p = 0; p < columns; p++) {
          const weight = weightY * (p == 0 ? f32x4.extract_lane(wx, 0) : p == 1 ? f32x4.extract_lane(wx, 1) : p == 2 ? f32x4.extract_lane(wx, 2) : f32x4.extract_lane(wx, 3))
          const index = ((t + q) * width + l + p) * channels
          const pixel = f32x4.replace_lane(
            f32x4.replace_lane(
              f32x4.replace_lane(f32x4.splat(sampleAt(src, index, is16)), 1, channels > 1 ? sampleAt(src, index + 1, is16) : 0),
              2, channels > 2 ? sampleAt(src, index + 2, is16) : 0),
            3, channels > 3 ? sampleAt(src, index + 3, is16) : 0)
          sum = f32x4.add(sum, f32x4.mul(f32x4.splat(weight), pixel))
        }
      }
      first = f32x4.extract_lane(sum, 0)
      second = f32x4.extract_lane(sum, 1)
      third = f32x4.extract_lane(sum, 2)
      fourth = f32x4.extract_lane(sum, 3)
    }
    let out = values + (<usize>i << 2)
    if (tone == 0) {
      store<f32>(out, first * scale)
      if (channels > 1) store<f32>(out + plane, second * scale)
      if (channels > 2) store<f32>(out + 2 * plane, third * scale)
      if (channels > 3) store<f32>(out + 3 * plane, fourth * scale)
      continue
    }
    const X = (<f32>x - x0) / unit, Y = (<f32>y - y0) / unit
    for (let ch = 0; ch < channels; ch++) {
      const value = (ch == 0 ? first : ch == 1 ? second : ch == 2 ? third : fourth) * scale
      const at = tone + <usize>(ch * 28)
      const gain: f32 = 1 + load<f32>(at) + load<f32>(at, 4) * X + load<f32>(at, 8) * Y + load<f32>(at, 12) * X * X + load<f32>(at, 16) * X * Y + load<f32>(at, 20) * Y * Y
      store<f32>(out, gain * value + load<f32>(at, 24))
      out += plane
    }
  }
}

/**
 * Masks readings through one layer that show another. `cells` holds, for each cell of a part of the other frame
 * (`firstCol`, `firstRow`, `cols`, `rows`, `cellPx`), three bytes: the layer (255: not known), the layers near enough
 * to pass in front here, and the layers near enough for the label to be wrong, both as bits. `matrices` holds 9 f64 for
 * each layer, `hiddenBy` a byte of bits: the layers in front of it. `doubts` gets 1 where the reading may show a layer
 * in front, or its own after all.
 */
export function maskOtherLayers(
  kept: usize, doubts: usize, xs: usize, ys: usize, count: i32, layer: i32, matrices: usize, hiddenBy: usize,
  cells: usize, cellPx: i32, firstCol: i32, firstRow: i32, cols: i32, rows: i32, alikePx: f64,
): void {
  const matrix = matrices + <usize>(layer * 72)
  const a = load<f64>(matrix), b = load<f64>(matrix, 8), c = load<f64>(matrix, 16)
  const d = load<f64>(matrix, 24), e = load<f64>(matrix, 32), f = load<f64>(matrix, 40)
  const g = load<f64>(matrix, 48), h = load<f64>(matrix, 56), k = load<f64>(matrix, 64)
  const inFront = <i32>load<u8>(hiddenBy + <usize>layer)
  const own = 1 << layer
  for (let i = 0; i < count; i++) {
    store<u8>(doubts + <usize>i, 0)
    if (load<f32>(kept + (<usize>i << 2)) <= 0) continue
    const x = <f64>load<f32>(xs + (<usize>i << 2)), y = <f64>load<f32>(ys + (<usize>i << 2))
    const w = 1.0 / (g * x + h * y + k)
    const px = (a * x + b * y + c) * w, py = (d * x + e * y + f) * w
    const cellCol = <i32>Math.floor(px / <f64>cellPx) - firstCol
    const cellRow = <i32>Math.floor(py / <f64>cellPx) - firstRow
    if (cellCol < 0 || cellRow < 0 || cellCol >= cols || cellRow >= rows) continue
    const cell = cells + <usize>(3 * (cellRow * cols + cellCol))
    const found = <i32>load<u8>(cell)
    if (found == layer || found == 255) {
      if ((inFront & <i32>load<u8>(cell, 1)) != 0) store<u8>(doubts + <usize>i, 1)
      continue
    }
    // Where both layers move alike, the one label is as good as the other.
    const theirs = matrices + <usize>(found * 72)
    const v = 1.0 / (load<f64>(theirs, 48) * x + load<f64>(theirs, 56) * y + load<f64>(theirs, 64))
    const dx = (load<f64>(theirs) * x + load<f64>(theirs, 8) * y + load<f64>(theirs, 16)) * v - px
    const dy = (load<f64>(theirs, 24) * x + load<f64>(theirs, 32) * y + load<f64>(theirs, 40)) * v - py
    if (dx * dx + dy * dy < alikePx * alikePx) continue
    if ((own & <i32>load<u8>(cell, 2)) != 0) { store<u8>(doubts + <usize>i, 1); continue }
    // Seen behind where the layer should be: then it is not there. Anything else may hide it.
    store<f32>(kept + (<usize>i << 2), (<i32>load<u8>(hiddenBy + <usize>found) & own) != 0 ? BEHIND_SEEN : <f32>-1)
  }
}

/** Masks the readings of places whose group (`groups`, one for each place, -1: none) is inconsistent; a `nearest` layer is spoken against. */
export function maskInconsistent(kept: usize, groups: usize, inconsistent: usize, count: i32, isNearest: bool): void {
  for (let i = 0; i < count; i++) {
    const group = load<i32>(groups + (<usize>i << 2))
    if (group < 0 || load<u8>(inconsistent + <usize>group) == 0) continue
    const at = kept + (<usize>i << 2)
    const share = load<f32>(at)
    if (share == BEHIND_SEEN) continue
    store<f32>(at, isNearest && share > 0 ? BEHIND_SEEN : <f32>-1)
  }
}

/** Doubtful readings of a place are masked where at least `enough` of the frames show it beyond doubt; planes are `stride` apart. */
export function maskUncertain(kept: usize, doubts: usize, frames: i32, count: i32, stride: i32, enough: i32): void {
  for (let i = 0; i < count; i++) {
    let sure = 0, doubtful = 0
    for (let fr = 0; fr < frames; fr++) {
      const at = <usize>(fr * stride + i)
      const isDoubt = <i32>load<u8>(doubts + at)
      doubtful += isDoubt
      if (isDoubt == 0 && load<f32>(kept + (at << 2)) > 0) sure++
    }
    if (doubtful == 0 || sure < enough) continue
    for (let fr = 0; fr < frames; fr++) {
      const at = <usize>(fr * stride + i)
      if (load<u8>(doubts + at) != 0) store<f32>(kept + (at << 2), -1)
    }
  }
}

// @ts-ignore: decorator
@inline
function bitOf(layer: i32): i32 {
  return layer < 8 ? 1 << layer : 0
}

/**
 * For each cell of a frame three bytes: its label, and as bits the labels seen up to `near` and up to `far` cells away,
 * straight and diagonally.
 */
export function labelsAround(labels: usize, cols: i32, rows: i32, near: i32, far: i32, out: usize): void {
  for (let row = 0; row < rows; row++) {
    for (let col = 0; col < cols; col++) {
      const label = <i32>load<u8>(labels + <usize>(row * cols + col))
      let bits = bitOf(label)
      let nearBits = bits
      for (let reach = 1; reach <= far; reach++) {
        for (let y = row - reach; y <= row + reach; y += reach) {
          if (y < 0 || y >= rows) continue
          for (let x = col - reach; x <= col + reach; x += reach) {
            if (x >= 0 && x < cols) bits |= bitOf(<i32>load<u8>(labels + <usize>(y * cols + x)))
          }
        }
        if (reach == near) nearBits = bits
      }
      const to = out + <usize>(3 * (row * cols + col))
      store<u8>(to, <u8>label)
      store<u8>(to, <u8>nearBits, 1)
      store<u8>(to, <u8>bits, 2)
    }
  }
}
