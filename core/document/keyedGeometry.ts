/** Areas in time: what a shape looks like on a frame, between keys and along with a track. */
import { flattenBox, flattenEllipse, flattenOutline } from '../geometry/outline'
import { createSpline, heldSplineValue } from '../geometry/spline'
import { apply, invert, keepParts, localParts, type Matrix3, type Place } from '../geometry/transform'
import type { Frame } from '../time'
import { SIZE_PX, WIDTH_PX, type Geometry, type KeyedArea } from './areas'
import type { Follow } from './basics'
import {
  clingPoint,
  isSurface,
  surfaceMotionBetween,
  trackMiddle,
  trackMotionAt,
  visibilityAt,
  type Track,
  type Tracks,
} from './tracks'

/** A geometry as a list of numbers: what runs through keys and is nudged. */
export function numbersOf(geometry: Geometry): number[] {
  switch (geometry.shape) {
    case 'path':
      return geometry.points.flatMap(({ x, y, widthPx }) => [x, y, widthPx])
    case 'ellipse':
      return [geometry.x, geometry.y, geometry.radiusXPx, geometry.radiusYPx, geometry.turnDeg]
    case 'box':
      return [
        geometry.x,
        geometry.y,
        geometry.widthPx,
        geometry.heightPx,
        geometry.turnDeg,
        geometry.cornerPx,
      ]
    case 'outline':
      return geometry.points.flatMap(({ x, y, inX, inY, outX, outY }) => [x, y, inX, inY, outX, outY])
  }
}

const within = (value: number, { min, max }: { readonly min: number; readonly max: number }) =>
  Math.min(Math.max(value, min), max)

/** The way back from `numbersOf`; sizes are brought into their limits. */
export function geometryFrom(shape: Geometry['shape'], n: readonly number[]): Geometry {
  switch (shape) {
    case 'path':
      return {
        shape,
        points: Array.from({ length: n.length / 3 }, (_, i) => ({
          x: n[3 * i]!,
          y: n[3 * i + 1]!,
          widthPx: within(n[3 * i + 2]!, WIDTH_PX),
        })),
      }
    case 'ellipse':
      return {
        shape,
        x: n[0]!,
        y: n[1]!,
        radiusXPx: within(n[2]!, SIZE_PX),
        radiusYPx: within(n[3]!, SIZE_PX),
        turnDeg: n[4]!,
      }
    case 'box':
      return {
        shape,
        x: n[0]!,
        y: n[1]!,
        widthPx: within(n[2]!, SIZE_PX),
        heightPx: within(n[3]!, SIZE_PX),
        turnDeg: n[4]!,
        cornerPx: within(n[5]!, { min: 0, max: SIZE_PX.max }),
      }
    case 'outline':
      return {
        shape,
        points: Array.from({ length: n.length / 6 }, (_, i) => {
          const [x, y, inX, inY, outX, outY] = n.slice(6 * i, 6 * i + 6) as [
            number,
            number,
            number,
            number,
            number,
            number,
          ]
          return { x, y, inX, inY, outX, outY }
        }),
      }
  }
}

/** The geometry of one key. */
export function geometryOfKey(area: KeyedArea, index: number): Geometry {
  const { frame: _frame, ...rest } = area.keys[index]!
  return { shape: area.shape, ...rest } as Geometry
}

/**
 * Numbers on a frame, run through keys: on a key its own; between keys each on a spline that keeps to their range ("smooth") or straight from
 * key to key ("linear"); before the first and after the last they rest.
 */
export function numbersAt(
  frames: readonly Frame[],
  rows: (index: number) => readonly number[],
  interpolation: KeyedArea['interpolation'],
  frame: Frame,
): readonly number[] {
  const last = frames.length - 1
  if (frame <= frames[0]!) return rows(0)
  if (frame >= frames[last]!) return rows(last)
  const after = frames.findIndex((one) => one >= frame)
  if (frames[after] === frame) return rows(after)
  const used = interpolation === 'linear' ? [after - 1, after] : frames.map((_, index) => index)
  const knots = used.map((index) => frames[index]!)
  const columns = used.map(rows)
  return columns[0]!.map((_, i) =>
    heldSplineValue(
      createSpline(
        knots,
        columns.map((column) => column[i]!),
      ),
      frame,
    ),
  )
}

