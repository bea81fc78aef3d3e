// Other frames at the places of one frame: reading integer samples between pixels, and what may not be read.
// Places are x and y in two planes of 32-bit floats, px of the full picture. What is read is planar too: a plane of
// `stride` floats for each channel. Symbols: M the 3 x 3 matrix that sends a place to the other frame, f its
// fraction between pixels, w the weights of Keys' cubic (1981, a = -1/2).

/** Stands in `kept` where something further back is seen, or what this layer cannot be. */
const BEHIND_SEEN: f32 = -2
const WHOLE: f32 = 0.004 // px: nearer to a pixel's centre is that pixel

// Weights are looked up at so many places between two pixels: what that moves a reading by, 0.0005 px, nobody can tell.
// An entry is four floats; the same twice as 16-bit integers, 16384 for 1; and the sum of their squares.
const STEPS: i32 = 1024
const ENTRY: usize = 48
const table: usize = memory.data(49152, 16)
let isTabled: bool = false
const lanes: usize = memory.data(32, 16)

function makeTable(): void {
  for (let i = 0; i < STEPS; i++) {
    const f = (<f64>i + 0.5) / <f64>STEPS
    const at = table + <usize>i * ENTRY
    const w0 = ((-0.5 * f + 1) * f - 0.5) * f
    const w1 = (1.5 * f - 2.5) * f * f + 1
    const w2 = ((-1.5 * f + 2) * f + 0.5) * f
    const w3 = (0.5 * f - 0.5) * f * f
    store<f32>(at, <f32>w0)
    store<f32>(at, <f32>w1, 4)
    store<f32>(at, <f32>w2, 8)
    store<f32>(at, <f32>w3, 12)
    const i0 = <i32>nearest<f64>(w0 * 16384), i2 = <i32>nearest<f64>(w2 * 16384), i3 = <i32>nearest<f64>(w3 * 16384)
    const i1 = 16384 - i0 - i2 - i3
    for (let twice: usize = 0; twice < 16; twice += 8) {
      store<i16>(at + twice, <i16>i0, 16)
      store<i16>(at + twice, <i16>i1, 18)
      store<i16>(at + twice, <i16>i2, 20)
      store<i16>(at + twice, <i16>i3, 22)
    }
    store<f32>(at, <f32>(w0 * w0 + w1 * w1 + w2 * w2 + w3 * w3), 32)
  }
  isTabled = true
}

// @ts-ignore: decorator
@inline
function entryOf(f: f32): usize {
  return table + <usize>min<i32>(<i32>(f * <f32>STEPS), STEPS - 1) * ENTRY
}

// @ts-ignore: decorator
@inline
function sampleAt(src: usize, index: i32, is16: bool): f32 {
  return is16 ? <f32>load<u16>(src + (<usize>index << 1)) : <f32>load<u8>(src + <usize>index)
}

/** One line of four pixels of three bytes: red 0 to 3, green 0 to 3, blue 0 to 3. */
// @ts-ignore: decorator
@inline
function parted(at: usize): v128 {
  return i8x16.swizzle(v128.load(at), i8x16(0, 3, 6, 9, 1, 4, 7, 10, 2, 5, 8, 11, -1, -1, -1, -1))
}

/** Red and green of a line, each as two halves of its sum. */
// @ts-ignore: decorator
@inline
function redGreen(line: v128, weights: v128): v128 {
  return f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(line), weights))
}

// @ts-ignore: decorator
@inline
function blue(line: v128, weights: v128): v128 {
  return f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(line), weights))
}

/** Whether a mask marks any pixel of a footprint. */
// @ts-ignore: decorator
@inline
function isMarked(masked: usize, width: i32, l: i32, t: i32, m: i32, isWide: bool): bool {
  let at = masked + <usize>(t * width + l)
  for (let q = t; q <= m; q++) {
    if (isWide ? load<u32>(at) != 0 : load<u8>(at) != 0) return true
    at += <usize>width
  }
  return false
}

