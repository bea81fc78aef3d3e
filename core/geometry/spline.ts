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

/** So far may a value pass beyond its knots, as a share of the greater step beside. */
const BEYOND = 0.12
/** How far a cubic that leaves a knot with slope 1 and comes to rest after a span of 1 gets beyond where it began. */
const BULGE = 4 / 27
const MONOTONE = 3

/**
 * The value at `at` of the spline, held to the range of its values: between equal ones it rests, and elsewhere it passes
 * beyond its knots by an eighth of the steps beside at most. So much is left to it, for what swings turns between its keys.
 * Source: F. N. Fritsch, R. E. Carlson, "Monotone piecewise cubic interpolation", SIAM J. Numer. Anal. 17, 1980: slopes
 * up to three times the lesser step keep a cubic monotone; the share beyond is our own, set on a swing keyed six times.
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
  const last = knots.length - 1
  const slope = splineSlope(spline, knots[i]!)
  const spans = [i > 0 ? knots[i]! - knots[i - 1]! : 0, i < last ? knots[i + 1]! - knots[i]! : 0] as const
  const steps = [i > 0 ? values[i]! - values[i - 1]! : 0, i < last ? values[i + 1]! - values[i]! : 0] as const
  if (i > 0 && i < last && (steps[0] === 0 || steps[1] === 0)) return 0
  const most = (BEYOND * Math.max(Math.abs(steps[0]), Math.abs(steps[1]))) / (BULGE * Math.max(...spans))
  const secants = [0, 1].filter((k) => spans[k]! > 0).map((k) => steps[k]! / spans[k]!)
  const rising = Math.max(0, MONOTONE * Math.min(...secants))
  const falling = Math.min(0, MONOTONE * Math.max(...secants))
  return Math.min(Math.max(slope, Math.min(falling, -most)), Math.max(rising, most))
}

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
