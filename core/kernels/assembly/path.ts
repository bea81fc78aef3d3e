// Where the pixels near a path lie, seen from its centreline. `curve` holds, one after the other as f64 for each of
// `vertices` vertices: x, y, length along the path, unit tangent x, y, full width; and of the segment that begins there
// its direction x, y and its length.

/** A float of such bytes is larger than any squared distance. */
const FAR_BYTE: u8 = 0x7f
const FAR: f32 = 1e38
/** The ends are cut straight: nothing further out is covered. */
const BEYOND_END_PX: f64 = 1

// @ts-ignore: decorator
@inline
function at(curve: usize, vertices: i32, row: i32, vertex: i32): f64 {
  return load<f64>(curve + (<usize>(row * vertices + vertex) << 3))
}

/**
 * Lists in reading order the pixels of a rectangle within `margin` of the area's edge. `nearest` (f32) and `segmentOf`
 * (i32) are scratch of the rectangle's size, `begins` and `ends` (i32) of its height. For each listed pixel `pixels`
 * gets its index, and `out` at planes of `capacity` floats: distance from the centreline (above 0 to the right),
 * distance from the edge, tangent x, tangent y, half width, length along, distance beyond the nearer end. Where it
 * `isRound` its ends are half discs; else they are cut straight.
 * Returns how many there are; with `capacity` 0 only counts those that may be.
 */
export function pathField(
  curve: usize, vertices: i32, rectCol: i32, rectRow: i32, width: i32, height: i32, margin: f64,
  isRound: bool, nearest: usize, segmentOf: usize, begins: usize, ends: usize, pixels: usize, out: usize, capacity: i32,
): i32 {
  if (capacity == 0) {
    memory.fill(nearest, FAR_BYTE, <usize>(width * height) << 2)
    for (let row = 0; row < height; row++) {
      store<i32>(begins + (<usize>row << 2), width)
      store<i32>(ends + (<usize>row << 2), 0)
    }
    for (let segment = 0; segment + 1 < vertices; segment++) markNearest(curve, vertices, segment, rectCol, rectRow, width, height, margin, isRound, nearest, segmentOf, begins, ends)
    let most = 0
    for (let row = 0; row < height; row++) {
      for (let col = load<i32>(begins + (<usize>row << 2)); col < load<i32>(ends + (<usize>row << 2)); col++) {
        if (load<f32>(nearest + (<usize>(row * width + col) << 2)) < FAR) most++
      }
    }
    return most
  }
  const plane = <usize>capacity << 2
  const total = at(curve, vertices, 2, vertices - 1)
  let count = 0, known = -1
  let startX: f64 = 0, startY: f64 = 0, startArc: f64 = 0, dirX: f64 = 0, dirY: f64 = 0, length: f64 = 0
  let w0: f64 = 0, widens: f64 = 0, tx0: f64 = 0, ty0: f64 = 0, turnX: f64 = 0, turnY: f64 = 0
  for (let row = 0; row < height; row++) {
    for (let col = load<i32>(begins + (<usize>row << 2)); col < load<i32>(ends + (<usize>row << 2)); col++) {
      const pixel = row * width + col
      if (load<f32>(nearest + (<usize>pixel << 2)) >= FAR) continue
      const s = load<i32>(segmentOf + (<usize>pixel << 2))
      if (s != known) {
        known = s
        startX = at(curve, vertices, 0, s)
        startY = at(curve, vertices, 1, s)
        startArc = at(curve, vertices, 2, s)
        dirX = at(curve, vertices, 6, s)
        dirY = at(curve, vertices, 7, s)
        length = at(curve, vertices, 8, s)
        w0 = at(curve, vertices, 5, s)
        widens = at(curve, vertices, 5, s + 1) - w0
        tx0 = at(curve, vertices, 3, s)
        ty0 = at(curve, vertices, 4, s)
        turnX = at(curve, vertices, 3, s + 1) - tx0
        turnY = at(curve, vertices, 4, s + 1) - ty0
      }
      const offX = <f64>(rectCol + col) + 0.5 - startX, offY = <f64>(rectRow + row) + 0.5 - startY
      const along = offX * dirX + offY * dirY, across = offY * dirX - offX * dirY
      const f: f64 = length > 0 ? min(max(along / length, 0.0), 1.0) : 0
      // Past a joint the nearest place is the joint itself, and past a round end the end; past any other it is the straight cut.
      const isFirst = s == 0 && !isRound, isLast = s == vertices - 2 && !isRound
      const overrun: f64 = along < 0 && !isFirst ? along : along > length && !isLast ? along - length : 0
      const off = overrun == 0 ? abs(across) : sqrt(across * across + overrun * overrun)
      const halfWidth = (w0 + f * widens) / 2
      if (off > halfWidth + margin) continue
      const tx = tx0 + f * turnX, ty = ty0 + f * turnY
      const norm: f64 = turnX == 0 && turnY == 0 ? 1 : sqrt(tx * tx + ty * ty)
      const arc = startArc + along - overrun
      store<i32>(pixels + (<usize>count << 2), pixel)
      let to = out + (<usize>count << 2)
      store<f32>(to, <f32>(across < 0 ? -off : off))
      store<f32>(to + plane, <f32>(off - halfWidth))
      store<f32>(to + 2 * plane, <f32>(tx / norm))
      store<f32>(to + 3 * plane, <f32>(ty / norm))
      store<f32>(to + 4 * plane, <f32>halfWidth)
      store<f32>(to + 5 * plane, <f32>arc)
      store<f32>(to + 6 * plane, <f32>max(-arc, arc - total))
      count++
    }
  }
  return count
}

