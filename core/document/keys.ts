/** Keys of an area: set, taken away, moved in time, copied; points added and removed on all of them. */
import { createPathCurve, pathPointAt } from '../geometry/pathCurve'
import { isCorner, smoothHandles, splitBezier } from '../geometry/outline'
import type { Frame, FrameRange } from '../time'
import type { Geometry, KeyedArea, OutlinePoint } from './areas'
import { geometryOfKey, keyedFrom } from './keyedGeometry'
import type { Tracks } from './tracks'

interface PlainKey {
  readonly frame: Frame
  readonly geometry: Geometry
}

const keysOf = (area: KeyedArea): PlainKey[] =>
  area.keys.map((key, index) => ({ frame: key.frame, geometry: geometryOfKey(area, index) }))

/** The area with other keys; at least one always stays. */
function withKeys(area: KeyedArea, keys: readonly PlainKey[]): KeyedArea {
  if (keys.length === 0) return area
  const sorted = [...keys].sort((a, b) => a.frame - b.frame)
  const plain = sorted.map(({ frame, geometry: { shape: _shape, ...rest } }) => ({ frame, ...rest }))
  return { ...area, keys: plain } as unknown as KeyedArea
}

export const hasKeyAt = (area: KeyedArea, frame: Frame): boolean =>
  area.keys.some((key) => key.frame === frame)

/**
 * Sets the shape on a frame, keying it there and nowhere else.
 * @param geometry As it shall look on the frame, with the track's motion in it.
 */
export function withGeometryAt(area: KeyedArea, tracks: Tracks, frame: Frame, geometry: Geometry): KeyedArea {
  const here = { frame, geometry: keyedFrom(area, tracks, frame, geometry) }
  return withKeys(area, [...keysOf(area).filter((key) => key.frame !== frame), here])
}

/** One key alone: the area as it shall look on a frame, at rest or wherever its track takes it. */
export const withOnlyGeometry = (
  area: KeyedArea,
  tracks: Tracks,
  frame: Frame,
  geometry: Geometry,
): KeyedArea => withKeys(area, [{ frame, geometry: keyedFrom(area, tracks, frame, geometry) }])

/** Without the keys of some frames; one always stays. */
export function withoutKeysAt(area: KeyedArea, frames: readonly Frame[]): KeyedArea {
  const kept = keysOf(area).filter((key) => !frames.includes(key.frame))
  return withKeys(area, kept.length > 0 ? kept : keysOf(area).slice(0, 1))
}

/** Keys moved in time. Those they land on give way; the others stay where they are: nothing ripples. */
export function withKeysMoved(
  area: KeyedArea,
  frames: readonly Frame[],
  by: number,
  span: FrameRange,
): KeyedArea {
  const moving = keysOf(area).filter((key) => frames.includes(key.frame))
  if (moving.length === 0 || by === 0) return area
  const clamped = Math.max(by, span.firstFrame - moving[0]!.frame)
  const bounded = Math.min(clamped, span.lastFrame - moving.at(-1)!.frame)
  const landed = moving.map((key) => ({ ...key, frame: key.frame + bounded }))
  const taken = new Set(landed.map((key) => key.frame))
  return withKeys(area, [
    ...keysOf(area).filter((key) => !frames.includes(key.frame) && !taken.has(key.frame)),
    ...landed,
  ])
}

/** Copies of keys, the first of them on `to`. Keys of another area must be of the same shape and number of points. */
export function withKeysPasted(
  area: KeyedArea,
  from: KeyedArea,
  frames: readonly Frame[],
  to: Frame,
): KeyedArea | null {
  const copied = keysOf(from).filter((key) => frames.includes(key.frame))
  const fits = from.shape === area.shape && pointsOf(from) === pointsOf(area)
  if (copied.length === 0 || !fits) return null
  const landed = copied.map((key) => ({ ...key, frame: key.frame - copied[0]!.frame + to }))
  const taken = new Set(landed.map((key) => key.frame))
  return withKeys(area, [...keysOf(area).filter((key) => !taken.has(key.frame)), ...landed])
}

const pointsOf = (area: KeyedArea): number =>
  area.shape === 'path' || area.shape === 'outline' ? area.keys[0]!.points.length : 0

const onEveryKey = (area: KeyedArea, change: (geometry: Geometry) => Geometry): KeyedArea =>
  withKeys(
    area,
    keysOf(area).map(({ frame, geometry }) => ({ frame, geometry: change(geometry) })),
  )

/**
 * Adds a point to every key at the same share of the way from a point to the next, so that the shape of every other
 * frame stays: of an outline exactly, of a path up to its spline.
 *
 * @param after Index of the point that it follows. @param share 0 to 1.
 */
export function withPointInserted(area: KeyedArea, after: number, share: number): KeyedArea {
  return onEveryKey(area, (geometry) => {
    if (geometry.shape === 'path') {
      const curve = createPathCurve(geometry.points)
      const from = curve.pointArcs[after]!
      const { x, y, widthPx } = pathPointAt(curve, from + share * (curve.pointArcs[after + 1]! - from))
      return { ...geometry, points: geometry.points.toSpliced(after + 1, 0, { x, y, widthPx }) }
    }
    if (geometry.shape !== 'outline') return geometry
    const next = (after + 1) % geometry.points.length
    const [a, middle, b] = splitBezier(geometry.points[after]!, geometry.points[next]!, share)
    const points = geometry.points.with(after, a).with(next, b)
    return { ...geometry, points: points.toSpliced(after + 1, 0, middle) }
  })
}

/** Takes a point out of every key; a path keeps two, an outline three. */
export function withPointRemoved(area: KeyedArea, index: number): KeyedArea {
  return onEveryKey(area, (geometry) => {
    if (geometry.shape === 'path' && geometry.points.length > 2)
      return { ...geometry, points: geometry.points.toSpliced(index, 1) }
    if (geometry.shape === 'outline' && geometry.points.length > 3)
      return { ...geometry, points: geometry.points.toSpliced(index, 1) }
    return geometry
  })
}

/** Makes a point of an outline smooth, or a corner, on every key. */
export function withPointBent(area: KeyedArea, index: number, bend: 'smooth' | 'corner'): KeyedArea {
  return onEveryKey(area, (geometry) =>
    geometry.shape === 'outline' ? { ...geometry, points: bentAt(geometry.points, index, bend) } : geometry,
  )
}

function bentAt(points: readonly OutlinePoint[], index: number, bend: 'smooth' | 'corner'): OutlinePoint[] {
  const point = points[index]!
  const count = points.length
  const bent: OutlinePoint =
    bend === 'corner'
      ? { ...point, inX: 0, inY: 0, outX: 0, outY: 0 }
      : smoothHandles(points[(index + count - 1) % count]!, point, points[(index + 1) % count]!)
  return points.with(index, bent)
}

/** A closed outline through places, smooth at every point, or with corners. */
export function outlineThrough(
  places: readonly { readonly x: number; readonly y: number }[],
  bend: 'smooth' | 'corner',
): OutlinePoint[] {
  const corners = places.map(({ x, y }): OutlinePoint => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0 }))
  if (bend === 'corner') return corners
  return corners.map((_, index) => bentAt(corners, index, 'smooth')[index]!)
}

export const isCornerAt = (points: readonly OutlinePoint[], index: number): boolean =>
  isCorner(points[index]!)