/** The keyed shape on a frame, before any track. */
export function keyedGeometryAt(area: KeyedArea, frame: Frame): Geometry {
  const { keys, interpolation } = area
  const numbers = numbersAt(
    keys.map((key) => key.frame),
    (index) => numbersOf(geometryOfKey(area, index)),
    interpolation,
    frame,
  )
  return geometryFrom(area.shape, numbers)
}

export function trackOf(area: KeyedArea, tracks: Tracks): Track | null {
  return area.follow ? (tracks.get(area.follow.trackId) ?? null) : null
}

/** The middle of a shape: where its turn and scale are taken. */
export function middleOf(geometry: Geometry): Place {
  if (geometry.shape === 'ellipse' || geometry.shape === 'box') return { x: geometry.x, y: geometry.y }
  const { points } = geometry
  return {
    x: points.reduce((sum, point) => sum + point.x, 0) / points.length,
    y: points.reduce((sum, point) => sum + point.y, 0) / points.length,
  }
}

/** The motion that an area takes over from its track, from the reference frame to this one. */
export function followMotion(area: KeyedArea, track: Track, frame: Frame, keyed: Geometry): Matrix3 | null {
  if (!area.follow) return null
  if (track.kind === 'surface') {
    const middle = middleOf(keyed)
    const motion = surfaceMotionBetween(track, track.referenceFrame, frame, middle)
    return motion && keepParts(motion, middle, area.follow.uses)
  }
  const motion = trackMotionAt(track, frame)
  if (!motion) return null
  // Carried along, a shape goes where the track's own middle goes; otherwise it turns and swells on the spot.
  const pivot = area.follow.uses.position ? trackMiddle(track) : middleOf(keyed)
  return keepParts(motion, pivot, area.follow.uses)
}

/** How far an area is visible on a frame, 0 to 1: what lies on a surface that turns goes with that. */
export function areaVisibility(area: KeyedArea, tracks: Tracks, frame: Frame): number {
  const track = trackOf(area, tracks)
  return track ? visibilityAt(track, frame, middleOf(keyedGeometryAt(area, frame))) : 1
}

/** Whether each point of a shape goes with the surface where it lies: the lips open, the head turns. */
export const isBentBy = (track: Track, { uses }: Follow, shape: Geometry['shape']): boolean =>
  isSurface(track) && uses.skew && (shape === 'outline' || shape === 'path')

/** A shape whose points go with the surface, each from where it lies on one frame. */
function bentBy(track: Track, from: Frame, to: Frame, geometry: Geometry): Geometry {
  if (geometry.shape !== 'outline' && geometry.shape !== 'path') return geometry
  const points = geometry.points.map((point) => {
    const motion = surfaceMotionBetween(track, from, to, point)
    const moved = motion && movedBy(motion, { shape: geometry.shape, points: [point] } as Geometry)
    return moved ? (moved as typeof geometry).points[0]! : point
  })
  return { shape: geometry.shape, points } as Geometry
}

/** The way back along a surface is not what leads there from the other side: so often it is set right. */
const BENT_ROUNDS = 6

/** The shape of the reference frame that a surface bends to `geometry`. */
function unbentBy(track: Track, frame: Frame, geometry: Geometry): Geometry {
  const backFrom = (there: Geometry) => numbersOf(bentBy(track, frame, track.referenceFrame, there))
  const first = backFrom(geometry)
  let keyed = geometryFrom(geometry.shape, first)
  for (let round = 0; round < BENT_ROUNDS; round++) {
    const again = backFrom(bentBy(track, track.referenceFrame, frame, keyed))
    keyed = geometryFrom(
      geometry.shape,
      numbersOf(keyed).map((value, i) => value + first[i]! - again[i]!),
    )
  }
  return keyed
}

