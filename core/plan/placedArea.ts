/** Areas on one frame: keys and tracks worked out. */
import type { PathPoint } from '../geometry/pathCurve'
import { apply, type Matrix3 } from '../geometry/transform'
import type { Frame } from '../time'
import type { Area } from '../document/areas'
import { followMotion, geometryAt, keyedGeometryAt, polygonOf, trackOf } from '../document/keyedGeometry'
import { rampAt, type Mend } from '../document/mend'
import type { Tracks } from '../document/tracks'

export type PlacedShape =
  | { readonly shape: 'path'; readonly points: readonly PathPoint[] }
  /** x, y pairs. */
  | { readonly shape: 'closed'; readonly polygon: readonly number[] }
  | { readonly shape: 'matte'; readonly pattern: string }

/** Whether a mend changes anything on a frame. */
export const isActiveAt = (mend: Mend, frame: Frame): boolean =>
  mend.isOn && mend.finish.strength > 0 && rampAt(mend.span, frame) > 0

/** An area on a frame. Asked for many times of the same area: the last answers are kept with it. */
export function placeArea(area: Area, tracks: Tracks, frame: Frame): PlacedShape {
  let kept = placements.get(area)
  if (!kept || kept.tracks !== tracks) placements.set(area, (kept = { tracks, byFrame: new Map() }))
  let placed = kept.byFrame.get(frame)
  if (!placed) kept.byFrame.set(frame, (placed = workOutArea(area, tracks, frame)))
  return placed
}

const placements = new WeakMap<Area, { readonly tracks: Tracks; readonly byFrame: Map<Frame, PlacedShape> }>()

function workOutArea(area: Area, tracks: Tracks, frame: Frame): PlacedShape {
  if (area.shape === 'matte') return { shape: 'matte', pattern: area.pattern }
  const geometry = geometryAt(area, tracks, frame)
  if (geometry.shape === 'path') return { shape: 'path', points: geometry.points }
  const track = trackOf(area, tracks)
  const keyed = keyedGeometryAt(area, frame)
  const motion = track && track.kind !== 'cling' ? followMotion(area, track, frame, keyed) : null
  if (!motion || keyed.shape === 'path') return { shape: 'closed', polygon: polygonOf(geometry) }
  // The whole outline goes through the motion, so that a box on a wall keeps to the wall's perspective.
  return { shape: 'closed', polygon: movedPolygon(polygonOf(keyed), motion) }
}

export function movedPolygon(polygon: readonly number[], motion: Matrix3): number[] {
  const out: number[] = []
  for (let i = 0; i < polygon.length; i += 2) {
    const { x, y } = apply(motion, polygon[i]!, polygon[i + 1]!)
    out.push(x, y)
  }
  return out
}

export function middleOfShape(shape: PlacedShape): { readonly x: number; readonly y: number } {
  if (shape.shape === 'matte') return { x: 0, y: 0 }
  const points =
    shape.shape === 'path'
      ? shape.points
      : Array.from({ length: shape.polygon.length / 2 }, (_, i) => ({
          x: shape.polygon[2 * i]!,
          y: shape.polygon[2 * i + 1]!,
        }))
  return {
    x: points.reduce((sum, point) => sum + point.x, 0) / points.length,
    y: points.reduce((sum, point) => sum + point.y, 0) / points.length,
  }
}
