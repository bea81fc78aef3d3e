// Where the pixels near a path lie, seen from its centreline. `curve` holds, one after the other as f64 for each of
// `vertices` vertices: x, y, length along the path, unit tangent x, y, full width.

const MAX_PIECE_PX: f64 = 24
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
 * distance from the edge, tangent x, tangent y, half width, length along, distance beyond the nearer end.
 * Returns how many there are; with `capacity` 0 only counts those that may be.
 */
export function pathField(
  curve: usize, vertices: i32, rectCol: i32, rectRow: i32, width: i32, height: i32, margin: f64,
  nearest: usize, segmentOf: usize, begins: usize, ends: usize, pixels: usize, out: usize, capacity: i32,
): i32 {
  if (capacity == 0) {
    for (let i = 0; i < width * height; i++) store<f32>(nearest + (<usize>i << 2), Infinity)
    for (let row = 0; row < height; row++) {
      store<i32>(begins + (<usize>row << 2), width)
      store<i32>(ends + (<usize>row << 2), 0)
    }
    for (let segment = 0; segment + 1 < vertices; segment++) markNearest(curve, vertices, segment, rectCol, rectRow, width, height, margin, nearest, segmentOf, begins, ends)
    let most = 0
    for (let row = 0; row < height; row++) {
      for (let col = load<i32>(begins + (<usize>row << 2)); col < load<i32>(ends + (<usize>row << 2)); col++) {
        if (load<f32>(nearest + (<usize>(row * width + col) << 2)) != Infinity) most++
      }
    }
    return most
  }
  const plane = <usize>capacity << 2
  const total = at(curve, vertices, 2, vertices - 1)
  let count = 0
  for (let row = 0; row < height; row++) {
    for (let col = load<i32>(begins + (<usize>row << 2)); col < load<i32>(ends + (<usize>row << 2)); col++) {
      const pixel = row * width + col
      if (load<f32>(nearest + (<usize>pixel << 2)) == Infinity) continue
      const s = load<i32>(segmentOf + (<usize>pixel << 2))
      const startX = at(curve, vertices, 0, s), startY = at(curve, vertices, 1, s), startArc = at(curve, vertices, 2, s)
      const length = at(curve, vertices, 2, s + 1) - startArc
      const dirX = length > 0 ? (at(curve, vertices, 0, s + 1) - startX) / length : at(curve, vertices, 3, s)
      const dirY = length > 0 ? (at(curve, vertices, 1, s + 1) - startY) / length : at(curve, vertices, 4, s)
      const offX = <f64>(rectCol + col) + 0.5 - startX, offY = <f64>(rectRow + row) + 0.5 - startY
      const along = offX * dirX + offY * dirY, across = offY * dirX - offX * dirY
      const f: f64 = length > 0 ? min(max(along / length, 0.0), 1.0) : 0
      // Past a joint the nearest place is the joint itself; past an end it is the straight cut.
      const overrun: f64 = along < 0 && s != 0 ? along : along > length && s != vertices - 2 ? along - length : 0
      const off = sqrt(across * across + overrun * overrun)
      const w0 = at(curve, vertices, 5, s)
      const halfWidth = (w0 + f * (at(curve, vertices, 5, s + 1) - w0)) / 2
      if (off > halfWidth + margin) continue
      const tx0 = at(curve, vertices, 3, s), ty0 = at(curve, vertices, 4, s)
      const tx = tx0 + f * (at(curve, vertices, 3, s + 1) - tx0), ty = ty0 + f * (at(curve, vertices, 4, s + 1) - ty0)
      const norm = sqrt(tx * tx + ty * ty)
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
  nearest: usize, segmentOf: usize, begins: usize, ends: usize,
): void {
  const startX = at(curve, vertices, 0, segment), startY = at(curve, vertices, 1, segment)
  const length = at(curve, vertices, 2, segment + 1) - at(curve, vertices, 2, segment)
  const dirX = length > 0 ? (at(curve, vertices, 0, segment + 1) - startX) / length : at(curve, vertices, 3, segment)
  const dirY = length > 0 ? (at(curve, vertices, 1, segment + 1) - startY) / length : at(curve, vertices, 4, segment)
  const isFirst = segment == 0, isLast = segment == vertices - 2
  const reach = max(at(curve, vertices, 5, segment), at(curve, vertices, 5, segment + 1)) / 2 + margin
  const most = reach * reach
  const pieces = max(1, <i32>ceil(length / MAX_PIECE_PX))
  for (let piece = 0; piece < pieces; piece++) {
    const begin = length * <f64>piece / <f64>pieces, end = length * <f64>(piece + 1) / <f64>pieces
    const x0 = startX + dirX * begin, y0 = startY + dirY * begin, x1 = startX + dirX * end, y1 = startY + dirY * end
    const beginCol = clampTo(floor(min(x0, x1) - reach) - <f64>rectCol, width), endCol = clampTo(ceil(max(x0, x1) + reach) - <f64>rectCol, width)
    const beginRow = clampTo(floor(min(y0, y1) - reach) - <f64>rectRow, height), endRow = clampTo(ceil(max(y0, y1) + reach) - <f64>rectRow, height)
    for (let row = beginRow; row < endRow; row++) {
      store<i32>(begins + (<usize>row << 2), min(load<i32>(begins + (<usize>row << 2)), beginCol))
      store<i32>(ends + (<usize>row << 2), max(load<i32>(ends + (<usize>row << 2)), endCol))
      const offY = <f64>(rectRow + row) + 0.5 - startY
      for (let col = beginCol; col < endCol; col++) {
        const offX = <f64>(rectCol + col) + 0.5 - startX
        const along = offX * dirX + offY * dirY
        if (isFirst && along < -BEYOND_END_PX) continue
        if (isLast && along > length + BEYOND_END_PX) continue
        const across = offY * dirX - offX * dirY
        const overrun: f64 = along < 0 ? along : along > length ? along - length : 0
        const squared = across * across + overrun * overrun
        const cell = nearest + (<usize>(row * width + col) << 2)
        if (squared > most || squared >= <f64>load<f32>(cell)) continue
        store<f32>(cell, <f32>squared)
        store<i32>(segmentOf + (<usize>(row * width + col) << 2), segment)
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function clampTo(value: f64, most: i32): i32 {
  return <i32>min<f64>(max<f64>(value, 0), <f64>most)
}