/** The shape on a frame, as handles show it: keys, then the track. A plane's skew moves points, not turns and radii. */
export function geometryAt(area: KeyedArea, tracks: Tracks, frame: Frame): Geometry {
  const keyed = keyedGeometryAt(area, frame)
  const track = trackOf(area, tracks)
  if (!track) return keyed
  if (track.kind === 'cling')
    return keyed.shape === 'path' ? clung(track, track.referenceFrame, frame, keyed) : keyed
  if (isBentBy(track, area.follow!, keyed.shape)) return bentBy(track, track.referenceFrame, frame, keyed)
  const motion = followMotion(area, track, frame, keyed)
  return motion ? movedBy(motion, keyed) : keyed
}

/** The keyed shape that would look like `geometry` on a frame: the way back from `geometryAt`. */
export function keyedFrom(area: KeyedArea, tracks: Tracks, frame: Frame, geometry: Geometry): Geometry {
  const track = trackOf(area, tracks)
  if (!track) return geometry
  if (track.kind === 'cling')
    return geometry.shape === 'path' ? clung(track, frame, track.referenceFrame, geometry) : geometry
  if (isBentBy(track, area.follow!, geometry.shape)) return unbentBy(track, frame, geometry)
  const motion = followMotion(area, track, frame, keyedGeometryAt(area, frame))
  const back = motion && invert(motion)
  return back ? movedBy(back, geometry) : geometry
}

const clung = (track: Track, from: Frame, to: Frame, geometry: Geometry & { shape: 'path' }): Geometry => ({
  shape: 'path',
  points: geometry.points.map((point) => clingPoint(track, from, to, point)),
})

export function movedBy(m: Matrix3, geometry: Geometry): Geometry {
  switch (geometry.shape) {
    case 'path':
      return {
        shape: 'path',
        points: geometry.points.map(({ x, y, widthPx }) => {
          const { to, scale } = localParts(m, x, y)
          return { ...to, widthPx: within(widthPx * scale, WIDTH_PX) }
        }),
      }
    case 'ellipse':
    case 'box': {
      const { to, scale, turnRad } = localParts(m, geometry.x, geometry.y)
      const turnDeg = geometry.turnDeg + (turnRad * 180) / Math.PI
      if (geometry.shape === 'ellipse') {
        return {
          ...geometry,
          ...to,
          turnDeg,
          radiusXPx: within(geometry.radiusXPx * scale, SIZE_PX),
          radiusYPx: within(geometry.radiusYPx * scale, SIZE_PX),
        }
      }
      return {
        ...geometry,
        ...to,
        turnDeg,
        widthPx: within(geometry.widthPx * scale, SIZE_PX),
        heightPx: within(geometry.heightPx * scale, SIZE_PX),
        cornerPx: geometry.cornerPx * scale,
      }
    }
    case 'outline':
      return {
        shape: 'outline',
        points: geometry.points.map((point) => {
          const at = apply(m, point.x, point.y)
          const before = apply(m, point.x + point.inX, point.y + point.inY)
          const after = apply(m, point.x + point.outX, point.y + point.outY)
          return {
            ...at,
            inX: before.x - at.x,
            inY: before.y - at.y,
            outX: after.x - at.x,
            outY: after.y - at.y,
          }
        }),
      }
  }
}

/** A closed shape as a polygon, x, y pairs. */
export function polygonOf(geometry: Exclude<Geometry, { shape: 'path' }>): number[] {
  switch (geometry.shape) {
    case 'ellipse':
      return flattenEllipse(geometry.x, geometry.y, geometry.radiusXPx, geometry.radiusYPx, geometry.turnDeg)
    case 'box':
      return flattenBox(
        geometry.x,
        geometry.y,
        geometry.widthPx,
        geometry.heightPx,
        geometry.turnDeg,
        geometry.cornerPx,
      )
    case 'outline':
      return flattenOutline(geometry.points)
  }
}
