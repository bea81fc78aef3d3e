/**
 * Where the pixels near a path lie, seen from the path: the base of its coverage and of its fills.
 *
 * Only pixels near the centreline are listed, so cost follows the length of the path times its width,
 * not the size of the picture.
 */
import type { PathCurve } from '../geometry/pathCurve'
import type { Rect } from '../image/rect'
import type { EdgeField } from './edge'
import { kernels } from '../kernels/module'
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

/** Planes that the kernel fills, in this order. */
const PLANES = 7

/**
 * Lists the pixels of `rect` within `marginPx` of the area's edge, whose ends are cut off straight or round. The loops are in `kernels/assembly/path.ts`.
 *
 * Cost: about length × (width + 2 margin + piece) distance computations.
 */
export function measurePathField(
  curve: PathCurve,
  rect: Rect,
  marginPx: number,
  ends: 'cut' | 'round' = 'cut',
): PathField {
  const size = rect.width * rect.height
  const vertices = curve.arcs.length
  return withKernelMemory(
    size * (8 + 4 + 4 * PLANES) + rect.height * 8 + vertices * 8 * ROWS + 4096,
    (scope) => {
      const { pathField, memory } = kernels()
      const points = scope.reserve(8 * ROWS * vertices)
      putCurve(curve, new Float64Array(memory.buffer, points, ROWS * vertices))
      const [nearest, segmentOf] = [scope.reserve(4 * size), scope.reserve(4 * size)]
      const [begins, pasts] = [scope.reserve(4 * rect.height), scope.reserve(4 * rect.height)]
      const list = (pixels: number, out: number, capacity: number) =>
        // prettier-ignore
        pathField(
        points, vertices, rect.col, rect.row, rect.width, rect.height, marginPx,
        ends === 'round', nearest, segmentOf, begins, pasts, pixels, out, capacity,
      )
      const capacity = list(0, 0, 0)
      if (capacity === 0) return fieldOf(0, new Int32Array(0), () => new Float32Array(0))
      const [pixels, out] = [scope.reserve(4 * capacity), scope.reserve(4 * PLANES * capacity)]
      const count = list(pixels, out, capacity)
      return fieldOf(count, new Int32Array(memory.buffer, pixels, count).slice(), (plane) =>
        new Float32Array(memory.buffer, out + 4 * capacity * plane, count).slice(),
      )
    },
  )
}

/** Numbers that the kernel wants of each vertex. */
const ROWS = 9

function putCurve({ xs, ys, arcs, tangentXs, tangentYs, widths }: PathCurve, cells: Float64Array): void {
  const count = xs.length
  ;[xs, ys, arcs, tangentXs, tangentYs, widths].forEach((row, i) => cells.set(row, i * count))
  for (let i = 0; i + 1 < count; i++) {
    const length = arcs[i + 1]! - arcs[i]!
    cells[6 * count + i] = length > 0 ? (xs[i + 1]! - xs[i]!) / length : tangentXs[i]!
    cells[7 * count + i] = length > 0 ? (ys[i + 1]! - ys[i]!) / length : tangentYs[i]!
    cells[8 * count + i] = length
  }
}

const fieldOf = (count: number, pixels: Int32Array, plane: (index: number) => Float32Array): PathField => ({
  count,
  pixels,
  distances: plane(0),
  edges: plane(1),
  tangentXs: plane(2),
  tangentYs: plane(3),
  halfWidths: plane(4),
  arcs: plane(5),
  beyonds: plane(6),
})
