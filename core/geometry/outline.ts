/** Closed curves as polygons: cubic Bézier outlines, turned ellipses, boxes with rounded corners. */
import { cos, sin } from '../kernels/exact'
import { norm } from './transform'

export interface BezierPoint {
  readonly x: number
  readonly y: number
  /** Handles relative to the point; 0, 0 is none. */
  readonly inX: number
  readonly inY: number
  readonly outX: number
  readonly outY: number
}

const CHORD_ERROR_PX = 0.02 // far below what coverage at 8 or 16 bits can show

/** The outline as a polygon, x, y pairs, whose sides leave the curve by less than a fiftieth of a px. */
export function flattenOutline(points: readonly BezierPoint[]): number[] {
  const out: number[] = []
  for (let i = 0; i < points.length; i++) {
    const [a, b] = [points[i]!, points[(i + 1) % points.length]!]
    const pieces = piecesOf(a, b)
    for (let k = 0; k < pieces; k++) {
      const { x, y } = bezierAt(a, b, k / pieces)
      out.push(x, y)
    }
  }
  return out
}

/** Pieces by the second differences of the control points: the chord error of a cubic falls as their square. */
function piecesOf(a: BezierPoint, b: BezierPoint): number {
  const [x1, y1, x2, y2] = [a.x + a.outX, a.y + a.outY, b.x + b.inX, b.y + b.inY]
  const bend = Math.max(
    norm(a.x - 2 * x1 + x2, a.y - 2 * y1 + y2),
    norm(x1 - 2 * x2 + b.x, y1 - 2 * y2 + b.y),
  )
  return Math.min(256, Math.max(1, Math.ceil(Math.sqrt((0.75 * bend) / CHORD_ERROR_PX))))
}

export function bezierAt(a: BezierPoint, b: BezierPoint, t: number): { x: number; y: number } {
  const s = 1 - t
  const [k0, k1, k2, k3] = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t]
  return {
    x: k0 * a.x + k1 * (a.x + a.outX) + k2 * (b.x + b.inX) + k3 * b.x,
    y: k0 * a.y + k1 * (a.y + a.outY) + k2 * (b.y + b.inY) + k3 * b.y,
  }
}

/**
 * A side cut in two at t without changing the curve.
 * @returns The point before, the new one, the point after. Source: de Casteljau's construction.
 */
export function splitBezier(
  a: BezierPoint,
  b: BezierPoint,
  t: number,
): [BezierPoint, BezierPoint, BezierPoint] {
  const mix = (p: number, q: number) => p + t * (q - p)
  const axis = (a0: number, h1: number, h2: number, b0: number) => {
    const [p01, p12, p23] = [mix(a0, h1), mix(h1, h2), mix(h2, b0)]
    const [left, right] = [mix(p01, p12), mix(p12, p23)]
    return { p01, p23, left, right, at: mix(left, right) }
  }
  const x = axis(a.x, a.x + a.outX, b.x + b.inX, b.x)
  const y = axis(a.y, a.y + a.outY, b.y + b.inY, b.y)
  return [
    { ...a, outX: x.p01 - a.x, outY: y.p01 - a.y },
    { x: x.at, y: y.at, inX: x.left - x.at, inY: y.left - y.at, outX: x.right - x.at, outY: y.right - y.at },
    { ...b, inX: x.p23 - b.x, inY: y.p23 - b.y },
  ]
}

/** Handles that make a point smooth: along the line of its neighbours, a third of the way to each. */
export function smoothHandles(before: BezierPoint, point: BezierPoint, after: BezierPoint): BezierPoint {
  const [dx, dy] = [after.x - before.x, after.y - before.y]
  const length = norm(dx, dy) || 1
  const [inLength, outLength] = [
    norm(point.x - before.x, point.y - before.y) / 3,
    norm(after.x - point.x, after.y - point.y) / 3,
  ]
  return {
    ...point,
    inX: (-dx / length) * inLength,
    inY: (-dy / length) * inLength,
    outX: (dx / length) * outLength,
    outY: (dy / length) * outLength,
  }
}

export const isCorner = ({ inX, inY, outX, outY }: BezierPoint): boolean =>
  inX === 0 && inY === 0 && outX === 0 && outY === 0

/** A turned ellipse as a polygon. */
export function flattenEllipse(
  x: number,
  y: number,
  radiusX: number,
  radiusY: number,
  turnDeg: number,
): number[] {
  const greatest = Math.max(radiusX, radiusY)
  const sides = Math.min(
    720,
    Math.max(16, Math.ceil(Math.PI / Math.sqrt((2 * CHORD_ERROR_PX) / Math.max(greatest, 1)))),
  )
  return turned(
    x,
    y,
    turnDeg,
    Array.from({ length: sides }, (_, i) => {
      const angle = (2 * Math.PI * i) / sides
      return [radiusX * cos(angle), radiusY * sin(angle)] as const
    }),
  )
}

/** A turned box with rounded corners as a polygon; (x, y) is its middle. */
export function flattenBox(
  x: number,
  y: number,
  width: number,
  height: number,
  turnDeg: number,
  corner: number,
): number[] {
  const [halfX, halfY] = [width / 2, height / 2]
  const radius = Math.min(corner, halfX, halfY)
  const steps =
    radius > 0
      ? Math.min(
          64,
          Math.max(4, Math.ceil(Math.PI / 4 / Math.sqrt((2 * CHORD_ERROR_PX) / Math.max(radius, 1)))),
        )
      : 0
  const points: (readonly [number, number])[] = []
  const corners = [
    [1, 1, 0],
    [-1, 1, 90],
    [-1, -1, 180],
    [1, -1, 270],
  ] as const
  for (const [sx, sy, startDeg] of corners) {
    for (let i = 0; i <= steps; i++) {
      const angle = ((startDeg + (steps > 0 ? (90 * i) / steps : 0)) * Math.PI) / 180
      points.push(
        radius > 0
          ? [sx * (halfX - radius) + radius * cos(angle), sy * (halfY - radius) + radius * sin(angle)]
          : [sx * halfX, sy * halfY],
      )
    }
  }
  return turned(x, y, turnDeg, points)
}

function turned(
  x: number,
  y: number,
  turnDeg: number,
  points: readonly (readonly [number, number])[],
): number[] {
  const angle = (turnDeg * Math.PI) / 180
  const [c, s] = turnDeg === 0 ? [1, 0] : [cos(angle), sin(angle)]
  return points.flatMap(([px, py]) => [x + c * px - s * py, y + s * px + c * py])
}
