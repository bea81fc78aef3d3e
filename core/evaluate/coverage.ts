/** Shapes on a frame as coverage, and as what fills must keep away from. */
import { dabAt, pathPointAt, type PathCurve } from '../geometry/pathCurve'
import type { MENDED, NEVER } from '../fill/method'
import { growRect, intersectRects, uniteRects, type Rect } from '../image/rect'
import { coverageFromEdges, outerPxOf, type Edge, type EdgeField } from '../matte/edge'
import { measurePathField, type PathField } from '../matte/pathField'
import { renderPathCoverage } from '../matte/pathMatte'
import { measurePictureField } from '../matte/pictureMatte'
import { measurePolygonField } from '../matte/polygonMatte'
import { boxAround, boxOfPolygon } from '../plan/boxes'
import type { ReadShape } from './readShape'
import { curveOf, maskOfShapes } from './shapeMask'

export interface CoveredShape {
  readonly field: EdgeField
  readonly coverage: Float32Array
  readonly path: { readonly curve: PathCurve; readonly field: PathField } | null
  /** Of several shapes, which of them each entry is nearest to; null of one. */
  readonly owners: Uint16Array | null
}

/** The pixels of a shape and how far each is covered. */
function coverShape(shape: ReadShape, rect: Rect, marginPx: number, edge: Edge): CoveredShape {
  if (shape.shape === 'path') {
    const curve = curveOf(shape.points)
    if (shape.spacing !== undefined) {
      const { field, coverage } = coverShapes(dabsOf(curve, shape.spacing), rect, marginPx, edge)
      return { field, coverage, path: null, owners: null }
    }
    if (shape.isRound) {
      const field = measurePathField(curve, rect, marginPx, 'round')
      return { field, coverage: coverageFromEdges(field, edge), path: null, owners: null }
    }
    const field = measurePathField(curve, rect, marginPx)
    return { field, coverage: renderPathCoverage(field, edge), path: { curve, field }, owners: null }
  }
  if (shape.shape === 'closed') {
    const field = measurePolygonField(shape.polygon, rect, marginPx)
    return { field, coverage: coverageFromEdges(field, edge), path: null, owners: null }
  }
  const field = measurePictureField(shape.matte, rect, marginPx)
  const coverage = coverageFromEdges(field, edge)
  // Its own soft edge stays, unless it is narrowed.
  for (let i = 0; i < field.count; i++) {
    const [made, given] = [coverage[i]!, field.given[i]!]
    coverage[i] = edge.growPx < 0 ? Math.min(made, given) : Math.max(made, given)
  }
  return { field, coverage, path: null, owners: null }
}

/** Dabs along a curve, each so many of its own widths from the one before. */
function dabsOf(curve: PathCurve, spacing: number): ReadShape[] {
  const dabs: ReadShape[] = []
  for (let arc = 0; arc <= curve.lengthPx;) {
    const dab = pathPointAt(curve, arc)
    dabs.push({ shape: 'path', points: dabAt(dab), isRound: true })
    arc += Math.max(MIN_STEP_PX, spacing * dab.widthPx)
  }
  return dabs
}

/** Dabs of a tip as small as a pixel still lie so far apart, px. */
const MIN_STEP_PX = 0.25

export const HARD: Edge = { featherOutPx: 0, featherInPx: 0, growPx: 0 }

/** The box of a shape as drawn; a path's widths are left to the caller. */
export function boundsOf(shape: ReadShape): Rect {
  if (shape.shape === 'matte') return shape.matte.rect
  if (shape.shape === 'closed') return boxOfPolygon(shape.polygon)
  const { xs, ys } = curveOf(shape.points)
  return boxAround(xs, ys)
}

/** The box of everything that a shape covers with an edge. */
export function coveredBounds(shape: ReadShape, edge: Edge): Rect {
  const halfPx =
    shape.shape === 'path' ? curveOf(shape.points).widths.reduce((a, b) => Math.max(a, b), 0) / 2 : 0
  return growRect(boundsOf(shape), Math.ceil(Math.max(0, outerPxOf(edge)) + halfPx) + 1)
}

