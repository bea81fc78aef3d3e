// The sides of a path as straightened strips: a column for each px along the path, a row for each px outwards, row 0
// nearest; four floats a place, 0 where the picture has no such channel.
import { bicubicWide } from './sample'

const PLACE_BYTES = 40
const FOOTPRINT_PX = 2 // reading between pixels looks so far

/**
 * Reads columns of a strip, from `begin` to before `end`, from the part of a picture at `src` that lies at (left, top).
 * `places` holds for each column five f64: the centreline in px of the picture, the direction outwards to the right, and how
 * far along it the rim lies. `sign` is -1 for the left side. `isMasked` gets a byte for each place, where there is a mask:
 * whether something covers what is read.
 */
export function readStrip(
  src: usize, left: i32, top: i32, width: i32, height: i32, channels: i32, mask: usize,
  places: usize, begin: i32, end: i32, columns: i32, rows: i32, sign: f64, strip: usize, isMasked: usize,
): bool {
  let hasMasked = false
  for (let column = begin; column < end; column++) {
    const at = places + column * PLACE_BYTES
    const x = load<f64>(at) - <f64>left, y = load<f64>(at, 8) - <f64>top, dx = load<f64>(at, 16), dy = load<f64>(at, 24)
    const rim = load<f64>(at, 32)
    for (let row = 0; row < rows; row++) {
      const away = sign * (rim + <f64>row)
      const u = <f32>(x + away * dx), v = <f32>(y + away * dy)
      const place = row * columns + column
      v128.store(strip + (place << 4), bicubicWide(src, width, height, channels, u, v))
      if (mask == 0) continue
      const isIn = isMaskedNear(mask, width, height, <i32>Math.floor(u), <i32>Math.floor(v))
      store<u8>(isMasked + place, isIn ? 1 : 0)
      hasMasked = hasMasked || isIn
    }
  }
  return hasMasked
}

function isMaskedNear(mask: usize, width: i32, height: i32, col: i32, row: i32): bool {
  if (col < 0 || row < 0 || col >= width || row >= height) return false
  const left = max(col - FOOTPRINT_PX, 0), right = min(col + FOOTPRINT_PX, width - 1)
  const bottom = min(row + FOOTPRINT_PX, height - 1)
  for (let y = max(row - FOOTPRINT_PX, 0); y <= bottom; y++)
    for (let x = left; x <= right; x++) if (load<u8>(mask + y * width + x) != 0) return true
  return false
}

/** Bridges masked places along each row, from the nearest free ones; a row without any stays as it was read. */
export function bridgeStrip(strip: usize, isMasked: usize, columns: i32, rows: i32): void {
  for (let row = 0; row < rows; row++) {
    const line = strip + ((row * columns) << 4), masked = isMasked + row * columns
    for (let column = 0; column < columns; ) {
      if (load<u8>(masked + column) == 0) {
        column++
        continue
      }
      const begin = column
      while (column < columns && load<u8>(masked + column) != 0) column++
      if (begin == 0 && column == columns) continue
      const before = v128.load(line + (max(begin - 1, 0) << 4))
      const after = v128.load(line + (min(column, columns - 1) << 4))
      for (let at = begin; at < column; at++) {
        const f: f32 = begin == 0 ? 1 : column == columns ? 0 : <f32>(at - begin + 1) / <f32>(column - begin + 1)
        const mixed = f32x4.add(f32x4.mul(f32x4.splat(1 - f), before), f32x4.mul(f32x4.splat(f), after))
        v128.store(line + (at << 4), mixed)
      }
    }
  }
}

