import { trackedPoints } from '../motion/cling/clingCurves'
import type { Frame, FrameRange } from '../time'
import type { Geometry, PathArea } from './areas'
import { ALL_PARTS } from './basics'
import { geometryAt } from './keyedGeometry'
import { withGeometryAt, withOnlyGeometry } from './keys'
import { trackValuesAt, type Track, type Tracks } from './tracks'

const lineAt = (track: Track, frame: Frame): Geometry => ({
  shape: 'path',
  points: trackedPoints(trackValuesAt(track, frame) ?? []),
})

/**
 * A path area that takes over what a cling has found: it lies on the line and follows it.
 *
 * Where a known cling is followed anew on a part of the shot only, what was set right by hand outside that part keeps
 * looking as it did.
 *
 * @param before The tracks as they were. @param track The cling with its new rows. @param frame Where it was followed from.
 * @param followed The frames that were followed now.
 */
export function clungArea(
  area: PathArea,
  before: Tracks,
  track: Track,
  span: FrameRange,
  frame: Frame,
  followed: FrameRange,
): PathArea {
  const after: Tracks = new Map(before).set(track.id, track)
  const follow = { trackId: track.id, uses: ALL_PARTS }
  const onLine = withOnlyGeometry({ ...area, follow }, after, frame, lineAt(track, frame)) as PathArea
  // One key alone is the shape itself: nothing was set right.
  const wasClinging = area.follow?.trackId === track.id && before.has(track.id) && area.keys.length > 1
  const kept = wasClinging
    ? area.keys.filter((key) => key.frame < followed.firstFrame || key.frame > followed.lastFrame)
    : []
  if (kept.length === 0 || kept[0]!.points.length !== onLine.keys[0]!.points.length) return onLine
  const asSeen = kept.map((key) => ({ frame: key.frame, geometry: geometryAt(area, before, key.frame) }))
  const anew = [followed.firstFrame, followed.lastFrame].map((at) => ({
    frame: at,
    geometry: lineAt(track, at),
  }))
  return [...asSeen, ...anew].reduce(
    (now, key) => withGeometryAt(now, after, key.frame, key.geometry) as PathArea,
    onLine,
  )
}
