/** Shapes as masks: which pixels of a rectangle they cover, and which lie around them. The loops are in `kernels/assembly/mask.ts`. */
import { createPathCurve, type PathCurve, type PathPoint } from '../geometry/pathCurve'
import type { Rect } from '../image/rect'
import { kernels } from '../kernels/module'
import { withKernelMemory, type KernelScope } from '../kernels/memory'
import { measurePictureField } from '../matte/pictureMatte'
import type { ReadShape } from './readShape'

/** A path is cut straight at its ends; a pixel whose centre lies on the cut is half covered. */
const BEYOND_END_PX = 0.5

const curves = new WeakMap<readonly PathPoint[], PathCurve>()

/** The centreline of a path; the same points give the same curve. */
export function curveOf(points: readonly PathPoint[]): PathCurve {
  let curve = curves.get(points)
  if (!curve) curves.set(points, (curve = createPathCurve(points)))
  return curve
}

/** Kernel memory that marking any shape in a rectangle takes, beside the mask. */
const workBytes = ({ width, height }: Rect, shapes: readonly ReadShape[]): number =>
  (width + 1) * height +
  shapes.reduce((sum, one) => sum + (one.shape === 'closed' ? 8 * one.polygon.length : 0) + 64, 0)

/**
 * Marks the pixels that a shape covers when it is grown by so many px.
 * @param mask  In kernel memory, a byte for each pixel of the rectangle. @param isCut  Whether a path ends where it ends; a stroke is round there.
 */
function markShape(
  scope: KernelScope,
  mask: number,
  rect: Rect,
  shape: ReadShape,
  growPx: number,
  value: number,
  isCut: boolean,
): void {
  if (shape.shape === 'path')
    return markPath(mask, rect, curveOf(shape.points), growPx, value, isCut && !shape.isRound)
  if (shape.shape === 'closed') return markClosed(scope, mask, rect, shape.polygon, growPx, value)
  const field = measurePictureField(shape.matte, rect, Math.max(1, growPx))
  const bytes = new Uint8Array(kernels().memory.buffer, mask, rect.width * rect.height)
  for (let i = 0; i < field.count; i++)
    if (field.edges[i]! <= growPx || (growPx >= 0 && field.given[i]! > 0)) bytes[field.pixels[i]!] = value
}

function markPath(
  mask: number,
  { col, row, width, height }: Rect,
  { xs, ys, widths }: PathCurve,
  growPx: number,
  value: number,
  isCut: boolean,
): void {
  const { markLine } = kernels()
  const last = xs.length - 2
  const atEnd = isCut ? BEYOND_END_PX : Infinity
  for (let i = 0; i <= last; i++) {
    const [ra, rb] = [widths[i]! / 2 + growPx, widths[i + 1]! / 2 + growPx]
    const reach = Math.max(ra, rb)
    const beyondStart = i === 0 ? atEnd : wedgePx(xs, ys, i, reach)
    const beyondEnd = i === last ? atEnd : wedgePx(xs, ys, i + 1, reach)
    // prettier-ignore
    markLine(
      mask, width, height, xs[i]! - col, ys[i]! - row, xs[i + 1]! - col, ys[i + 1]! - row, ra, rb,
      beyondStart, beyondEnd, value,
    )
  }
}

/** How far past a joint a piece has to be marked so that no wedge is left on the outside of the bend. */
function wedgePx(xs: Float64Array, ys: Float64Array, joint: number, reach: number): number {
  const [ax, ay] = [xs[joint]! - xs[joint - 1]!, ys[joint]! - ys[joint - 1]!]
  const [bx, by] = [xs[joint + 1]! - xs[joint]!, ys[joint + 1]! - ys[joint]!]
  const [along, aside] = [ax * bx + ay * by, Math.abs(ax * by - ay * bx)]
  if (along <= 0) return Infinity
  // The tangent of half the angle between them.
  return (reach * aside) / (Math.sqrt(along * along + aside * aside) + along) + 1
}

function markClosed(
  scope: KernelScope,
  mask: number,
  { col, row, width, height }: Rect,
  polygon: readonly number[],
  growPx: number,
  value: number,
): void {
  const { markLine, markPolygon } = kernels()
  const corners = Float64Array.from(polygon, (at, i) => at - (i % 2 === 0 ? col : row))
  const toggles = scope.reserve((width + 1) * height)
  markPolygon(mask, width, height, scope.pointerTo(corners), corners.length / 2, toggles, value)
  if (growPx === 0) return
  // Grown, the border is marked as well; narrowed, it is taken off again.
  const [radius, border] = growPx > 0 ? [growPx, value] : [-growPx, 0]
  for (let i = 0, j = corners.length - 2; i < corners.length; j = i, i += 2) {
    const [ax, ay, bx, by] = [corners[j]!, corners[j + 1]!, corners[i]!, corners[i + 1]!]
    markLine(mask, width, height, ax, ay, bx, by, radius, radius, Infinity, Infinity, border)
  }
}

export interface MarkedShape {
  readonly shape: ReadShape
  readonly growPx: number
  readonly value: number
}

/** The shapes in a rectangle, those with the greater value over those with the lesser. */
export function maskOfShapes(shapes: readonly MarkedShape[], rect: Rect): Uint8Array {
  const size = rect.width * rect.height
  const read = shapes.map(({ shape }) => shape)
  return withKernelMemory(size + shapes.length * workBytes(rect, read) + 4096, (scope) => {
    const mask = scope.reserve(size)
    const bytes = new Uint8Array(kernels().memory.buffer, mask, size).fill(0)
    for (const { shape, growPx, value } of [...shapes].sort((a, b) => a.value - b.value))
      withKernelMemory(0, (inner) => markShape(inner, mask, rect, shape, growPx, value, true))
    return bytes.slice()
  })
}

const AROUND = 1
const COVERED = 2

/**
 * Pixels around shapes, from one distance to another; of many every n-th.
 * @param taboo  Not 0 where a pixel is left out; null: nowhere.
 */
export function pixelsAround(
  shapes: readonly ReadShape[],
  rect: Rect,
  fromPx: number,
  toPx: number,
  taboo: Uint8Array | null,
  max: number,
): Int32Array {
  const size = rect.width * rect.height
  return withKernelMemory(6 * size + 2 * shapes.length * workBytes(rect, shapes) + 4096, (scope) => {
    const mask = scope.reserve(size)
    const bytes = new Uint8Array(kernels().memory.buffer, mask, size).fill(0)
    for (const shape of shapes) {
      withKernelMemory(0, (inner) => markShape(inner, mask, rect, shape, toPx, AROUND, false))
    }
    for (const shape of shapes) {
      withKernelMemory(0, (inner) => markShape(inner, mask, rect, shape, fromPx, COVERED, false))
    }
    if (taboo) for (let i = 0; i < size; i++) if (taboo[i] !== 0) bytes[i] = COVERED
    const every = Math.max(1, Math.ceil(kernels().countMarked(mask, size) / max))
    const list = scope.reserve(4 * size)
    const count = kernels().listMarked(mask, rect.width, rect.height, 0, every, list)
    return new Int32Array(kernels().memory.buffer, list, count).slice()
  })
}
