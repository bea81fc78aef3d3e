// Shapes as masks of bytes, and how far pixels lie from lines. Lines are given in px of the mask's own corner; a pixel's
// centre lies at +0.5.

// @ts-ignore: decorator
@inline
function clampTo(value: f64, most: i32): i32 {
  return <i32>min<f64>(max<f64>(value, 0), <f64>most)
}

/**
 * Of a row whose centres lie `offY` below the line's start, the first column that may lie within `reach` of the line, and
 * no further past its ends than that or as told, and the one past the last, in this order at `span`. The line runs by
 * (dx, dy), `length` px.
 */
// @ts-ignore: decorator
@inline
function spanOfRow(
  span: usize, offY: f64, ax: f64, dx: f64, dy: f64, length: f64, reach: f64, beyondStart: f64, beyondEnd: f64, width: i32,
): void {
  let from: f64 = ax - reach, to: f64 = ax + reach
  if (dx < 0) from += dx
  else to += dx
  if (dy != 0 && length > 0) {
    const middle = ax + (offY * dx) / dy, half = (reach * length) / abs(dy)
    from = max(from, middle - half)
    to = min(to, middle + half)
  }
  if (dx != 0 && length > 0) {
    const a = (-min(beyondStart, reach) * length - offY * dy) / dx, b = ((length + min(beyondEnd, reach)) * length - offY * dy) / dx
    from = max(from, ax + min(a, b))
    to = min(to, ax + max(a, b))
  }
  store<i32>(span, clampTo(floor(from - 0.5), width))
  store<i32>(span, clampTo(ceil(to + 0.5), width), 4)
}

const span: usize = memory.data(8, 8)

/**
 * Gives `value` to the pixels whose centre lies within a radius of a line from (ax, ay) to (bx, by); the radius runs
 * from `ra` to `rb`. Nothing further than `beyondStart` and `beyondEnd` px past the ends is marked.
 */
export function markLine(
  mask: usize, width: i32, height: i32, ax: f64, ay: f64, bx: f64, by: f64, ra: f64, rb: f64,
  beyondStart: f64, beyondEnd: f64, value: i32,
): void {
  const dx = bx - ax, dy = by - ay
  const squared = dx * dx + dy * dy
  const length = sqrt(squared)
  const perSquared: f64 = squared > 0 ? 1.0 / squared : 0
  const least: f64 = length > 0 ? -beyondStart / length : -Infinity
  const most: f64 = length > 0 ? 1.0 + beyondEnd / length : Infinity
  const reach = max(ra, rb)
  if (!(reach >= 0)) return
  const beginRow = clampTo(floor(min(ay, by) - reach), height), endRow = clampTo(ceil(max(ay, by) + reach), height)
  for (let row = beginRow; row < endRow; row++) {
    const offY = <f64>row + 0.5 - ay
    spanOfRow(span, offY, ax, dx, dy, length, reach, beyondStart, beyondEnd, width)
    const line = mask + <usize>(row * width), end = load<i32>(span, 4)
    for (let col = load<i32>(span); col < end; col++) {
      const offX = <f64>col + 0.5 - ax
      const along = (offX * dx + offY * dy) * perSquared
      if (along < least || along > most) continue
      const t = min(max(along, 0.0), 1.0)
      const ex = offX - t * dx, ey = offY - t * dy
      const radius = ra + t * (rb - ra)
      if (radius >= 0 && ex * ex + ey * ey <= radius * radius) store<u8>(line + <usize>col, <u8>value)
    }
  }
}