/**
 * Reads a crop (`col`, `row`, `width`, `height`) of a frame at `count` places sent through M. `kept` gets the share
 * of white noise's variance that the reading keeps, or -1 where the place lies outside or its footprint touches a
 * pixel that `masked` marks (0: no such mask). With `tone` (0: none) values are brought to another light: for each
 * channel 1 + t0 + t1 X + t2 Y + t3 X² + t4 XY + t5 Y² times the value, plus t6, where X = (x - x0) / unit. Where
 * `kept` has marks (`markOtherLayers`), places marked -1 are not read, and those marked -2 stay so if they could be.
 */
export function readPlaces(
  src: usize, is16: bool, scale: f32, col: i32, row: i32, width: i32, height: i32, channels: i32, masked: usize, matrix: usize,
  xs: usize, ys: usize, count: i32, tone: usize, x0: f32, y0: f32, unit: f32, values: usize, stride: i32, kept: usize,
  hasMarks: bool,
): void {
  if (!isTabled) makeTable()
  const a = load<f64>(matrix), b = load<f64>(matrix, 8), c = load<f64>(matrix, 16)
  const d = load<f64>(matrix, 24), e = load<f64>(matrix, 32), f = load<f64>(matrix, 40)
  const g = load<f64>(matrix, 48), h = load<f64>(matrix, 56), k = load<f64>(matrix, 64)
  const isAffine = g == 0 && h == 0 && k == 1
  const plane = <usize>stride << 2
  const line = <usize>(width * channels)
  const isPlain = channels == 3 && !is16
  const scaled = f32x4.splat(scale / 16384)
  const left0 = <f64>col + 0.5, top0 = <f64>row + 0.5
  for (let i = 0; i < count; i++) {
    const mark: f32 = hasMarks ? load<f32>(kept + (<usize>i << 2)) : 1
    if (mark == -1) continue
    const x = <f64>load<f32>(xs + (<usize>i << 2))
    const y = <f64>load<f32>(ys + (<usize>i << 2))
    let px = a * x + b * y + c
    let py = d * x + e * y + f
    if (!isAffine) {
      const w = 1.0 / (g * x + h * y + k)
      px *= w
      py *= w
    }
    const u = <f32>(px - left0)
    const v = <f32>(py - top0)
    const keptAt = kept + (<usize>i << 2)
    if (!(u > -1 && v > -1 && u < <f32>width && v < <f32>height)) { store<f32>(keptAt, -1); continue }
    let left = <i32>(u + 1) - 1, top = <i32>(v + 1) - 1 // floors: both lie above -1
    let fu = u - <f32>left, fv = v - <f32>top
    if (fu > 1 - WHOLE) { left++; fu = 0 }
    if (fv > 1 - WHOLE) { top++; fv = 0 }
    const isWide = fu >= WHOLE, isHigh = fv >= WHOLE
    // The footprint: one column or row where the place is a pixel's centre, four otherwise.
    const l = isWide ? left - 1 : left, r = isWide ? left + 2 : left
    const t = isHigh ? top - 1 : top, m = isHigh ? top + 2 : top
    if (l < 0 || t < 0 || r >= width || m >= height || (masked != 0 && isMarked(masked, width, l, t, m, isWide))) {
      store<f32>(keptAt, -1)
      continue
    }
    if (mark == BEHIND_SEEN) continue
    const across = entryOf(fu), down = entryOf(fv)
    store<f32>(keptAt, (isWide ? load<f32>(across, 32) : 1) * (isHigh ? load<f32>(down, 32) : 1))
    let first: f32, second: f32, third: f32, fourth: f32 = 0
    if (isPlain && isWide && isHigh) {
      const weights = v128.load(across, 16)
      let at = src + <usize>((t * width + l) * 3)
      let some = parted(at)
      let weight = v128.load32_splat(down)
      let rg = f32x4.mul(weight, redGreen(some, weights)), bb = f32x4.mul(weight, blue(some, weights))
      at += line
      some = parted(at)
      weight = v128.load32_splat(down, 4)
      rg = f32x4.add(rg, f32x4.mul(weight, redGreen(some, weights)))
      bb = f32x4.add(bb, f32x4.mul(weight, blue(some, weights)))
      at += line
      some = parted(at)
      weight = v128.load32_splat(down, 8)
      rg = f32x4.add(rg, f32x4.mul(weight, redGreen(some, weights)))
      bb = f32x4.add(bb, f32x4.mul(weight, blue(some, weights)))
      at += line
      some = parted(at)
      weight = v128.load32_splat(down, 12)
      rg = f32x4.mul(scaled, f32x4.add(rg, f32x4.mul(weight, redGreen(some, weights))))
      bb = f32x4.mul(scaled, f32x4.add(bb, f32x4.mul(weight, blue(some, weights))))
      first = f32x4.extract_lane(rg, 0) + f32x4.extract_lane(rg, 1)
      second = f32x4.extract_lane(rg, 2) + f32x4.extract_lane(rg, 3)
      third = f32x4.extract_lane(bb, 0) + f32x4.extract_lane(bb, 1)
    } else {
      let sum = f32x4.splat(0)
      for (let q = t; q <= m; q++) {
        const weightY: f32 = isHigh ? load<f32>(down + (<usize>(q - t) << 2)) : 1
        for (let p = l; p <= r; p++) {
          const weight: f32 = weightY * (isWide ? load<f32>(across + (<usize>(p - l) << 2)) : <f32>1)
          const index = (q * width + p) * channels
          let pixel = f32x4.splat(sampleAt(src, index, is16))
          if (channels > 1) pixel = f32x4.replace_lane(pixel, 1, sampleAt(src, index + 1, is16))
          if (channels > 2) pixel = f32x4.replace_lane(pixel, 2, sampleAt(src, index + 2, is16))
          if (channels > 3) pixel = f32x4.replace_lane(pixel, 3, sampleAt(src, index + 3, is16))
          sum = f32x4.add(sum, f32x4.mul(f32x4.splat(weight), pixel))
        }
      }
      sum = f32x4.mul(sum, f32x4.splat(scale))
      first = f32x4.extract_lane(sum, 0)
      second = f32x4.extract_lane(sum, 1)
      third = f32x4.extract_lane(sum, 2)
      fourth = f32x4.extract_lane(sum, 3)
    }
    const out = values + (<usize>i << 2)
    store<f32>(out, first)
    if (channels > 1) store<f32>(out + plane, second)
    if (channels > 2) store<f32>(out + 2 * plane, third)
    if (channels > 3) store<f32>(out + 3 * plane, fourth)
  }
  if (tone != 0) for (let ch = 0; ch < channels; ch++) relight(values + <usize>ch * plane, xs, ys, count, tone + <usize>(ch * 28), x0, y0, unit)
}

