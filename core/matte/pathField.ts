/**
 * Where the pixels near a path lie, seen from the path: the base of its coverage and of its fills.
 *
 * Only pixels near the centreline are listed, so cost follows the length of the path times its width,
 * not the size of the picture.
 */
import type { PathCurve } from '../geometry/pathCurve'
import type { Rect } from '../image/rect'
import type { EdgeField } from './edge'
import { withKernelMemory } from '../kernels/memory'

/** One entry per listed pixel, in reading order. */
export interface PathField extends EdgeField {
  /** Distance of the pixel centre from the centreline in px; above 0 to the right of its direction. */
  readonly distances: Float32Array
  /** Unit tangent of the path at the nearest place. */
  readonly tangentXs: Float32Array
  readonly tangentYs: Float32Array
  readonly halfWidths: Float32Array
  /** Length along the path at the nearest place, in px; goes on past the ends. */
  readonly arcs: Float32Array
  /** Distance beyond the nearer end along the path, in px; below 0 before it. */
  readonly beyonds: Float32Array
}

const MAX_PIECE_PX = 24 // a long chord is walked in pieces, so that their boxes stay slim
const BEYOND_END_PX = 1 // the ends are cut straight: nothing further out is covered

/**
 * Lists the pixels of `rect` within `marginPx` of the area's edge.
 *
 * Cost: about length × (width + 2 margin + piece) distance computations.
 */
export function measurePathField(curve: PathCurve, rect: Rect, marginPx: number): PathField {
  const size = rect.width * rect.height
  return withKernelMemory(size * 8 + 64, (scope) => {
    const nearest = scope.take(size).fill(Infinity)
    const segmentOf = scope.take(size) // whole numbers, far below where floats lose them
    const rows: RowRanges = {
      begins: new Int32Array(rect.height).fill(rect.width),
      ends: new Int32Array(rect.height),
    }
    const segments = curve.arcs.length - 1
    for (let segment = 0; segment < segments; segment++) {
      markNearest(curve, segment, rect, marginPx, nearest, segmentOf, rows)
    }
    return collect(curve, rect, marginPx, nearest, segmentOf, rows)
  })
}

/** Columns of each row that can hold a listed pixel, [begin, end): a slanted path leaves most of its box empty. */
interface RowRanges {
  readonly begins: Int32Array
  readonly ends: Int32Array
}

function markNearest(
  curve: PathCurve,
  segment: number,
  rect: Rect,
  marginPx: number,
  nearest: Float32Array,
  segmentOf: Float32Array,
  rows: RowRanges,
): void {
  const { startX, startY, dirX, dirY, length, isFirst, isLast } = segmentFrame(curve, segment)
  const reach = Math.max(curve.widths[segment]!, curve.widths[segment + 1]!) / 2 + marginPx
  const reachSquared = reach * reach
  const pieces = Math.max(1, Math.ceil(length / MAX_PIECE_PX))
  for (let piece = 0; piece < pieces; piece++) {
    const begin = (length * piece) / pieces
    const end = (length * (piece + 1)) / pieces
    const box = boxOf(
      startX + dirX * begin,
      startY + dirY * begin,
      startX + dirX * end,
      startY + dirY * end,
      reach,
      rect,
    )
    for (let row = box.beginRow; row < box.endRow; row++) {
      rows.begins[row] = Math.min(rows.begins[row]!, box.beginCol)
      rows.ends[row] = Math.max(rows.ends[row]!, box.endCol)
      const offY = rect.row + row + 0.5 - startY
      for (let col = box.beginCol; col < box.endCol; col++) {
        const offX = rect.col + col + 0.5 - startX
        const along = offX * dirX + offY * dirY
        if (isFirst && along < -BEYOND_END_PX) continue
        if (isLast && along > length + BEYOND_END_PX) continue
        const across = offY * dirX - offX * dirY
        const overrun = along < 0 ? along : along > length ? along - length : 0
        const squared = across * across + overrun * overrun
        const pixel = row * rect.width + col
        if (squared > reachSquared || squared >= nearest[pixel]!) continue
        nearest[pixel] = squared
        segmentOf[pixel] = segment
      }
    }
  }
}

