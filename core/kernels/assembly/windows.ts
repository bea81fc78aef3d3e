// What squares around every pixel of a map hold.

/** Sums over squares of 2 radius + 1 px: see `rectSums`. */
export function boxSums(map: usize, width: i32, height: i32, radius: i32, across: usize, columns: usize, out: usize): void {
  rectSums(map, width, height, radius, radius, across, columns, out)
}

/**
 * Sums over rectangles of 2 radius + 1 px across and 2 radiusDown + 1 down, cut off at the border; in 64 bits, so that running sums do not drift. `across` is as
 * large as the map, `columns` is `width` f64.
 */
export function rectSums(
  map: usize, width: i32, height: i32, radius: i32, radiusDown: i32, across: usize, columns: usize, out: usize,
): void {
  for (let row = 0; row < height; row++) {
    const line = map + (<usize>(row * width) << 2), to = across + (<usize>(row * width) << 2)
    let sum: f64 = 0
    for (let col = 0; col < min(radius, width); col++) sum += <f64>load<f32>(line + (<usize>col << 2))
    for (let col = 0; col < width; col++) {
      if (col + radius < width) sum += <f64>load<f32>(line + (<usize>(col + radius) << 2))
      if (col - radius - 1 >= 0) sum -= <f64>load<f32>(line + (<usize>(col - radius - 1) << 2))
      store<f32>(to + (<usize>col << 2), <f32>sum)
    }
  }
  memory.fill(columns, 0, <usize>width << 3)
  for (let row = 0; row < min(radiusDown, height); row++) addLine(columns, across + (<usize>(row * width) << 2), width, 1)
  for (let row = 0; row < height; row++) {
    if (row + radiusDown < height) addLine(columns, across + (<usize>((row + radiusDown) * width) << 2), width, 1)
    if (row - radiusDown - 1 >= 0) addLine(columns, across + (<usize>((row - radiusDown - 1) * width) << 2), width, -1)
    const to = out + (<usize>(row * width) << 2)
    let col = 0
    for (; col + 2 <= width; col += 2) {
      const two = f32x4.demote_f64x2_zero(v128.load(columns + (<usize>col << 3)))
      v128.store64_lane(to + (<usize>col << 2), two, 0)
    }
    for (; col < width; col++) store<f32>(to + (<usize>col << 2), <f32>load<f64>(columns + (<usize>col << 3)))
  }
}

// @ts-ignore: decorator
@inline
function addLine(columns: usize, line: usize, width: i32, sign: f64): void {
  let col = 0
  const s = f64x2.splat(sign)
  for (; col + 2 <= width; col += 2) {
    const two = f64x2.promote_low_f32x4(v128.load64_zero(line + (<usize>col << 2)))
    const at = columns + (<usize>col << 3)
    v128.store(at, f64x2.add(v128.load(at), f64x2.mul(s, two)))
  }
  for (; col < width; col++) {
    const at = columns + (<usize>col << 3)
    store<f64>(at, load<f64>(at) + sign * <f64>load<f32>(line + (<usize>col << 2)))
  }
}

/** The least within squares of 2 radius + 1 px, cut off at the border; for small radii. `across` is as large as the map. */
export function slidingLeast(map: usize, width: i32, height: i32, radius: i32, across: usize, out: usize): void {
  for (let row = 0; row < height; row++) {
    const line = map + (<usize>(row * width) << 2), to = across + (<usize>(row * width) << 2)
    let col = 0
    for (; col < width; col++) {
      if (col >= radius && col + radius + 4 <= width) {
        let least = v128.load(line + (<usize>(col - radius) << 2))
        for (let d = 1 - radius; d <= radius; d++) least = f32x4.min(least, v128.load(line + (<usize>(col + d) << 2)))
        v128.store(to + (<usize>col << 2), least)
        col += 3
        continue
      }
      let least: f32 = Infinity
      for (let at = max(0, col - radius); at <= min(width - 1, col + radius); at++) least = min<f32>(least, load<f32>(line + (<usize>at << 2)))
      store<f32>(to + (<usize>col << 2), least)
    }
  }
  for (let row = 0; row < height; row++) {
    const first = max(0, row - radius), last = min(height - 1, row + radius)
    const to = out + (<usize>(row * width) << 2)
    let col = 0
    for (; col + 4 <= width; col += 4) {
      let least = v128.load(across + (<usize>(first * width + col) << 2))
      for (let at = first + 1; at <= last; at++) least = f32x4.min(least, v128.load(across + (<usize>(at * width + col) << 2)))
      v128.store(to + (<usize>col << 2), least)
    }
    for (; col < width; col++) {
      let least: f32 = Infinity
      for (let at = first; at <= last; at++) least = min<f32>(least, load<f32>(across + (<usize>(at * width + col) << 2)))
      store<f32>(to + (<usize>col << 2), least)
    }
  }
}
