/** Shapes on a frame as coverage, and as what fills must keep away from. */
import { createPathCurve, type PathCurve } from '../geometry/pathCurve'
import { MENDED, NEVER } from '../fill/method'
import { growRect, intersectRects, uniteRects, type Rect } from '../image/rect'
import { coverageFromEdges, outerPxOf, type Edge, type EdgeField } from '../matte/edge'
import { measurePathField, type PathField } from '../matte/pathField'
import { renderPathCoverage } from '../matte/pathMatte'
import { measurePictureField, type ReadMatte } from '../matte/pictureMatte'
import { measurePolygonField } from '../matte/polygonMatte'
import type { Cache } from '../shot/clip'
import type { PlacedShape } from '../plan/placedArea'
import { boxAround, boxOfPolygon } from '../plan/shapeBounds'

/** A shape with what was read for it. */
export type ReadShape =
  Exclude<PlacedShape, { shape: 'matte' }> | { readonly shape: 'matte'; readonly matte: ReadMatte }

export interface CoveredShape {
  readonly field: EdgeField
  readonly coverage: Float32Array
  readonly path: { readonly curve: PathCurve; readonly field: PathField } | null
}

/** The pixels of a shape and how far each is covered. @param curve  Of a path, where it is known already. */
export function coverShape(
  shape: ReadShape,
  curve: PathCurve | null,
  rect: Rect,
  marginPx: number,
  edge: Edge,
): CoveredShape {
  if (shape.shape === 'path') {
    const line = curve ?? createPathCurve(shape.points)
    const field = measurePathField(line, rect, marginPx)
    return { field, coverage: renderPathCoverage(field, edge), path: { curve: line, field } }
  }
  if (shape.shape === 'closed') {
    const field = measurePolygonField(shape.polygon, rect, marginPx)
    return { field, coverage: coverageFromEdges(field, edge), path: null }
  }
  const field = measurePictureField(shape.matte, rect, marginPx)
  const coverage = coverageFromEdges(field, edge)
  // Its own soft edge stays, unless it is narrowed.
  for (let i = 0; i < field.count; i++)
    coverage[i] =
      edge.growPx < 0 ? Math.min(coverage[i]!, field.given[i]!) : Math.max(coverage[i]!, field.given[i]!)
  return { field, coverage, path: null }
}

export const HARD: Edge = { featherOutPx: 0, featherInPx: 0, growPx: 0 }

/** The box of a shape as drawn; a path's widths are left to the caller. */
export function boundsOf(cover: ReadShape, curve: PathCurve | null): Rect {
  if (cover.shape === 'matte') return cover.matte.rect
  if (cover.shape === 'closed') return boxOfPolygon(cover.polygon)
  const { xs, ys } = curve ?? createPathCurve(cover.points)
  return boxAround(xs, ys)
}

/** The box of everything that a shape covers with an edge. */
export function coveredBounds(shape: ReadShape, edge: Edge): Rect {
  const curve = shape.shape === 'path' ? createPathCurve(shape.points) : null
  const outerPx = Math.max(0, outerPxOf(edge)) + (curve ? Math.max(...curve.widths) / 2 : 0)
  return growRect(boundsOf(shape, curve), Math.ceil(outerPx) + 1)
}

/** Several shapes as one: every pixel lies as the nearest of them says. Paths lose what lies along them. */
export function coverShapes(
  shapes: readonly ReadShape[],
  rect: Rect,
  marginPx: number,
  edge: Edge,
): CoveredShape {
  if (shapes.length === 1) return coverShape(shapes[0]!, null, rect, marginPx, edge)
  const size = rect.width * rect.height
  const edges = new Float32Array(size).fill(Infinity)
  const coverage = new Float32Array(size)
  for (const shape of shapes) {
    const one = coverShape(shape, null, rect, marginPx, edge)
    for (let i = 0; i < one.field.count; i++) {
      const pixel = one.field.pixels[i]!
      edges[pixel] = Math.min(edges[pixel]!, one.field.edges[i]!)
      coverage[pixel] = Math.max(coverage[pixel]!, one.coverage[i]!)
    }
  }
  const pixels = Int32Array.from({ length: size }, (_, pixel) => pixel).filter(
    (pixel) => edges[pixel] !== Infinity,
  )
  return {
    field: { count: pixels.length, pixels, edges: Float32Array.from(pixels, (pixel) => edges[pixel]!) },
    coverage: Float32Array.from(pixels, (pixel) => coverage[pixel]!),
    path: null,
  }
}

