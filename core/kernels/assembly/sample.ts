// Reading between pixels. Pixel (col, row) covers [col, col + 1) x [row, row + 1); its value sits at
// +0.5. Beyond the outermost centres the edge pixel repeats. Samples are interleaved 32-bit floats.

// @ts-ignore: decorator
@inline
function clampIndex(i: i32, count: i32): i32 {
  return min(max(i, 0), count - 1)
}

// @ts-ignore: decorator
@inline
function bilinearInto(src: usize, width: i32, height: i32, channels: i32, x: f32, y: f32, out: usize): void {
  const u = min<f32>(max<f32>(x - 0.5, 0), <f32>(width - 1))
  const v = min<f32>(max<f32>(y - 0.5, 0), <f32>(height - 1))
  const col = <i32>floor<f32>(u)
  const row = <i32>floor<f32>(v)
  const fu = u - <f32>col
  const fv = v - <f32>row
  const right = min(col + 1, width - 1)
  const below = min(row + 1, height - 1)
  for (let c = 0; c < channels; c++) {
    const topLeft = load<f32>(src + (((row * width + col) * channels + c) << 2))
    const topRight = load<f32>(src + (((row * width + right) * channels + c) << 2))
    const bottomLeft = load<f32>(src + (((below * width + col) * channels + c) << 2))
    const bottomRight = load<f32>(src + (((below * width + right) * channels + c) << 2))
    const top = topLeft + fu * (topRight - topLeft)
    const bottom = bottomLeft + fu * (bottomRight - bottomLeft)
    store<f32>(out + (c << 2), top + fv * (bottom - top))
  }
}

// Keys 1981, a = -1/2: the weight of the neighbour `index` (0 to 3) at the fraction f past neighbour 1.
// @ts-ignore: decorator
@inline
function cubicWeight(index: i32, f: f32): f32 {
  if (index == 0) return ((-0.5 * f + 1) * f - 0.5) * f
  if (index == 1) return (1.5 * f - 2.5) * f * f + 1
  if (index == 2) return ((-1.5 * f + 2) * f + 0.5) * f
  return (0.5 * f - 0.5) * f * f
}

// @ts-ignore: decorator
@inline
function bicubicInto(src: usize, width: i32, height: i32, channels: i32, x: f32, y: f32, out: usize): void {
  const u = min<f32>(max<f32>(x - 0.5, 0), <f32>(width - 1))
  const v = min<f32>(max<f32>(y - 0.5, 0), <f32>(height - 1))
  const col = <i32>floor<f32>(u)
  const row = <i32>floor<f32>(v)
  const fu = u - <f32>col
  const fv = v - <f32>row
  if (channels == 3 || channels == 4) {
    // All channels at once, in the same order as below: the same bits. A fourth lane that is not there is not stored.
    const w0 = f32x4.splat(cubicWeight(0, fu)), w1 = f32x4.splat(cubicWeight(1, fu))
    const w2 = f32x4.splat(cubicWeight(2, fu)), w3 = f32x4.splat(cubicWeight(3, fu))
    const c0 = (clampIndex(col - 1, width) * channels) << 2, c1 = (col * channels) << 2
    const c2 = (clampIndex(col + 1, width) * channels) << 2, c3 = (clampIndex(col + 2, width) * channels) << 2
    let sum = f32x4.splat(0)
    for (let j = 0; j < 4; j++) {
      const line = src + ((clampIndex(row + j - 1, height) * width * channels) << 2)
      let across = f32x4.mul(w0, v128.load(line + c0))
      across = f32x4.add(across, f32x4.mul(w1, v128.load(line + c1)))
      across = f32x4.add(across, f32x4.mul(w2, v128.load(line + c2)))
      across = f32x4.add(across, f32x4.mul(w3, v128.load(line + c3)))
      sum = f32x4.add(sum, f32x4.mul(f32x4.splat(cubicWeight(j, fv)), across))
    }
    if (channels == 4) v128.store(out, sum)
    else {
      store<f32>(out, f32x4.extract_lane(sum, 0))
      store<f32>(out, f32x4.extract_lane(sum, 1), 4)
      store<f32>(out, f32x4.extract_lane(sum, 2), 8)
    }
    return
  }
  for (let c = 0; c < channels; c++) {
    let sum: f32 = 0
    for (let j = 0; j < 4; j++) {
      const line = src + ((clampIndex(row + j - 1, height) * width * channels + c) << 2)
      let across: f32 = 0
      for (let i = 0; i < 4; i++) {
        across += cubicWeight(i, fu) * load<f32>(line + ((clampIndex(col + i - 1, width) * channels) << 2))
      }
      sum += cubicWeight(j, fv) * across
    }
    store<f32>(out + (c << 2), sum)
  }
}

