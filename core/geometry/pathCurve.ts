/**
 * The centreline of a path area: a smooth curve through its points, measured along its length.
 *
 * Positions and widths are in px of the full-size picture. The curve is kept as a fine polyline whose
 * chords leave the true curve by less than `CHORD_ERROR_PX`.
 */
import { createSpline, spanOf, splineSlope, splineValue } from './spline'
import { norm } from './transform'

export interface PathPoint {
  readonly x: number
  readonly y: number
  /** Full width of the area here, square to the path. */
  readonly widthPx: number
}

export interface PathCurve {
  /** Vertices of the polyline; `arcs[i]` is the length along the path up to vertex i, in px. */
  readonly xs: Float64Array
  readonly ys: Float64Array
  readonly arcs: Float64Array
  /** Unit tangents at the vertices. */
  readonly tangentXs: Float64Array
  readonly tangentYs: Float64Array
  readonly widths: Float64Array
  readonly lengthPx: number
  /** Length along the path at each of the given points. */
  readonly pointArcs: Float64Array
}

/** A path has a length: that of a single dab, px. */
const DAB_PX = 0.02

/** The path of a dab: a place with a width. */
export const dabAt = ({ x, y, widthPx }: PathPoint): [PathPoint, PathPoint] => [
  { x, y, widthPx },
  { x: x + DAB_PX, y, widthPx },
]

const CHORD_ERROR_PX = 0.02 // far below what coverage at 8 or 16 bits can show
const MIN_CHORD_PX = 1e-3 // two points on one spot still have an order

/**
 * The curve through `points`, in order: a cubic spline over chord length; straight for two points.
 * Width runs linearly between points.
 *
 * @param points  2 or more. @throws RangeError otherwise.
 */
export function createPathCurve(points: readonly PathPoint[]): PathCurve {
  if (points.length < 2) throw new RangeError(`a path needs at least 2 points. Received ${points.length}`)
  const knots = chordLengths(points)
  const xOverChord = createSpline(
    knots,
    points.map((point) => point.x),
  )
  const yOverChord = createSpline(
    knots,
    points.map((point) => point.y),
  )

  const at: number[] = [0]
  const vertexOfPoint: number[] = [0]
  for (let i = 0; i + 1 < points.length; i++) {
    const span = knots[i + 1]! - knots[i]!
    const bend = Math.max(
      norm(xOverChord.curvatures[i]!, yOverChord.curvatures[i]!),
      norm(xOverChord.curvatures[i + 1]!, yOverChord.curvatures[i + 1]!),
    )
    const pieces = Math.min(256, Math.max(1, Math.ceil(span * Math.sqrt(bend / (8 * CHORD_ERROR_PX)))))
    for (let piece = 1; piece <= pieces; piece++) at.push(knots[i]! + (span * piece) / pieces)
    vertexOfPoint.push(at.length - 1)
  }

  const count = at.length
  const curve = {
    xs: Float64Array.from(at, (t) => splineValue(xOverChord, t)),
    ys: Float64Array.from(at, (t) => splineValue(yOverChord, t)),
    arcs: new Float64Array(count),
    tangentXs: new Float64Array(count),
    tangentYs: new Float64Array(count),
    widths: Float64Array.from(at, (t) => widthAt(points, knots, t)),
  }
  for (let i = 0; i < count; i++) {
    if (i > 0)
      curve.arcs[i] =
        curve.arcs[i - 1]! + norm(curve.xs[i]! - curve.xs[i - 1]!, curve.ys[i]! - curve.ys[i - 1]!)
    const [across, down] = [splineSlope(xOverChord, at[i]!), splineSlope(yOverChord, at[i]!)]
    const length = norm(across, down)
    curve.tangentXs[i] = length > 0 ? across / length : 1
    curve.tangentYs[i] = length > 0 ? down / length : 0
  }
  return {
    ...curve,
    lengthPx: curve.arcs[count - 1]!,
    pointArcs: Float64Array.from(vertexOfPoint, (vertex) => curve.arcs[vertex]!),
  }
}

/** Place, direction and width at a length along the path; beyond its ends, the end. */
export function pathPointAt(
  curve: PathCurve,
  arcPx: number,
): PathPoint & { readonly tangentX: number; readonly tangentY: number } {
  const arc = Math.min(Math.max(arcPx, 0), curve.lengthPx)
  const i = spanOf(curve.arcs, arc)
  const next = Math.min(i + 1, curve.arcs.length - 1)
  const span = curve.arcs[next]! - curve.arcs[i]!
  const f = span > 0 ? (arc - curve.arcs[i]!) / span : 0
  return {
    x: between(curve.xs, i, next, f),
    y: between(curve.ys, i, next, f),
    widthPx: between(curve.widths, i, next, f),
    tangentX: between(curve.tangentXs, i, next, f),
    tangentY: between(curve.tangentYs, i, next, f),
  }
}

const between = (values: Float64Array, i: number, next: number, f: number): number =>
  values[i]! + f * (values[next]! - values[i]!)

/** The place on the path nearest to (x, y). */
export function nearestOnPath(
  curve: PathCurve,
  x: number,
  y: number,
): { readonly arcPx: number; readonly distancePx: number } {
  let best = { arcPx: 0, distancePx: Infinity }
  for (let i = 0; i + 1 < curve.arcs.length; i++) {
    const alongX = curve.xs[i + 1]! - curve.xs[i]!
    const alongY = curve.ys[i + 1]! - curve.ys[i]!
    const squared = alongX * alongX + alongY * alongY
    const raw = squared > 0 ? ((x - curve.xs[i]!) * alongX + (y - curve.ys[i]!) * alongY) / squared : 0
    const f = Math.min(Math.max(raw, 0), 1)
    const distancePx = norm(x - curve.xs[i]! - f * alongX, y - curve.ys[i]! - f * alongY)
    if (distancePx < best.distancePx) best = { arcPx: curve.arcs[i]! + f * Math.sqrt(squared), distancePx }
  }
  return best
}

function chordLengths(points: readonly PathPoint[]): Float64Array {
  const knots = new Float64Array(points.length)
  for (let i = 1; i < points.length; i++) {
    const chord = norm(points[i]!.x - points[i - 1]!.x, points[i]!.y - points[i - 1]!.y)
    knots[i] = knots[i - 1]! + Math.max(chord, MIN_CHORD_PX)
  }
  return knots
}

function widthAt(points: readonly PathPoint[], knots: Float64Array, at: number): number {
  const i = Math.min(spanOf(knots, at), points.length - 2)
  const f = (at - knots[i]!) / (knots[i + 1]! - knots[i]!)
  return points[i]!.widthPx + f * (points[i + 1]!.widthPx - points[i]!.widthPx)
}
