/** Areas in time: what a path looks like on a frame, and how keys are set. */
import { createSpline, splineValue } from '../geometry/spline'
import { createPathCurve, pathPointAt, type PathPoint } from '../geometry/pathCurve'
import type { Frame } from '../time'
import { WIDTH_PX, type PathArea, type PathKey, type Span } from './schema'

/**
 * The points of a path on a frame.
 *
 * On a key its own points; between keys each coordinate runs through the keys on a spline ("smooth")
 * or straight from key to key ("linear"); before the first and after the last key they rest.
 */
export function pathPointsAt(area: PathArea, frame: Frame): PathPoint[] {
  const { keys, travel } = area
  const first = keys[0]!
  const last = keys[keys.length - 1]!
  if (frame <= first.frame) return first.points
  if (frame >= last.frame) return last.points
  const after = keys.findIndex((key) => key.frame >= frame)
  if (keys[after]!.frame === frame) return keys[after]!.points
  const used = travel === 'linear' ? [keys[after - 1]!, keys[after]!] : keys
  const frames = used.map((key) => key.frame)
  const track = (read: (point: PathPoint) => number, index: number) =>
    splineValue(
      createSpline(
        frames,
        used.map((key) => read(key.points[index]!)),
      ),
      frame,
    )
  return first.points.map((_, index) => ({
    x: track((point) => point.x, index),
    y: track((point) => point.y, index),
    widthPx: Math.min(
      Math.max(
        track((point) => point.widthPx, index),
        WIDTH_PX.min,
      ),
      WIDTH_PX.max,
    ),
  }))
}

/** True where a key lies on this frame. */
export const hasKeyAt = (area: PathArea, frame: Frame): boolean => area.keys.some((key) => key.frame === frame)

/**
 * Sets the points on a frame, keying it there. An area that has no key at or before the start of its
 * span is pinned there too, as it looked before: a first key cannot be forgotten.
 */
export function withPointsAt(area: PathArea, span: Span, frame: Frame, points: readonly PathPoint[]): PathArea {
  const isUnpinned = area.keys[0]!.frame > span.firstFrame
  const pinned = isUnpinned ? withKey(area.keys, { frame: span.firstFrame, points: pathPointsAt(area, span.firstFrame) }) : area.keys
  return { ...area, keys: withKey(pinned, { frame, points: [...points] }) }
}

/** Takes the key of a frame away; the last one stays. */
export function withoutKeyAt(area: PathArea, frame: Frame): PathArea {
  if (area.keys.length === 1) return area
  return { ...area, keys: area.keys.filter((key) => key.frame !== frame) }
}

/**
 * Adds a point to every key, at the same share of the way between its neighbours, so that other
 * frames keep their shape.
 *
 * @param after  Index of the point that it follows. @param share  0 to 1, of the length between them.
 */
export function withPointInserted(area: PathArea, after: number, share: number): PathArea {
  return {
    ...area,
    keys: area.keys.map(({ frame, points }) => {
      const curve = createPathCurve(points)
      const from = curve.pointArcs[after]!
      const { x, y, widthPx } = pathPointAt(curve, from + share * (curve.pointArcs[after + 1]! - from))
      return { frame, points: [...points.slice(0, after + 1), { x, y, widthPx }, ...points.slice(after + 1)] }
    }),
  }
}

/** Takes a point out of every key; two always stay. */
export function withPointRemoved(area: PathArea, index: number): PathArea {
  if (area.keys[0]!.points.length <= 2) return area
  return { ...area, keys: area.keys.map(({ frame, points }) => ({ frame, points: points.filter((_, i) => i !== index) })) }
}

function withKey(keys: readonly PathKey[], key: PathKey): PathKey[] {
  return [...keys.filter((one) => one.frame !== key.frame), key].sort((a, b) => a.frame - b.frame)
}