function markNearest(
  curve: usize, vertices: i32, segment: i32, rectCol: i32, rectRow: i32, width: i32, height: i32, margin: f64,
  isRound: bool, nearest: usize, segmentOf: usize, begins: usize, ends: usize,
): void {
  const startX = at(curve, vertices, 0, segment), startY = at(curve, vertices, 1, segment)
  const dirX = at(curve, vertices, 6, segment), dirY = at(curve, vertices, 7, segment), length = at(curve, vertices, 8, segment)
  const isFirst = segment == 0 && !isRound, isLast = segment == vertices - 2 && !isRound
  const reach = max(at(curve, vertices, 5, segment), at(curve, vertices, 5, segment + 1)) / 2 + margin
  const most = reach * reach
  const originX = startX - <f64>rectCol - 0.5
  const startRow = startY - <f64>rectRow, endRow = startRow + dirY * length
  const firstRow = clampTo(floor(min(startRow, endRow) - reach), height), pastRow = clampTo(ceil(max(startRow, endRow) + reach), height)
  for (let row = firstRow; row < pastRow; row++) {
    const offY = <f64>(rectRow + row) + 0.5 - startY
    // Columns whose distance from the segment's line, and from its ends along it, may be within reach.
    let first = 0, past = width
    if (dirY != 0) {
      const middle = originX + (offY * dirX) / dirY, half = reach / abs(dirY) + 1
      first = max(first, clampTo(middle - half, width))
      past = min(past, clampTo(middle + half + 1, width))
    }
    if (dirX != 0) {
      const a = (-reach - offY * dirY) / dirX, b = (length + reach - offY * dirY) / dirX
      first = max(first, clampTo(originX + min(a, b) - 1, width))
      past = min(past, clampTo(originX + max(a, b) + 2, width))
    }
    if (first >= past) continue
    store<i32>(begins + (<usize>row << 2), min(load<i32>(begins + (<usize>row << 2)), first))
    store<i32>(ends + (<usize>row << 2), max(load<i32>(ends + (<usize>row << 2)), past))
    let cell = nearest + (<usize>(row * width + first) << 2), mark = segmentOf + (<usize>(row * width + first) << 2)
    let offX = <f64>(rectCol + first) + 0.5 - startX
    for (let col = first; col < past; col++, cell += 4, mark += 4, offX += 1) {
      const along = offX * dirX + offY * dirY
      if (isFirst && along < -BEYOND_END_PX) continue
      if (isLast && along > length + BEYOND_END_PX) continue
      const across = offY * dirX - offX * dirY
      const overrun: f64 = along < 0 ? along : along > length ? along - length : 0
      const squared = across * across + overrun * overrun
      if (squared > most || squared >= <f64>load<f32>(cell)) continue
      store<f32>(cell, <f32>squared)
      store<i32>(mark, segment)
    }
  }
}

// @ts-ignore: decorator
@inline
function clampTo(value: f64, most: i32): i32 {
  return <i32>min<f64>(max<f64>(value, 0), <f64>most)
}

/**
 * Coverage at distances from a drawn edge: 1 up to `inner`, falling to 0 at `outer`, straight or smoothly; `beyonds`, where
 * it is not 0, are distances past a cut that is one pixel wide.
 */
export function coverageOfEdges(
  edges: usize, beyonds: usize, count: i32, inner: f32, outer: f32, isLinear: bool, coverage: usize,
): void {
  const one = f32x4.splat(1), none = f32x4.splat(0)
  const from = f32x4.splat(inner), share = f32x4.splat(1 / (outer - inner))
  for (let i = 0; i < count; i += 4) {
    const at = <usize>i << 2
    const across = f32x4.min(f32x4.max(f32x4.mul(f32x4.sub(v128.load(edges + at), from), share), none), one)
    const smooth = f32x4.mul(f32x4.mul(across, across), f32x4.sub(f32x4.splat(3), f32x4.add(across, across)))
    let value = f32x4.sub(one, isLinear ? across : smooth)
    if (beyonds != 0) {
      const left = f32x4.sub(f32x4.splat(0.5), v128.load(beyonds + at))
      value = f32x4.mul(value, f32x4.min(f32x4.max(left, none), one))
    }
    v128.store(coverage + at, value)
  }
}