function collect(
  curve: PathCurve,
  rect: Rect,
  marginPx: number,
  nearest: Float32Array,
  segmentOf: Float32Array,
  rows: RowRanges,
): PathField {
  let max = 0
  for (let row = 0; row < rect.height; row++) {
    for (let col = rows.begins[row]!; col < rows.ends[row]!; col++)
      if (nearest[row * rect.width + col] !== Infinity) max++
  }
  const pixels = new Int32Array(max)
  const [distances, edges, tangentXs, tangentYs, halfWidths, arcs, beyonds] = Array.from(
    { length: 7 },
    () => new Float32Array(max),
  ) as [Float32Array, Float32Array, Float32Array, Float32Array, Float32Array, Float32Array, Float32Array]
  let count = 0
  let frame = segmentFrame(curve, 0)
  for (let row = 0; row < rect.height; row++) {
    for (let col = rows.begins[row]!; col < rows.ends[row]!; col++) {
      const pixel = row * rect.width + col
      if (nearest[pixel] === Infinity) continue
      const segment = segmentOf[pixel]!
      if (segment !== frame.segment) frame = segmentFrame(curve, segment)
      const offX = rect.col + col + 0.5 - frame.startX
      const offY = rect.row + row + 0.5 - frame.startY
      const along = offX * frame.dirX + offY * frame.dirY
      const across = offY * frame.dirX - offX * frame.dirY
      const f = frame.length > 0 ? Math.min(Math.max(along / frame.length, 0), 1) : 0
      // Past a joint the nearest place is the joint itself; past an end it is the straight cut.
      const overrun =
        along < 0 && !frame.isFirst ? along : along > frame.length && !frame.isLast ? along - frame.length : 0
      const off = Math.sqrt(across * across + overrun * overrun)
      const halfWidth =
        (curve.widths[segment]! + f * (curve.widths[segment + 1]! - curve.widths[segment]!)) / 2
      if (off > halfWidth + marginPx) continue
      const tangentX =
        curve.tangentXs[segment]! + f * (curve.tangentXs[segment + 1]! - curve.tangentXs[segment]!)
      const tangentY =
        curve.tangentYs[segment]! + f * (curve.tangentYs[segment + 1]! - curve.tangentYs[segment]!)
      const norm = Math.sqrt(tangentX * tangentX + tangentY * tangentY)
      const arc = curve.arcs[segment]! + along - overrun
      pixels[count] = pixel
      distances[count] = across < 0 ? -off : off
      edges[count] = off - halfWidth
      tangentXs[count] = tangentX / norm
      tangentYs[count] = tangentY / norm
      halfWidths[count] = halfWidth
      arcs[count] = arc
      beyonds[count] = Math.max(-arc, arc - curve.lengthPx)
      count++
    }
  }
  return {
    count,
    pixels: pixels.subarray(0, count),
    distances: distances.subarray(0, count),
    edges: edges.subarray(0, count),
    tangentXs: tangentXs.subarray(0, count),
    tangentYs: tangentYs.subarray(0, count),
    halfWidths: halfWidths.subarray(0, count),
    arcs: arcs.subarray(0, count),
    beyonds: beyonds.subarray(0, count),
  }
}

/** One chord of the polyline with its own axes. */
function segmentFrame(curve: PathCurve, segment: number) {
  const length = curve.arcs[segment + 1]! - curve.arcs[segment]!
  return {
    segment,
    startX: curve.xs[segment]!,
    startY: curve.ys[segment]!,
    dirX: length > 0 ? (curve.xs[segment + 1]! - curve.xs[segment]!) / length : curve.tangentXs[segment]!,
    dirY: length > 0 ? (curve.ys[segment + 1]! - curve.ys[segment]!) / length : curve.tangentYs[segment]!,
    length,
    isFirst: segment === 0,
    isLast: segment === curve.arcs.length - 2,
  }
}

function boxOf(x0: number, y0: number, x1: number, y1: number, reach: number, rect: Rect) {
  return {
    beginCol: Math.max(0, Math.floor(Math.min(x0, x1) - reach) - rect.col),
    endCol: Math.min(rect.width, Math.ceil(Math.max(x0, x1) + reach) - rect.col),
    beginRow: Math.max(0, Math.floor(Math.min(y0, y1) - reach) - rect.row),
    endRow: Math.min(rect.height, Math.ceil(Math.max(y0, y1) + reach) - rect.row),
  }
}
