// How the surroundings of an area moved to another frame. Places are pixels of a picture of 32-bit floats; on the other
// frame, of integer samples, they lie at `xs`, `ys` (f64, px of its crop's corner). All channels are taken together.
import { nthSmallest } from './select'

// @ts-ignore: decorator
@inline
function sampleAt(src: usize, index: i32, is16: bool): f64 {
  return is16 ? <f64>load<u16>(src + (<usize>index << 1)) : <f64>load<u8>(src + <usize>index)
}

/** Mean of 3 x 3 px. */
function meanAround(picture: usize, width: i32, channels: i32, pixel: i32): f64 {
  let sum: f64 = 0
  for (let down = -1; down <= 1; down++) {
    const from = picture + (<usize>((pixel + down * width - 1) * channels) << 2)
    for (let i = 0; i < 3 * channels; i++) sum += <f64>load<f32>(from + (<usize>i << 2))
  }
  return sum / 9
}

/** Of each place, at least 2 px inside, its sum over the channels, its mean of 3 x 3 px, and the slopes of that. */
export function driftOwn(
  picture: usize, width: i32, channels: i32, places: usize, count: i32, sums: usize, means: usize, slopesX: usize, slopesY: usize,
): void {
  for (let k = 0; k < count; k++) {
    const pixel = load<i32>(places + (<usize>k << 2))
    let sum: f64 = 0
    for (let c = 0; c < channels; c++) sum += <f64>load<f32>(picture + (<usize>(pixel * channels + c) << 2))
    const at = <usize>k << 3
    store<f64>(sums + at, sum)
    store<f64>(means + at, meanAround(picture, width, channels, pixel))
    const right = meanAround(picture, width, channels, pixel + 1), left = meanAround(picture, width, channels, pixel - 1)
    const below = meanAround(picture, width, channels, pixel + width), above = meanAround(picture, width, channels, pixel - width)
    store<f64>(slopesX + at, (right - left) / 2)
    store<f64>(slopesY + at, (below - above) / 2)
  }
}

/** Mean absolute difference at a shift in whole px; infinite where less than half of the places lie in the other picture. */
export function driftDifference(
  sums: usize, xs: usize, ys: usize, count: i32, src: usize, is16: bool, scale: f64, width: i32, height: i32, channels: i32,
  dx: i32, dy: i32,
): f64 {
  let total: f64 = 0, seen = 0
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 3
    const col = <i32>Math.floor(load<f64>(xs + at)) + dx, row = <i32>Math.floor(load<f64>(ys + at)) + dy
    if (col < 0 || row < 0 || col >= width || row >= height) continue
    let other: f64 = 0
    for (let c = 0; c < channels; c++) other += sampleAt(src, (row * width + col) * channels + c, is16)
    total += abs(load<f64>(sums + at) - scale * other)
    seen++
  }
  return 2 * seen > count ? total / <f64>seen : Infinity
}

/** Mean of 3 x 3 px between pixels; NaN beyond the picture. */
function meanBetween(src: usize, is16: bool, width: i32, height: i32, channels: i32, x: f64, y: f64): f64 {
  const col = <i32>Math.floor(x), row = <i32>Math.floor(y)
  if (col < 1 || row < 1 || col + 2 >= width || row + 2 >= height) return NaN
  const right = x - <f64>col, down = y - <f64>row
  let sum: f64 = 0
  for (let j = -1; j <= 2; j++) {
    const across = j == -1 ? 1 - down : j == 2 ? down : 1
    let line: f64 = 0
    for (let i = -1; i <= 2; i++) {
      const along = i == -1 ? 1 - right : i == 2 ? right : 1
      const from = ((row + j) * width + col + i) * channels
      let pixel: f64 = 0
      for (let c = 0; c < channels; c++) pixel += sampleAt(src, from + c, is16)
      line += along * pixel
    }
    sum += across * line
  }
  return sum / 9
}

/**
 * The sums of one step at a shift (dx, dy): at `out` xx, xy, yy, xr, yr of slopes and residues, with places that fit badly
 * counting less. `residues` is scratch of as many f64, `sizes` of as many f32. Returns how many could be compared.
 */
export function driftSums(
  means: usize, slopesX: usize, slopesY: usize, xs: usize, ys: usize, count: i32,
  src: usize, is16: bool, scale: f64, width: i32, height: i32, channels: i32, dx: f64, dy: f64,
  residues: usize, sizes: usize, out: usize,
): i32 {
  let seen = 0
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 3
    const there = meanBetween(src, is16, width, height, channels, load<f64>(xs + at) + dx - 0.5, load<f64>(ys + at) + dy - 0.5)
    const residue = scale * there - load<f64>(means + at)
    store<f64>(residues + at, residue)
    if (residue != residue) continue
    store<f32>(sizes + (<usize>seen << 2), <f32>abs(residue))
    seen++
  }
  if (2 * seen < count || seen == 0) return seen
  const usual = max(2 * <f64>nthSmallest(sizes, seen, seen >> 1), 1e-6)
  let xx: f64 = 0, xy: f64 = 0, yy: f64 = 0, xr: f64 = 0, yr: f64 = 0
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 3
    const residue = load<f64>(residues + at)
    if (residue != residue) continue
    const misfit = residue / usual
    const weight = 1 / (1 + misfit * misfit)
    const x = load<f64>(slopesX + at), y = load<f64>(slopesY + at)
    xx += weight * x * x
    xy += weight * x * y
    yy += weight * y * y
    xr += weight * x * residue
    yr += weight * y * residue
  }
  store<f64>(out, xx)
  store<f64>(out, xy, 8)
  store<f64>(out, yy, 16)
  store<f64>(out, xr, 24)
  store<f64>(out, yr, 32)
  return seen
}