/** A place of a strip, between columns and rows. */
// @ts-ignore: decorator
@inline
function stripAt(strip: usize, columns: i32, rows: i32, arc: f32, row: f32): v128 {
  const u = min<f32>(max<f32>(arc, 0), <f32>(columns - 1)), v = min<f32>(max<f32>(row, 0), <f32>(rows - 1))
  const col = min(<i32>u, columns - 2), top = min(<i32>v, max(rows - 2, 0))
  const fu = f32x4.splat(u - <f32>col), fv = v - <f32>top
  const at = strip + ((top * columns + col) << 4)
  const a = v128.load(at), b = v128.load(at, 16)
  const first = f32x4.add(a, f32x4.mul(fu, f32x4.sub(b, a)))
  if (fv == 0) return first
  const below = at + (columns << 4)
  const c = v128.load(below), d = v128.load(below, 16)
  const second = f32x4.add(c, f32x4.mul(fu, f32x4.sub(d, c)))
  return f32x4.add(first, f32x4.mul(f32x4.splat(fv), f32x4.sub(second, first)))
}

/**
 * A side seen with a view `smoothPx` wide: between the two copies that are smoothed nearly so far, their deviations 0, 1, 2
 * and 4 (SMOOTH_PX in fill/across/strips.ts).
 */
// @ts-ignore: decorator
@inline
function viewOf(side: usize, columns: i32, rows: i32, arc: f32, row: f32, smoothPx: f32): v128 {
  const level = smoothPx <= 1 ? 0 : smoothPx <= 2 ? 1 : 2
  const f: f32 = level == 0 ? smoothPx : level == 1 ? smoothPx - 1 : (min<f32>(smoothPx, 4) - 2) * 0.5
  const bytes = (columns * rows) << 4
  const strip = side + level * bytes
  const narrow = stripAt(strip, columns, rows, arc, row)
  const wide = stripAt(strip + bytes, columns, rows, arc, row)
  return f32x4.add(narrow, f32x4.mul(f32x4.splat(f), f32x4.sub(wide, narrow)))
}

/** To and fro between 0 and `reach`: texture further out than that is not looked at. */
// @ts-ignore: decorator
@inline
function foldWithin(distance: f32, reach: f32): f32 {
  const rest = distance - 2 * reach * <f32>Math.trunc(distance / (2 * reach))
  return rest > reach ? 2 * reach - rest : rest
}

/**
 * A side continued `depth` px into the hole (below 0: still outside, where it is the plate itself): its rim seen with a
 * view that widens with depth, plus as much of the detail that the view has lost, mirrored from outside, as `echo` says.
 */
// @ts-ignore: decorator
@inline
function continued(
  side: usize, columns: i32, rows: i32, arc: f32, depth: f32, blur: f32, echo: f32, reach: f32,
): v128 {
  const smoothPx = blur * max<f32>(0, depth)
  if (smoothPx == 0) return stripAt(side, columns, rows, arc, max<f32>(0, -depth))
  const seen = viewOf(side, columns, rows, arc, max<f32>(0, -depth), smoothPx)
  if (echo == 0) return seen
  const row = foldWithin(depth, max<f32>(reach - 1, 1))
  const detail = f32x4.sub(stripAt(side, columns, rows, arc, row), viewOf(side, columns, rows, arc, row, smoothPx))
  return f32x4.add(seen, f32x4.mul(f32x4.splat(echo), detail))
}

// Strips are read from the picture and then between their columns: each reading between pixels keeps about this share of
// white grain's variance.
const READ_TWICE: f32 = 0.55
const SQRT_PI: f32 = 1.7724539

/** Share of the grain's variance that a view has left: of deviation s it averages about 2 sqrt(pi) s pixels. */
// @ts-ignore: decorator
@inline
function keptByView(depth: f32, echo: f32, blur: f32): f32 {
  const averaged: f32 = 1 / (1 + 2 * SQRT_PI * blur * max<f32>(0, depth))
  return READ_TWICE * (averaged + echo * echo * (1 - averaged))
}

/** Offsets of the settings at `settings`, f32 each. */
const FIXED_X = 0, FIXED_Y = 4, LEAN_COS = 8, LEAN_SIN = 12, RIM = 16, MEET = 20, ECHO = 24, REACH = 28, WIDEN = 32, MIN_CROSSING = 36

/**
 * Fills the entries of a path's field from both sides. Per column `shifts`, `agreement` (f32) and whether each side is seen
 * (bytes); a fixed direction of 0, 0 is square to the path. Entries whose `wanted` is 0 stay as they are.
 */
