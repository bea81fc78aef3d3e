// Which place on one side of a path belongs to which on the other. Strips as in strips.ts. Symbols: s a shift from
// -maxShift to maxShift, a and b the places compared, half the shift to either side.

const WINDOW_PX = 8 // compared this far to either side of a place
const COURSE_SHARE: f32 = 1 // how much the course of edges counts against the likeness of the rims
const COMPARED_ROWS = 2

/** Planes of floats that `sideCosts` works with, each `columns + 2 * pad` long, and a row for one shift. */
export function sideCostBytes(columns: i32, pad: i32): i32 {
  return 2 * (4 * COMPARED_ROWS + 4) * planeBytes(columns, pad) + 16 * (columns + 8)
}

// @ts-ignore: decorator
@inline
function planeBytes(columns: i32, pad: i32): i32 { return ((columns + 2 * pad + 4) << 2) }

/** A row of a strip as planes, a channel each, the first and last place repeated `pad` times. */
function spread(strip: usize, row: i32, columns: i32, channels: i32, pad: i32, planes: usize): void {
  const bytes = planeBytes(columns, pad)
  for (let i = -pad; i < columns + pad + 4; i++) {
    const from = strip + ((row * columns + min(max(i, 0), columns - 1)) << 4)
    const to = planes + ((i + pad) << 2)
    for (let c = 0; c < channels; c++) store<f32>(to + c * bytes, load<f32>(from + (c << 2)))
  }
}

/** Brightness of a row. */
function spreadGrey(strip: usize, row: i32, columns: i32, channels: i32, pad: i32, plane: usize): void {
  const colours = min(channels, 3)
  for (let i = -pad; i < columns + pad + 4; i++) {
    const from = strip + ((row * columns + min(max(i, 0), columns - 1)) << 4)
    let grey: f32 = 0
    for (let c = 0; c < colours; c++) grey += load<f32>(from + (c << 2)) / <f32>colours
    store<f32>(plane + ((i + pad) << 2), grey)
  }
}

// @ts-ignore: decorator
@inline
function outwardRow(index: i32, farthest: i32): i32 {
  return <i32>Math.floor(((<f64>index + 1.0) / 3.0) * <f64>farthest + 0.5)
}

/**
 * Mean squared difference of the sides around each column, for every shift; and how badly each side, read outwards, keeps
 * to the slope that the shift means. `costs` gets 2 maxShift + 1 floats for each column. `pad` covers all that is read
 * beyond the ends; `farthest` is the last row outwards whose course counts, 0 for none.
 */
export function sideCosts(
  left: usize, right: usize, columns: i32, rows: i32, channels: i32, maxShift: i32, gapPx: f64, farthest: i32,
  pad: i32, scratch: usize, costs: usize,
): void {
  const bytes = planeBytes(columns, pad)
  const sideBytes = (4 * COMPARED_ROWS + 4) * bytes
  const compared = min(COMPARED_ROWS, rows)
  for (let side = 0; side < 2; side++) {
    const strip = side == 0 ? left : right, planes = scratch + side * sideBytes
    for (let row = 0; row < compared; row++) spread(strip, row, columns, channels, pad, planes + 4 * row * bytes)
    if (maxShift == 0) continue
    const greys = planes + 4 * COMPARED_ROWS * bytes
    spreadGrey(strip, 0, columns, channels, pad, greys)
    for (let k = 0; k < 3; k++) {
      const row = outwardRow(k, farthest)
      if (row > 0) spreadGrey(strip, row, columns, channels, pad, greys + (k + 1) * bytes)
    }
  }
  const differences = scratch + 2 * sideBytes
  const sums = differences + 4 * (columns + 8)
  for (let s = -maxShift; s <= maxShift; s++) {
    differencesOf(scratch, sideBytes, bytes, columns, channels, compared, s, maxShift, <f32>(<f64>s / gapPx), farthest, pad, differences)
    windowMeans(differences, sums, columns, costs + ((s + maxShift) << 2), (2 * maxShift + 1) << 2)
  }
}