/** Brings a plane of values to another light, four places at a time. */
function relight(values: usize, xs: usize, ys: usize, count: i32, terms: usize, x0: f32, y0: f32, unit: f32): void {
  const t0 = v128.load32_splat(terms), t1 = v128.load32_splat(terms, 4), t2 = v128.load32_splat(terms, 8)
  const t3 = v128.load32_splat(terms, 12), t4 = v128.load32_splat(terms, 16), t5 = v128.load32_splat(terms, 20), t6 = v128.load32_splat(terms, 24)
  const one = f32x4.splat(1), perUnit = f32x4.splat(1 / unit), left = f32x4.splat(x0), top = f32x4.splat(y0)
  for (let i = 0; i < count; i += 4) {
    const at = <usize>i << 2
    const X = f32x4.mul(f32x4.sub(v128.load(xs + at), left), perUnit), Y = f32x4.mul(f32x4.sub(v128.load(ys + at), top), perUnit)
    let gain = f32x4.add(f32x4.add(one, t0), f32x4.add(f32x4.mul(t1, X), f32x4.mul(t2, Y)))
    gain = f32x4.add(gain, f32x4.mul(X, f32x4.add(f32x4.mul(t3, X), f32x4.mul(t4, Y))))
    gain = f32x4.add(gain, f32x4.mul(t5, f32x4.mul(Y, Y)))
    v128.store(values + at, f32x4.add(f32x4.mul(gain, v128.load(values + at)), t6))
  }
}

