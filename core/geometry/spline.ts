/**
 * Interpolating cubic splines: the smooth line through given values, in space and in time.
 *
 * The second derivative is continuous, and so is the third at the second and the last but one knot
 * ("not a knot"): no end is forced straight. Two values give a straight line, three a parabola, the
 * shape of a sagging wire; four or more a cubic at either end.
 * Source: C. de Boor, "A Practical Guide to Splines", 1978, chapter IV.
 */

/** A spline through (knots[i], values[i]); `curvatures[i]` is its second derivative there. */
export interface Spline {
  readonly knots: ArrayLike<number>
  readonly values: ArrayLike<number>
  readonly curvatures: Float64Array
}

/** @param knots  Rising strictly. @throws RangeError when there are fewer than one, or they do not rise. */
export function createSpline(knots: ArrayLike<number>, values: ArrayLike<number>): Spline {
  const count = knots.length
  if (count < 1 || values.length !== count)
    throw new RangeError(`a spline needs as many values as knots, at least 1. Received ${count}`)
  for (let i = 1; i < count; i++) {
    if (!(knots[i]! > knots[i - 1]!))
      throw new RangeError(`knots must rise. Received ${knots[i - 1]} before ${knots[i]}`)
  }
  return { knots, values, curvatures: solveCurvatures(knots, values) }
}

function solveCurvatures(knots: ArrayLike<number>, values: ArrayLike<number>): Float64Array {
  const last = knots.length - 1
  const curvatures = new Float64Array(knots.length)
  if (last < 2) return curvatures
  const gap = (i: number) => knots[i + 1]! - knots[i]!
  const slope = (i: number) => (values[i + 1]! - values[i]!) / gap(i)
  if (last === 2) return curvatures.fill((2 * (slope(1) - slope(0))) / (gap(0) + gap(1)))
  // Thomas algorithm on the interior equations. The end curvatures are eliminated first:
  // M0 = M1 + (M1 - M2) gap0 / gap1, likewise at the other end.
  const upper = new Float64Array(knots.length)
  for (let i = 1; i < last; i++) {
    let below = gap(i - 1)
    let diagonal = 2 * (gap(i - 1) + gap(i))
    let above = gap(i)
    if (i === 1) {
      const ratio = gap(0) / gap(1)
      diagonal += gap(0) * (1 + ratio)
      above -= gap(0) * ratio
      below = 0
    }
    if (i === last - 1) {
      const ratio = gap(last - 1) / gap(last - 2)
      diagonal += gap(last - 1) * (1 + ratio)
      below -= gap(last - 1) * ratio
      above = 0
    }
    const pivot = diagonal - below * upper[i - 1]!
    upper[i] = above / pivot
    curvatures[i] = (6 * (slope(i) - slope(i - 1)) - below * curvatures[i - 1]!) / pivot
  }
  for (let i = last - 2; i >= 1; i--) curvatures[i]! -= upper[i]! * curvatures[i + 1]!
  curvatures[0] = curvatures[1]! + ((curvatures[1]! - curvatures[2]!) * gap(0)) / gap(1)
  curvatures[last] =
    curvatures[last - 1]! + ((curvatures[last - 1]! - curvatures[last - 2]!) * gap(last - 1)) / gap(last - 2)
  return curvatures
}

/** The value at `at`; before the first and after the last knot the end value holds. */
export function splineValue(spline: Spline, at: number): number {
  const { knots, values, curvatures } = spline
  const last = knots.length - 1
  if (at <= knots[0]!) return values[0]!
  if (at >= knots[last]!) return values[last]!
  const i = spanOf(knots, at)
  const span = knots[i + 1]! - knots[i]!
  const b = (at - knots[i]!) / span
  const a = 1 - b
  return (
    a * values[i]! +
    b * values[i + 1]! +
    (((a * a * a - a) * curvatures[i]! + (b * b * b - b) * curvatures[i + 1]!) * span * span) / 6
  )
}

/** The slope at `at`, taken inside the knots. */
export function splineSlope(spline: Spline, at: number): number {
  const { knots, values, curvatures } = spline
  if (knots.length < 2) return 0
  const inside = Math.min(Math.max(at, knots[0]!), knots[knots.length - 1]!)
  const i = spanOf(knots, inside)
  const span = knots[i + 1]! - knots[i]!
  const b = (inside - knots[i]!) / span
  const a = 1 - b
  return (
    (values[i + 1]! - values[i]!) / span +
    (((3 * b * b - 1) * curvatures[i + 1]! - (3 * a * a - 1) * curvatures[i]!) * span) / 6
  )
}

/** So far may a value pass beyond the greater of the steps beside a turning point, as a share of it. */
const BEYOND = 0.1
/** How far a cubic that leaves a knot with slope 1 and comes to rest after a span of 1 gets beyond where it began. */
const BULGE = 4 / 27
const MONOTONE = 3

/**
 * The value at `at` of the spline, held to the range of its values: between knots that rise it rises, between equal
 * ones it rests, and where values turn it passes beyond them by a tenth of the steps beside at most.
 * Source: F. N. Fritsch, R. E. Carlson, "Monotone piecewise cubic interpolation", SIAM J. Numer. Anal. 17, 1980: slopes
 * up to three times the lesser step keep a cubic monotone; the bound at turning points is our own.
 */
export function heldSplineValue(spline: Spline, at: number): number {
  const { knots, values } = spline
  const last = knots.length - 1
  if (last < 2 || at <= knots[0]! || at >= knots[last]!) return splineValue(spline, at)
  const i = spanOf(knots, at)
  const span = knots[i + 1]! - knots[i]!
  const [t, step] = [(at - knots[i]!) / span, values[i + 1]! - values[i]!]
  const [from, to] = [heldSlope(spline, i) * span, heldSlope(spline, i + 1) * span]
  const [tt, left] = [t * t, 1 - t]
  return values[i]! + step * tt * (3 - 2 * t) + from * t * left * left - to * tt * left
}

/** The spline's slope at a knot, limited by the steps beside it. */
function heldSlope(spline: Spline, i: number): number {
  const { knots, values } = spline
  const secant = (k: number) => (values[k + 1]! - values[k]!) / (knots[k + 1]! - knots[k]!)
  const last = knots.length - 1
  const [before, after] = [i > 0 ? secant(i - 1) : null, i < last ? secant(i) : null]
  const slope = splineSlope(spline, knots[i]!)
  if (before === null || after === null) return within(slope, MONOTONE * (before ?? after)!)
  if (before === 0 || after === 0) return 0
  if (before > 0 === after > 0)
    return within(slope, MONOTONE * (before > 0 ? Math.min(before, after) : Math.max(before, after)))
  // A turning point: it may lie beside the knot.
  const steps = [before * (knots[i]! - knots[i - 1]!), after * (knots[i + 1]! - knots[i]!)].map(Math.abs)
  const longest = Math.max(knots[i]! - knots[i - 1]!, knots[i + 1]! - knots[i]!)
  const most = (BEYOND * Math.max(...steps)) / (BULGE * longest)
  return Math.min(Math.max(slope, -most), most)
}

/** A slope brought between 0 and a bound of either sign. */
const within = (slope: number, bound: number): number =>
  bound >= 0 ? Math.min(Math.max(slope, 0), bound) : Math.max(Math.min(slope, 0), bound)

/** Index of the span that holds `at`: the greatest i with knots[i] <= at, short of the last knot. */
export function spanOf(knots: ArrayLike<number>, at: number): number {
  let low = 0
  let high = knots.length - 1
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (knots[middle]! <= at) low = middle
    else high = middle
  }
  return low
}