function differencesOf(
  planes: usize, sideBytes: i32, bytes: i32, columns: i32, channels: i32, compared: i32, shift: i32, maxShift: i32,
  slope: f32, farthest: i32, pad: i32, out: usize,
): void {
  const half = shift >> 1
  const a = planes + ((pad - half) << 2), b = planes + sideBytes + ((pad - half + shift) << 2)
  const greyA = a + 4 * COMPARED_ROWS * bytes, greyB = b + 4 * COMPARED_ROWS * bytes
  const share = f32x4.splat(<f32>1 / <f32>(compared * channels))
  let outward = 0
  if (maxShift > 0) for (let k = 0; k < 3; k++) if (outwardRow(k, farthest) > 0) outward++
  const courseShare = f32x4.splat(outward > 0 ? COURSE_SHARE / <f32>(outward << 1) : 0)
  for (let column = 0; column < columns; column += 4) {
    const at = column << 2
    let sum = f32x4.splat(0)
    for (let row = 0; row < compared; row++) {
      for (let c = 0; c < channels; c++) {
        const plane = (4 * row + c) * bytes
        const difference = f32x4.sub(v128.load(a + plane + at), v128.load(b + plane + at))
        sum = f32x4.add(sum, f32x4.mul(difference, difference))
      }
    }
    sum = f32x4.mul(sum, share)
    if (outward > 0) {
      let course = f32x4.splat(0)
      for (let k = 0; k < 3; k++) {
        const row = outwardRow(k, farthest)
        if (row == 0) continue
        const plane = (k + 1) * bytes
        const before = offCourse(greyA + at, greyA + plane + at, -<f32>row * slope)
        const after = offCourse(greyB + at, greyB + plane + at, <f32>row * slope)
        course = f32x4.add(course, f32x4.add(f32x4.mul(before, before), f32x4.mul(after, after)))
      }
      sum = f32x4.add(sum, f32x4.mul(course, courseShare))
    }
    v128.store(out + at, sum)
  }
}

/** What the rim differs from a row further out, read so many px further along. */
// @ts-ignore: decorator
@inline
function offCourse(rim: usize, row: usize, along: f32): v128 {
  const whole = <i32>floor<f32>(along)
  const f = f32x4.splat(along - <f32>whole)
  const from = row + (whole << 2)
  const first = v128.load(from)
  const read = f32x4.add(first, f32x4.mul(f, f32x4.sub(v128.load(from, 4), first)))
  return f32x4.sub(v128.load(rim), read)
}

function windowMeans(differences: usize, sums: usize, columns: i32, out: usize, stride: i32): void {
  let total: f64 = 0
  store<f64>(sums, 0)
  for (let column = 0; column < columns; column++) {
    total += <f64>load<f32>(differences + (column << 2))
    store<f64>(sums + ((column + 1) << 3), total)
  }
  for (let column = 0; column < columns; column++) {
    const begin = max(0, column - WINDOW_PX), end = min(columns, column + WINDOW_PX + 1)
    const sum = load<f64>(sums + (end << 3)) - load<f64>(sums + (begin << 3))
    store<f32>(out + column * stride, <f32>(sum / <f64>(end - begin)))
  }
}

/** Adds the costs of the same path on another frame: places keep their share of the way along it. */
export function addCosts(costs: usize, columns: i32, maxShift: i32, other: usize, otherColumns: i32, otherMaxShift: i32): void {
  const step = <f64>(otherColumns - 1) / <f64>max(1, columns - 1)
  const apart = otherMaxShift - maxShift
  const shifts = 2 * maxShift + 1, theirs = 2 * otherMaxShift + 1
  for (let column = 0; column < columns; column++) {
    const from = other + ((<i32>Math.floor(<f64>column * step + 0.5) * theirs) << 2)
    const to = costs + ((column * shifts) << 2)
    let s = 0
    // Where both have the same shifts they stand side by side.
    if (apart == 0) for (; s + 4 <= shifts; s += 4) v128.store(to + (s << 2), f32x4.add(v128.load(to + (s << 2)), v128.load(from + (s << 2))))
    for (; s < shifts; s++) {
      const at = min(max(s + apart, 0), theirs - 1)
      store<f32>(to + (s << 2), load<f32>(to + (s << 2)) + load<f32>(from + (at << 2)))
    }
  }
}

/**
 * The shift of every column: the cheapest way through all of them, a shift changing by at most one px from column to
 * column. Prices are shares of the mean cost: `bend` for each px of change, `slant` for each px of shift.
 * `scratch` holds two rows of 2 maxShift + 5 f64, one of prices, and a byte for each cost.
 */
