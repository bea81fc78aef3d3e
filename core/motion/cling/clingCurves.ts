/** Curves of a cling: places along them, moved, cut, and told by a fixed number of points. */
import { createPathCurve, pathPointAt, type PathCurve, type PathPoint } from '../../geometry/pathCurve'
import { intersectRects, rectAround, wholePicture, type Rect, type Size } from '../../image/rect'
import type { Run } from './profileFit'
import { ALONG_PX, placeAlong, type Straightened } from './ruler'

export interface Place {
  readonly x: number
  readonly y: number
}

/** Where a line runs along a ruler, and how wide it is. */
export interface Line {
  readonly offsets: Float64Array
  readonly widths: Float64Array
}

export const same = (value: number, length: number): Float64Array => new Float64Array(length).fill(value)

/** What lies within so many px of some places, as far as it is in the picture; null where nothing is. */
export function windowAround(places: readonly Place[], reachPx: number, picture: Size): Rect | null {
  const [xs, ys] = [places.map(({ x }) => x), places.map(({ y }) => y)]
  const box = rectAround(
    Math.min(...xs) - reachPx,
    Math.min(...ys) - reachPx,
    Math.max(...xs) + reachPx,
    Math.max(...ys) + reachPx,
  )
  return intersectRects(box, wholePicture(picture))
}

/** Candidates so near to each other are the same, px. */
const SAME_PX = 3

/** Whether two places of a line are the same. */
export const isNear = (a: readonly PathPoint[], b: readonly PathPoint[]): boolean =>
  a.every((point, i) => Math.abs(point.x - b[i]!.x) < SAME_PX && Math.abs(point.y - b[i]!.y) < SAME_PX)

export const isInside = ({ x, y }: Place, { width, height }: Size, margin = 0): boolean =>
  x >= -margin && y >= -margin && x <= width + margin && y <= height + margin

export const insideRows =
  ({ arcs, isSeen }: Straightened, curve: PathCurve) =>
  (row: number): boolean =>
    isSeen[row] === 1 && arcs[row]! >= -1 && arcs[row]! <= curve.lengthPx + 1

/** Length along the curve, or beyond it, that comes nearest to a place, looked for around `from`. */
export function arcNear(curve: PathCurve, place: Place, from: number): number {
  const at = placeAlong(curve, from)
  return from + (place.x - at.x) * at.tangentX + (place.y - at.y) * at.tangentY
}

/** The curve moved by the offsets that were found. */
export function movedCurve(curve: PathCurve, ruler: Straightened, { offsets, widths }: Line): PathCurve {
  const read = (values: Float64Array, arc: number) => {
    const at = Math.min(Math.max((arc - ruler.arcs[0]!) / ALONG_PX, 0), values.length - 1)
    const row = Math.min(Math.floor(at), values.length - 2)
    return values[row]! + (at - row) * (values[row + 1]! - values[row]!)
  }
  const count = knotsFor(curve.lengthPx)
  return createPathCurve(
    Array.from({ length: count }, (_, i) => {
      const arc = (curve.lengthPx * i) / (count - 1)
      const { x, y, tangentX, tangentY } = pathPointAt(curve, arc)
      const off = read(offsets, arc)
      return { x: x - tangentY * off, y: y + tangentX * off, widthPx: read(widths, arc) }
    }),
  )
}

/** A curve whose first and last point have moved across it, and what lies between by its share. */
export function movedBy(curve: PathCurve, { firstPx, lastPx }: Run): PathCurve {
  const count = knotsFor(curve.lengthPx)
  return createPathCurve(
    Array.from({ length: count }, (_, i) => {
      const share = i / (count - 1)
      const { x, y, widthPx, tangentX, tangentY } = pathPointAt(curve, curve.lengthPx * share)
      const off = firstPx + share * (lastPx - firstPx)
      return { x: x - tangentY * off, y: y + tangentX * off, widthPx }
    }),
  )
}

/** The stretch of a curve from one length to another; straight on where that lies beyond it. */
export function cutCurve(curve: PathCurve, from: number, to: number): PathCurve {
  const length = Math.max(to - from, 8)
  const count = knotsFor(length)
  return createPathCurve(
    Array.from({ length: count }, (_, i) => {
      const { x, y, widthPx } = placeAlong(curve, from + (length * i) / (count - 1))
      return { x, y, widthPx }
    }),
  )
}

const knotsFor = (lengthPx: number): number => Math.min(24, Math.max(3, Math.round(lengthPx / 60) + 1))

/** A fixed number of points for the life of a cling, evenly along the curve. */
export function pointsOf(curve: PathCurve): PathPoint[] {
  return Array.from({ length: CLING_POINTS }, (_, i) => {
    const { x, y, widthPx } = pathPointAt(curve, (curve.lengthPx * i) / (CLING_POINTS - 1))
    return { x, y, widthPx }
  })
}

export const CLING_POINTS = 9

/** Points from the numbers of a tracked frame: x, y, width of each, one after the other. */
export const trackedPoints = (values: readonly number[]): PathPoint[] =>
  Array.from({ length: values.length / 3 }, (_, i) => ({
    x: values[3 * i]!,
    y: values[3 * i + 1]!,
    widthPx: values[3 * i + 2]!,
  }))