/**
 * Marks places that show another layer than the one they are to be read through: `kept` gets 1 where they are to be read,
 * -1 where they are not, -2 where a layer further back is seen. `cells` holds, for each cell of a part of the other frame
 * (`firstCol`, `firstRow`, `cols`, `rows`, `cellPx`), three bytes: the layer (255: not known), the layers near enough
 * to pass in front here, and the layers near enough for the label to be wrong, both as bits. `matrices` holds 9 f64 for
 * each layer, `hiddenBy` a byte of bits: the layers in front of it. `doubts` gets 1 where the reading may show a layer
 * in front, or its own after all.
 */
export function markOtherLayers(
  kept: usize, doubts: usize, xs: usize, ys: usize, count: i32, layer: i32, matrices: usize, hiddenBy: usize,
  cells: usize, cellPx: i32, firstCol: i32, firstRow: i32, cols: i32, rows: i32, alikePx: f64,
): void {
  const inFront = <i32>load<u8>(hiddenBy + <usize>layer)
  const own = 1 << layer
  const perCell = f32x4.splat(<f32>1 / <f32>cellPx)
  const offCol = i32x4.splat(firstCol), offRow = i32x4.splat(firstRow)
  let found = -1, theirs: usize = 0
  for (let i = 0; i < count; i += 4) {
    const x = v128.load(xs + (<usize>i << 2)), y = v128.load(ys + (<usize>i << 2))
    sendTo(sent, matrices + <usize>(layer * 72), x, y)
    const px = v128.load(sent), py = v128.load(sent, 16)
    v128.store(sent, i32x4.sub(i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.mul(px, perCell))), offCol), 32)
    v128.store(sent, i32x4.sub(i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.mul(py, perCell))), offRow), 48)
    v128.store(kept + (<usize>i << 2), f32x4.splat(1))
    store<u32>(doubts + <usize>i, 0)
    for (let lane = 0; lane < 4; lane++) {
      const four = <usize>lane << 2
      const cellCol = load<i32>(sent + four, 32), cellRow = load<i32>(sent + four, 48)
      if (cellCol < 0 || cellRow < 0 || cellCol >= cols || cellRow >= rows) continue
      const cell = cells + <usize>(3 * (cellRow * cols + cellCol))
      const label = <i32>load<u8>(cell)
      if (label == layer || label == 255) {
        if ((inFront & <i32>load<u8>(cell, 1)) != 0) store<u8>(doubts + <usize>(i + lane), 1)
        continue
      }
      if (label != found) {
        found = label
        theirs = matrices + <usize>(label * 72)
      }
      // Where both layers move alike, the one label is as good as the other.
      if (isAlike(theirs, load<f32>(xs + (<usize>i << 2) + four), load<f32>(ys + (<usize>i << 2) + four), load<f32>(sent + four), load<f32>(sent + four, 16), alikePx)) continue
      if ((own & <i32>load<u8>(cell, 2)) != 0) {
        store<u8>(doubts + <usize>(i + lane), 1)
        continue
      }
      // Seen behind where the layer should be: then it is not there. Anything else may hide it.
      store<f32>(kept + (<usize>i << 2) + four, (<i32>load<u8>(hiddenBy + <usize>label) & own) != 0 ? BEHIND_SEEN : <f32>-1)
    }
  }
}

const sent: usize = memory.data(64, 16)