export function chooseShifts(
  costs: usize, columns: i32, maxShift: i32, bend: f64, slant: f64, scratch: usize, shifts: usize,
): void {
  const count = 2 * maxShift + 1
  let mean: f64 = 0
  for (let i = 0; i < columns * count; i++) mean += <f64>load<f32>(costs + (i << 2))
  mean = mean / <f64>(columns * count) + 1e-12
  const rowBytes = (count + 4) << 3
  let totals = scratch + 16, next = totals + rowBytes
  const prices = scratch + 2 * rowBytes + 16
  const from = scratch + 3 * rowBytes + 16
  for (let s = -1; s <= count; s++) {
    const isIn = s >= 0 && s < count
    store<f64>(totals + (s << 3), isIn ? 0 : Infinity)
    store<f64>(next + (s << 3), Infinity)
    if (isIn) store<f64>(prices + (s << 3), slant * mean * <f64>abs(s - maxShift))
  }
  const bends = f64x2.splat(bend * mean)
  const up = i64x2.splat(1)
  for (let column = 0; column < columns; column++) {
    const line = costs + ((column * count) << 2), came = from + column * count
    for (let s = 0; s < count; s += 2) {
      const at = totals + (s << 3)
      const straight = v128.load(at)
      const below = f64x2.add(v128.load(at - 8), bends), above = f64x2.add(v128.load(at + 8), bends)
      const isBelow = f64x2.lt(below, straight)
      let best = v128.bitselect(below, straight, isBelow)
      const isAbove = f64x2.lt(above, best)
      best = v128.bitselect(above, best, isAbove)
      const step = v128.bitselect(up, isBelow, isAbove)
      store<u8>(came + s, <u8>i64x2.extract_lane(step, 0))
      const cost = f64x2.promote_low_f32x4(v128.load64_zero(line + (s << 2)))
      const total = f64x2.add(best, f64x2.add(cost, v128.load(prices + (s << 3))))
      store<f64>(next + (s << 3), f64x2.extract_lane(total, 0))
      if (s + 1 == count) continue
      store<u8>(came + s + 1, <u8>i64x2.extract_lane(step, 1))
      store<f64>(next + ((s + 1) << 3), f64x2.extract_lane(total, 1))
    }
    const swap = totals
    totals = next
    next = swap
  }
  let s = 0
  for (let at = 1; at < count; at++) if (load<f64>(totals + (at << 3)) < load<f64>(totals + (s << 3))) s = at
  for (let column = columns - 1; column >= 0; column--) {
    store<f32>(shifts + (column << 2), <f32>(s - maxShift))
    s += load<i8>(from + column * count + s)
  }
}

/**
 * Correlation of the rims of both sides along the path, in a window that slides with the shift: 0 no better than `chance`,
 * 1 fully. Differences from the window's middle are summed, so that nothing of them is lost.
 */
export function sideAgreement(
  left: usize, right: usize, columns: i32, shifts: usize, window: i32, chance: f32, out: usize,
): void {
  const count: f32 = <f32>((window << 1) + 1)
  for (let column = 0; column < columns; column++) {
    const half = <f64>load<f32>(shifts + (column << 2)) / 2
    const a = <i32>Math.floor(<f64>column - half + 0.5), b = <i32>Math.floor(<f64>column + half + 0.5)
    const middleA = placeAt(left, a, columns), middleB = placeAt(right, b, columns)
    let sumA = f32x4.splat(0), sumB = f32x4.splat(0), sumAA = f32x4.splat(0), sumBB = f32x4.splat(0), sumAB = f32x4.splat(0)
    for (let k = -window; k <= window; k++) {
      const offA = f32x4.sub(placeAt(left, a + k, columns), middleA)
      const offB = f32x4.sub(placeAt(right, b + k, columns), middleB)
      sumA = f32x4.add(sumA, offA)
      sumB = f32x4.add(sumB, offB)
      sumAA = f32x4.add(sumAA, f32x4.mul(offA, offA))
      sumBB = f32x4.add(sumBB, f32x4.mul(offB, offB))
      sumAB = f32x4.add(sumAB, f32x4.mul(offA, offB))
    }
    const together = spreadOf(sumAB, sumA, sumB, count)
    const spread = (spreadOf(sumAA, sumA, sumA, count) + spreadOf(sumBB, sumB, sumB, count)) / 2
    const share = (together / spread - chance) / (1 - chance)
    store<f32>(out + (column << 2), spread > 1e-9 ? min<f32>(max<f32>(share, 0), 1) : 0)
  }
}

// @ts-ignore: decorator
@inline
function placeAt(strip: usize, column: i32, columns: i32): v128 {
  return v128.load(strip + (min(max(column, 0), columns - 1) << 4))
}

/** Covariance from sums, over all channels. */
// @ts-ignore: decorator
@inline
function spreadOf(products: v128, sumA: v128, sumB: v128, count: f32): f32 {
  const n = f32x4.splat(count)
  const each = f32x4.sub(f32x4.div(products, n), f32x4.mul(f32x4.div(sumA, n), f32x4.div(sumB, n)))
  return f32x4.extract_lane(each, 0) + f32x4.extract_lane(each, 1) + f32x4.extract_lane(each, 2) + f32x4.extract_lane(each, 3)
}