/** Several shapes as one: every pixel lies as the nearest of them says. Paths lose what lies along them. */
export function coverShapes(
  shapes: readonly ReadShape[],
  rect: Rect,
  marginPx: number,
  edge: Edge,
): CoveredShape {
  if (shapes.length === 1) return coverShape(shapes[0]!, rect, marginPx, edge)
  const size = rect.width * rect.height
  const edges = new Float32Array(size).fill(Infinity)
  const [coverage, owners] = [new Float32Array(size), new Uint16Array(size)]
  shapes.forEach((shape, owner) => {
    // Each is measured in its own surroundings: a series lies scattered over the rectangle.
    const near = intersectRects(growRect(coveredBounds(shape, edge), Math.ceil(marginPx) + 1), rect)
    if (!near) return
    const one = coverShape(shape, near, marginPx, edge)
    const [left, top] = [near.col - rect.col, near.row - rect.row]
    for (let i = 0; i < one.field.count; i++) {
      const row = (one.field.pixels[i]! / near.width) | 0
      const pixel = (top + row) * rect.width + left + one.field.pixels[i]! - row * near.width
      coverage[pixel] = Math.max(coverage[pixel]!, one.coverage[i]!)
      if (one.field.edges[i]! >= edges[pixel]!) continue
      edges[pixel] = one.field.edges[i]!
      owners[pixel] = owner
    }
  })
  return listed(edges, coverage, owners)
}

/** The entries of a field, from planes of its rectangle. */
function listed(edges: Float32Array, coverage: Float32Array, owners: Uint16Array): CoveredShape {
  let count = 0
  for (let pixel = 0; pixel < edges.length; pixel++) if (edges[pixel] !== Infinity) count++
  const out = {
    pixels: new Int32Array(count),
    edges: new Float32Array(count),
    coverage: new Float32Array(count),
    owners: new Uint16Array(count),
  }
  for (let pixel = 0, i = 0; pixel < edges.length; pixel++) {
    if (edges[pixel] === Infinity) continue
    out.pixels[i] = pixel
    out.edges[i] = edges[pixel]!
    out.coverage[i] = coverage[pixel]!
    out.owners[i++] = owners[pixel]!
  }
  const field = { count, pixels: out.pixels, edges: out.edges }
  return { field, coverage: out.coverage, owners: out.owners, path: null }
}

const SAME_SHARE = 0.6

/** Whether two shapes cover the same thing: mends that hand over to each other do not keep away from each other. */
export function isSameThing(a: ReadShape, b: ReadShape): boolean {
  const [boxA, boxB] = [boundsOf(a), boundsOf(b)]
  const shared = intersectRects(boxA, boxB)
  if (!shared) return false
  const all = uniteRects(boxA, boxB)
  return shared.width * shared.height > SAME_SHARE * all.width * all.height
}

/** What passes in front stays: its pixels are taken out of the coverage, as drawn. */
export function subtractHoldout(
  coverage: Float32Array,
  field: EdgeField,
  holdout: ReadShape,
  rect: Rect,
): void {
  const cover = coverShapes([holdout], rect, 1, HARD)
  const shares = new Float32Array(rect.width * rect.height)
  for (let i = 0; i < cover.field.count; i++) shares[cover.field.pixels[i]!] = cover.coverage[i]!
  for (let i = 0; i < field.count; i++) {
    const share = shares[field.pixels[i]!]!
    if (share > 0) coverage[i] = coverage[i]! * (1 - share)
  }
}

/** How far outside the nearest holdout each entry of a field lies, px, up to so many; below 0 inside. Null where none is looked for or near. */
export function holdoutDistancesOf(
  holdouts: readonly ReadShape[],
  { count, pixels }: EdgeField,
  rect: Rect,
  reachPx: number,
): Float32Array | null {
  if (holdouts.length === 0 || reachPx === 0) return null
  const { field } = coverShapes(holdouts, rect, reachPx + 1, HARD)
  if (field.count === 0) return null
  const edges = new Float32Array(rect.width * rect.height).fill(Infinity)
  for (let i = 0; i < field.count; i++) edges[field.pixels[i]!] = field.edges[i]!
  return Float32Array.from({ length: count }, (_, i) => edges[pixels[i]!]!)
}

/** A shape that a fill must keep away from. */
export interface TabooShape {
  readonly shape: ReadShape
  readonly edge: Edge
  readonly level: typeof MENDED | typeof NEVER
}

/** Which pixels of a rectangle belong to other mends and holdouts; null where none does. */
export function tabooOf(shapes: readonly TabooShape[], rect: Rect): Uint8Array | null {
  const near = shapes.filter(({ shape, edge }) => intersectRects(coveredBounds(shape, edge), rect))
  if (near.length === 0) return null
  const marked = near.map(({ shape, edge, level }) => ({ shape, growPx: outerPxOf(edge), value: level }))
  return maskOfShapes(marked, rect)
}