export function continueSides(
  count: i32, wanted: usize, distances: usize, tangentXs: usize, tangentYs: usize, halfWidths: usize, arcs: usize,
  left: usize, right: usize, columns: i32, rows: i32, isLeftSeen: usize, isRightSeen: usize,
  shifts: usize, agreement: usize, settings: usize, channels: i32, values: usize, grainKept: usize,
): void {
  const fixedX = load<f32>(settings, FIXED_X), fixedY = load<f32>(settings, FIXED_Y)
  const leanCos = load<f32>(settings, LEAN_COS), leanSin = load<f32>(settings, LEAN_SIN)
  const rimPx = load<f32>(settings, RIM), meet = max<f32>(load<f32>(settings, MEET), 1e-3)
  const echo = load<f32>(settings, ECHO), reach = load<f32>(settings, REACH)
  const widen = load<f32>(settings, WIDEN), minCrossing = load<f32>(settings, MIN_CROSSING)
  const isSquare = fixedX == 0 && fixedY == 0
  for (let i = 0; i < count; i++) {
    const four = i << 2
    if (load<f32>(wanted + four) == 0) continue
    const tangentX = load<f32>(tangentXs + four), tangentY = load<f32>(tangentYs + four)
    const baseX = isSquare ? -tangentY : fixedX, baseY = isSquare ? tangentX : fixedY
    let x = baseX * leanCos - baseY * leanSin, y = baseX * leanSin + baseY * leanCos
    let crossing = y * tangentX - x * tangentY
    if (abs<f32>(crossing) < minCrossing) {
      x = -tangentY
      y = tangentX
      crossing = 1
    } else if (crossing < 0) {
      x = -x
      y = -y
      crossing = -crossing
    }
    const t = load<f32>(distances + four) / crossing
    const rim = (load<f32>(halfWidths + four) + rimPx) / crossing
    // Where the line through the pixel meets the centreline, as a length along the path.
    const arc = load<f32>(arcs + four) - t * (x * tangentX + y * tangentY)
    const column = min(max(<i32>floor<f32>(arc + 0.5), 0), columns - 1)
    const share = min<f32>(max<f32>(0.5 + (0.5 * t) / rim, 0), 1)
    const ramp = min<f32>(max<f32>(0.5 + (share - 0.5) / meet, 0), 1)
    const isLeft = load<u8>(isLeftSeen + column) != 0, isRight = load<u8>(isRightSeen + column) != 0
    const toRight: f32 = isLeft == isRight ? ramp : isRight ? 1 : 0
    const shift = load<f32>(shifts + (column << 2))
    const blur = widen * (1 - load<f32>(agreement + (column << 2)))
    let mixed = f32x4.splat(0)
    if (toRight < 1) {
      const seen = continued(left, columns, rows, arc - share * shift, rim + t, blur, echo, reach)
      mixed = f32x4.mul(f32x4.splat(1 - toRight), seen)
    }
    if (toRight > 0) {
      const seen = continued(right, columns, rows, arc + (1 - share) * shift, rim - t, blur, echo, reach)
      mixed = f32x4.add(mixed, f32x4.mul(f32x4.splat(toRight), seen))
    }
    storeChannels(values + i * (channels << 2), mixed, channels)
    const toLeft: f32 = 1 - toRight
    const kept = toLeft * toLeft * keptByView(rim + t, echo, blur) + toRight * toRight * keptByView(rim - t, echo, blur)
    store<f32>(grainKept + four, kept)
  }
}

// @ts-ignore: decorator
@inline
function storeChannels(at: usize, value: v128, channels: i32): void {
  store<f32>(at, f32x4.extract_lane(value, 0))
  if (channels > 1) store<f32>(at, f32x4.extract_lane(value, 1), 4)
  if (channels > 2) store<f32>(at, f32x4.extract_lane(value, 2), 8)
  if (channels > 3) store<f32>(at, f32x4.extract_lane(value, 3), 12)
}