/** Gives `value` to the pixels whose centre lies inside a polygon by the even-odd rule; `corners` are x, y pairs of f64. `toggles` is one byte more than a line for each line. */
export function markPolygon(mask: usize, width: i32, height: i32, corners: usize, count: i32, toggles: usize, value: i32): void {
  const stride = width + 1
  memory.fill(toggles, 0, <usize>(stride * height))
  for (let i = 0, j = count - 1; i < count; j = i++) {
    const xi = load<f64>(corners + (<usize>i << 4)), yi = load<f64>(corners + (<usize>i << 4), 8)
    const xj = load<f64>(corners + (<usize>j << 4)), yj = load<f64>(corners + (<usize>j << 4), 8)
    const low = min(yi, yj), high = max(yi, yj)
    // Rows whose centre lies in [low, high).
    const begin = clampTo(ceil(low - 0.5), height), end = clampTo(ceil(high - 0.5), height)
    const slope: f64 = yi == yj ? 0 : (xj - xi) / (yj - yi)
    for (let row = begin; row < end; row++) {
      const x = slope * (<f64>row + 0.5 - yi) + xi
      const at = toggles + <usize>(row * stride + clampTo(ceil(x - 0.5), width))
      store<u8>(at, load<u8>(at) ^ 1)
    }
  }
  for (let row = 0; row < height; row++) {
    let isInside: u8 = 0
    const from = toggles + <usize>(row * stride), to = mask + <usize>(row * width)
    for (let col = 0; col < width; col++) {
      isInside ^= load<u8>(from + <usize>col)
      if (isInside) store<u8>(to + <usize>col, <u8>value)
    }
  }
}

/** Least squared distance of pixel centres to a line, up to `reach`; `nearest` is begun at infinity. */
export function nearestToLine(
  nearest: usize, width: i32, height: i32, ax: f64, ay: f64, bx: f64, by: f64, reach: f64,
): void {
  const dx = bx - ax, dy = by - ay
  const squared = dx * dx + dy * dy
  const most = reach * reach, length = sqrt(squared)
  const beginRow = clampTo(floor(min(ay, by) - reach), height), endRow = clampTo(ceil(max(ay, by) + reach), height)
  for (let row = beginRow; row < endRow; row++) {
    const offY = <f64>row + 0.5 - ay
    spanOfRow(span, offY, ax, dx, dy, length, reach, reach, reach, width)
    for (let col = load<i32>(span); col < load<i32>(span, 4); col++) {
      const offX = <f64>col + 0.5 - ax
      const t = squared > 0 ? min(max((offX * dx + offY * dy) / squared, 0.0), 1.0) : 0
      const ex = offX - t * dx, ey = offY - t * dy
      const distance = ex * ex + ey * ey
      const at = nearest + (<usize>(row * width + col) << 2)
      if (distance <= most && distance < <f64>load<f32>(at)) store<f32>(at, <f32>distance)
    }
  }
}

/** Pixels that are marked, at most every n-th in reading order, each line shifted by one; returns how many. */
export function listMarked(mask: usize, width: i32, height: i32, inset: i32, every: i32, out: usize): i32 {
  let n = 0, seen = 0
  for (let row = 0; row < height; row++) {
    for (let col = 0; col < width; col++) {
      if (load<u8>(mask + <usize>(row * width + col)) != 1) continue
      const isTaken = (seen++ + row) % every == 0
      if (!isTaken || row < inset || col < inset || row >= height - inset || col >= width - inset) continue
      store<i32>(out + (<usize>n << 2), row * width + col)
      n++
    }
  }
  return n
}

/** How many bytes are 1. */
export function countMarked(mask: usize, size: i32): i32 {
  let n = 0
  for (let i = 0; i < size; i++) if (load<u8>(mask + <usize>i) == 1) n++
  return n
}

/** How many pixels are marked or near: their squared distance is known. */
export function countNear(nearest: usize, mask: usize, size: i32): i32 {
  let n = 0
  for (let i = 0; i < size; i++)
    n += i32(load<u8>(mask + <usize>i) == 1 || load<f32>(nearest + (<usize>i << 2)) != Infinity)
  return n
}

/** Lists them in reading order with their distance from the edge, below 0 where they are marked. */
export function listNear(nearest: usize, mask: usize, size: i32, pixels: usize, edges: usize): void {
  let to: usize = 0
  for (let i = 0; i < size; i++) {
    const isInside = load<u8>(mask + <usize>i) == 1
    const squared = load<f32>(nearest + (<usize>i << 2))
    if (!isInside && squared == Infinity) continue
    store<i32>(pixels + to, i)
    store<f32>(edges + to, isInside ? -sqrt(squared) : sqrt(squared))
    to += 4
  }
}