/** The same, from what was kept where the same shapes were asked for in the same rectangle before. Its coverage is only read. */
export function coverKept(
  cache: Cache | undefined,
  shapes: readonly ReadShape[],
  rect: Rect,
  marginPx: number,
  edge: Edge,
): CoveredShape {
  if (!cache || shapes.some((shape) => shape.shape === 'matte'))
    return coverShapes(shapes, rect, marginPx, edge)
  const key = JSON.stringify([
    'cover',
    shapes,
    rect,
    marginPx,
    edge.featherInPx,
    edge.featherOutPx,
    edge.growPx,
  ])
  const known = cache.get(key) as CoveredShape | undefined
  if (known) return known
  const made = coverShapes(shapes, rect, marginPx, edge)
  cache.set(key, made)
  return made
}

/** Whether two shapes cover the same thing: mends that hand over to each other are no strangers. */
export function isSameThing(a: ReadShape, b: ReadShape): boolean {
  const [boxA, boxB] = [boundsOf(a, null), boundsOf(b, null)]
  const shared = intersectRects(boxA, boxB)
  if (!shared) return false
  const all = uniteRects(boxA, boxB)
  return shared.width * shared.height > SAME_SHARE * all.width * all.height
}

const SAME_SHARE = 0.6

/** What passes in front stays: its pixels are taken out of the coverage, as drawn. */
export function subtractHoldout(
  coverage: Float32Array,
  field: EdgeField,
  holdout: ReadShape,
  rect: Rect,
): void {
  const holdoutCover = coverShape(holdout, null, rect, 1, HARD)
  const holdoutAt = new Map<number, number>()
  for (let i = 0; i < holdoutCover.field.count; i++)
    if (holdoutCover.coverage[i]! > 0) holdoutAt.set(holdoutCover.field.pixels[i]!, holdoutCover.coverage[i]!)
  if (holdoutAt.size === 0) return
  for (let i = 0; i < field.count; i++) {
    const kept = holdoutAt.get(field.pixels[i]!)
    if (kept !== undefined) coverage[i] = coverage[i]! * (1 - kept)
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

/**
 * Which pixels of a rectangle belong to other mends and holdouts; null where none does.
 * @param kept  Where shapes are asked for in one rectangle after the other: each is worked out once for the whole picture and kept.
 */
export function tabooOf(
  shapes: readonly TabooShape[],
  rect: Rect,
  kept?: { readonly cache: Cache | undefined; readonly whole: Rect },
): Uint8Array | null {
  let taboo: Uint8Array | null = null
  for (const { shape, edge, level } of shapes) {
    const bounds = coveredBounds(shape, edge)
    if (!intersectRects(bounds, rect)) continue
    const near = intersectRects(bounds, kept?.whole ?? rect)!
    const { field, coverage } = coverKept(kept?.cache, [shape], near, Math.max(1, outerPxOf(edge)), edge)
    for (let i = 0; i < field.count; i++) {
      if (coverage[i] === 0) continue
      const pixel = field.pixels[i]!
      const col = near.col - rect.col + (pixel % near.width)
      const row = near.row - rect.row + Math.floor(pixel / near.width)
      if (col < 0 || row < 0 || col >= rect.width || row >= rect.height) continue
      taboo ??= new Uint8Array(rect.width * rect.height)
      const at = row * rect.width + col
      if (level > taboo[at]!) taboo[at] = level
    }
  }
  return taboo
}
