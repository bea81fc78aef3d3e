/**
 * Projective transforms of the plane as row-major 3 × 3 matrices that take column vectors (x, y, 1).
 * Names say both spaces: `frameFromReference` takes a place in the reference to its place in the frame.
 */
import { atan2, cos, sin } from '../kernels/exact'

export type Matrix3 = readonly [number, number, number, number, number, number, number, number, number]

export interface Place {
  readonly x: number
  readonly y: number
}

export const IDENTITY: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1]

export const translationBy = (x: number, y: number): Matrix3 => [1, 0, x, 0, 1, y, 0, 0, 1]

/** Turn (radians, clockwise on the screen) and scale about the origin, then a shift. */
export function similarity(scale: number, turnRad: number, x: number, y: number): Matrix3 {
  const [c, s] = [scale * cos(turnRad), scale * sin(turnRad)]
  return [c, -s, x, s, c, y, 0, 0, 1]
}

/** First `second`, then `first`. */
export function compose(first: Matrix3, second: Matrix3): Matrix3 {
  const out: number[] = []
  for (let row = 0; row < 3; row++)
    for (let col = 0; col < 3; col++)
      out.push(
        first[row * 3]! * second[col]! +
          first[row * 3 + 1]! * second[3 + col]! +
          first[row * 3 + 2]! * second[6 + col]!,
      )
  return out as unknown as Matrix3
}

/** The way back; null for a matrix that has none. */
export function invert(m: Matrix3): Matrix3 | null {
  const [a, b, c, d, e, f, g, h, k] = m
  const [p, q, r] = [e * k - f * h, f * g - d * k, d * h - e * g]
  const determinant = a * p + b * q + c * r
  if (!(Math.abs(determinant) > 1e-18)) return null
  const s = 1 / determinant
  return [
    p * s,
    (c * h - b * k) * s,
    (b * f - c * e) * s,
    q * s,
    (a * k - c * g) * s,
    (c * d - a * f) * s,
    r * s,
    (b * g - a * h) * s,
    (a * e - b * d) * s,
  ]
}

export function apply(m: Matrix3, x: number, y: number): Place {
  const w = 1 / (m[6] * x + m[7] * y + m[8])
  return { x: (m[0] * x + m[1] * y + m[2]) * w, y: (m[3] * x + m[4] * y + m[5]) * w }
}

/** The matrix with 1 in its last place, as it is stored and compared. */
export const normalised = (m: Matrix3): Matrix3 => m.map((value) => value / m[8]) as unknown as Matrix3

/** What a transform does near a place: turn, scale and the 2 × 2 part [xx, xy, yx, yy]. */
export function localParts(m: Matrix3, x: number, y: number) {
  const w = m[6] * x + m[7] * y + m[8]
  const to = apply(m, x, y)
  const linear = [
    (m[0] - m[6] * to.x) / w,
    (m[1] - m[7] * to.x) / w,
    (m[3] - m[6] * to.y) / w,
    (m[4] - m[7] * to.y) / w,
  ] as const
  const [xx, xy, yx, yy] = linear
  return { to, linear, turnRad: atan2(yx - xy, xx + yy), scale: Math.sqrt(Math.abs(xx * yy - xy * yx)) }
}

/** Which parts of a motion are used. Skew stands for everything beyond turn and scale, perspective too. */
export interface MotionParts {
  readonly position: boolean
  readonly rotation: boolean
  readonly scale: boolean
  readonly skew: boolean
}

/** The motion reduced to some of its parts, taken at a pivot, the middle of what moves. */
export function keepParts(m: Matrix3, pivot: Place, uses: MotionParts): Matrix3 {
  if (uses.position && uses.rotation && uses.scale && uses.skew) return m
  const { to, linear, turnRad, scale } = localParts(m, pivot.x, pivot.y)
  const base = similarity(uses.scale ? scale : 1, uses.rotation ? turnRad : 0, 0, 0)
  let part: Matrix3 = base
  if (uses.skew && scale > 0) {
    const rest = compose(similarity(1 / scale, -turnRad, 0, 0), [
      linear[0],
      linear[1],
      0,
      linear[2],
      linear[3],
      0,
      0,
      0,
      1,
    ])
    part = compose(base, rest)
  }
  const end = uses.position ? to : pivot
  return compose(translationBy(end.x, end.y), compose(part, translationBy(-pivot.x, -pivot.y)))
}

/** The length of a way. Math.hypot may differ in its last bit between engines; the root is exact by IEEE 754. */
export const norm = (x: number, y: number): number => Math.sqrt(x * x + y * y)
