/**
 * A mend on one frame: keys and tracks worked out, nothing left that depends on time. What the evaluator
 * takes, what is sent to workers, and what tells whether a mended frame is still good.
 */
import type { PathPoint } from '../geometry/pathCurve'
import { apply } from '../geometry/transform'
import type { Frame } from '../time'
import type { Area } from './areas'
import { followMotion, geometryAt, keyedGeometryAt, polygonOf, trackOf } from './geometry'
import type { FillSettings, Finish, Mend } from './schema'
import type { Tracks } from './tracks'

export type PlacedShape =
  | { readonly shape: 'path'; readonly points: readonly PathPoint[] }
  /** x, y pairs. */
  | { readonly shape: 'closed'; readonly polygon: readonly number[] }
  | { readonly shape: 'matte'; readonly pattern: string }

export interface PlacedMend {
  /** Also the seed of its grain. */
  readonly id: string
  readonly fill: FillSettings
  readonly finish: Finish
  readonly covers: readonly PlacedShape[]
  readonly holdouts: readonly PlacedShape[]
}

/** Whether a mend changes anything on a frame. */
export const isActiveAt = (mend: Mend, frame: Frame): boolean =>
  mend.isOn && mend.finish.strength > 0 && frame >= mend.span.firstFrame && frame <= mend.span.lastFrame

/** An area on a frame. */
export function placeArea(area: Area, tracks: Tracks, frame: Frame): PlacedShape {
  if (area.shape === 'matte') return { shape: 'matte', pattern: area.pattern }
  const geometry = geometryAt(area, tracks, frame)
  if (geometry.shape === 'path') return { shape: 'path', points: geometry.points }
  const track = trackOf(area, tracks)
  const keyed = keyedGeometryAt(area, frame)
  const motion = track && track.kind !== 'cling' ? followMotion(area, track, frame, keyed) : null
  if (!motion || keyed.shape === 'path') return { shape: 'closed', polygon: polygonOf(geometry) }
  // The whole outline goes through the motion, so that a box on a wall keeps to the wall's perspective.
  const still = polygonOf(keyed)
  const polygon: number[] = []
  for (let i = 0; i < still.length; i += 2) {
    const { x, y } = apply(motion, still[i]!, still[i + 1]!)
    polygon.push(x, y)
  }
  return { shape: 'closed', polygon }
}

/** The mends that are on, in order, as they are on a frame. */
export function placeMends(mends: readonly Mend[], tracks: Tracks, frame: Frame): PlacedMend[] {
  return mends
    .filter((mend) => isActiveAt(mend, frame))
    .map(({ id, fill, finish, areas }) => ({
      id,
      fill,
      finish,
      covers: areas.filter((area) => area.role === 'cover').map((area) => placeArea(area, tracks, frame)),
      holdouts: areas.filter((area) => area.role === 'holdout').map((area) => placeArea(area, tracks, frame)),
    }))
}