/** All channels of a place as four floats; those that the picture has not are 0. */
// @ts-ignore: decorator
@inline
export function bicubicWide(src: usize, width: i32, height: i32, channels: i32, x: f32, y: f32): v128 {
  const u = min<f32>(max<f32>(x - 0.5, 0), <f32>(width - 1))
  const v = min<f32>(max<f32>(y - 0.5, 0), <f32>(height - 1))
  const col = <i32>floor<f32>(u)
  const row = <i32>floor<f32>(v)
  const fu = u - <f32>col, fv = v - <f32>row
  const w0 = f32x4.splat(cubicWeight(0, fu)), w1 = f32x4.splat(cubicWeight(1, fu))
  const w2 = f32x4.splat(cubicWeight(2, fu)), w3 = f32x4.splat(cubicWeight(3, fu))
  const c0 = (clampIndex(col - 1, width) * channels) << 2, c1 = (col * channels) << 2
  const c2 = (clampIndex(col + 1, width) * channels) << 2, c3 = (clampIndex(col + 2, width) * channels) << 2
  let sum = f32x4.splat(0)
  for (let j = 0; j < 4; j++) {
    const line = src + ((clampIndex(row + j - 1, height) * width * channels) << 2)
    let across = f32x4.mul(w0, v128.load(line + c0))
    across = f32x4.add(across, f32x4.mul(w1, v128.load(line + c1)))
    across = f32x4.add(across, f32x4.mul(w2, v128.load(line + c2)))
    across = f32x4.add(across, f32x4.mul(w3, v128.load(line + c3)))
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(cubicWeight(j, fv)), across))
  }
  const hasSecond = channels > 1 ? -1 : 0, hasThird = channels > 2 ? -1 : 0, hasFourth = channels > 3 ? -1 : 0
  let kept = i32x4.splat(-1)
  kept = i32x4.replace_lane(kept, 1, hasSecond)
  kept = i32x4.replace_lane(kept, 2, hasThird)
  kept = i32x4.replace_lane(kept, 3, hasFourth)
  return v128.and(sum, kept)
}

/** Reads `count` positions (x, y pairs at `xy`) into dst, `channels` floats each. */
export function gatherBilinear(
  src: usize, width: i32, height: i32, channels: i32, xy: usize, count: i32, dst: usize,
): void {
  for (let i = 0; i < count; i++) {
    bilinearInto(src, width, height, channels, load<f32>(xy), load<f32>(xy, 4), dst)
    xy += 8
    dst += channels << 2
  }
}

export function gatherBicubic(
  src: usize, width: i32, height: i32, channels: i32, xy: usize, count: i32, dst: usize,
): void {
  for (let i = 0; i < count; i++) {
    bicubicInto(src, width, height, channels, load<f32>(xy), load<f32>(xy, 4), dst)
    xy += 8
    dst += channels << 2
  }
}

/**
 * Every pixel centre of dst is sent through the 3 x 3 matrix at `matrix` (row-major f64, source from
 * destination) and the source is read there. `cubic` chooses bicubic over bilinear.
 */
export function warpProjective(
  src: usize, width: i32, height: i32, channels: i32,
  dst: usize, dstWidth: i32, dstHeight: i32, matrix: usize, cubic: bool,
): void {
  const a = load<f64>(matrix), b = load<f64>(matrix, 8), c = load<f64>(matrix, 16)
  const d = load<f64>(matrix, 24), e = load<f64>(matrix, 32), f = load<f64>(matrix, 40)
  const g = load<f64>(matrix, 48), h = load<f64>(matrix, 56), k = load<f64>(matrix, 64)
  for (let row = 0; row < dstHeight; row++) {
    const y = <f64>row + 0.5
    for (let col = 0; col < dstWidth; col++) {
      const x = <f64>col + 0.5
      const w = 1.0 / (g * x + h * y + k)
      const sx = <f32>((a * x + b * y + c) * w)
      const sy = <f32>((d * x + e * y + f) * w)
      if (cubic) bicubicInto(src, width, height, channels, sx, sy, dst)
      else bilinearInto(src, width, height, channels, sx, sy, dst)
      dst += channels << 2
    }
  }
}