/** Four places sent through a matrix of f64: x at `to`, y 16 bytes further on. */
// @ts-ignore: decorator
@inline
function sendTo(to: usize, matrix: usize, x: v128, y: v128): void {
  let px = planeAt(matrix, x, y), py = planeAt(matrix + 24, x, y)
  if (load<f64>(matrix, 48) != 0 || load<f64>(matrix, 56) != 0 || load<f64>(matrix, 64) != 1) {
    const w = planeAt(matrix + 48, x, y)
    px = f32x4.div(px, w)
    py = f32x4.div(py, w)
  }
  v128.store(to, px)
  v128.store(to, py, 16)
}

// @ts-ignore: decorator
@inline
function planeAt(row: usize, x: v128, y: v128): v128 {
  const a = f32x4.splat(<f32>load<f64>(row)), b = f32x4.splat(<f32>load<f64>(row, 8)), c = f32x4.splat(<f32>load<f64>(row, 16))
  return f32x4.add(f32x4.add(f32x4.mul(a, x), f32x4.mul(b, y)), c)
}

/** Whether a matrix sends a place nearly to (px, py). */
// @ts-ignore: decorator
@inline
function isAlike(matrix: usize, x: f32, y: f32, px: f32, py: f32, alikePx: f64): bool {
  const u = <f64>x, v = <f64>y
  const w = 1.0 / (load<f64>(matrix, 48) * u + load<f64>(matrix, 56) * v + load<f64>(matrix, 64))
  const dx = (load<f64>(matrix) * u + load<f64>(matrix, 8) * v + load<f64>(matrix, 16)) * w - <f64>px
  const dy = (load<f64>(matrix, 24) * u + load<f64>(matrix, 32) * v + load<f64>(matrix, 40)) * w - <f64>py
  return dx * dx + dy * dy < alikePx * alikePx
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

/**
 * For each cell of a frame three bytes: its label, and as bits the labels seen up to `near` and up to `far` cells away,
 * straight and diagonally. `bits` is scratch: a byte for each cell of the frame with `far` more on every side, and 16.
 */
export function labelsAround(labels: usize, cols: i32, rows: i32, near: i32, far: i32, bits: usize, out: usize): void {
  const stride = cols + 2 * far
  memory.fill(bits, 0, <usize>(stride * (rows + 2 * far)) + 16)
  for (let row = 0; row < rows; row++) {
    const to = bits + <usize>((row + far) * stride + far)
    for (let col = 0; col < cols; col++) {
      const label = <i32>load<u8>(labels + <usize>(row * cols + col))
      const bit: i32 = label < 8 ? 1 << label : 0
      store<u8>(to + <usize>col, <u8>bit)
    }
  }
  for (let row = 0; row < rows; row++) {
    for (let col = 0; col < cols; col += 16) {
      const from = bits + <usize>((row + far) * stride + far + col)
      let seen = v128.load(from)
      let nearby = seen
      for (let reach = 1; reach <= far; reach++) {
        const side = <usize>reach, line = <usize>(reach * stride)
        seen = v128.or(seen, v128.or(v128.load(from - side), v128.load(from + side)))
        seen = v128.or(seen, v128.or(v128.load(from - line), v128.load(from + line)))
        seen = v128.or(seen, v128.or(v128.load(from - line - side), v128.load(from - line + side)))
        seen = v128.or(seen, v128.or(v128.load(from + line - side), v128.load(from + line + side)))
        if (reach == near) nearby = seen
      }
      const to = out + <usize>(3 * (row * cols + col))
      const count = min(16, cols - col)
      v128.store(lanes, nearby)
      v128.store(lanes, seen, 16)
      for (let i = 0; i < count; i++) {
        const at = to + <usize>(3 * i)
        store<u8>(at, load<u8>(labels + <usize>(row * cols + col + i)))
        store<u8>(at, load<u8>(lanes + <usize>i), 1)
        store<u8>(at, load<u8>(lanes + <usize>i, 16), 2)
      }
    }
  }
}
