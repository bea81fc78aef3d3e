/**
 * An area that goes with the thing it was drawn round: its keys say what shape the thing has, a track of its own where it is between them.
 *
 * Where a thing comes into the picture or leaves it, its outline is not its shape but what the border leaves of it: between such a key and
 * one that shows it whole, the whole shape goes along.
 */
import type { MendEdit, ShotState } from './edits'
import type { Area, Geometry, KeyedArea } from './areas'
import type { Follow } from './basics'
import { freeName, together } from './commands'
import { onKeyed } from './areaCommands'
import { geometryAt, keyedGeometryAt, middleOf, movedBy, polygonOf, trackOf } from './keyedGeometry'
import { withGeometryAt } from './keys'
import type { MendRecord } from './mend'
import { addTrack, setTrack } from './trackCommands'
import { newTrack } from './follow'
import { rowOf, type Tracks } from './tracks'
import { boundsOfPolygon, type Bounds } from '../geometry/polygon'
import { translationBy, type Place } from '../geometry/transform'
import type { Size } from '../image/rect'
import type { TrackedFrame } from '../motion/runTrack'
import type { ExpectedOutline } from '../motion/thing/expectedOutline'
import type { FrameRange } from '../time'

/** So near to the border an outline is cut off by it, px. */
const AT_BORDER_PX = 3
/** Cut off, it is smaller by more than this than where it is whole. */
const SMALLER = 0.75

/** A thing's area is closed: what lies on a line clings. */
export const isOfThing = (area: Area): area is KeyedArea => area.shape !== 'matte' && area.shape !== 'path'

/** What to look for: the area as its keys alone would have it, on every frame of a range. */
export function expectedOutlines(
  area: KeyedArea,
  tracks: Tracks,
  picture: Size,
  { firstFrame, lastFrame }: FrameRange,
): ExpectedOutline[] {
  const whole = withWholeKeys(atRest(area, tracks), picture)
  const drawn = new Set(area.keys.map(({ frame }) => frame))
  return Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => {
    const frame = firstFrame + i
    const shape = closed(keyedGeometryAt(whole, frame))
    return { frame, polygon: polygonOf(shape), ...middleOf(shape), isDrawn: drawn.has(frame) }
  })
}

/**
 * The area with its thing's track, as one step: on frames with keys it stays as it was drawn. Followed again, the track stays the same one.
 * @param frames  Where the thing was found.
 */
export function followThingFound(
  { tracks }: ShotState,
  mend: MendRecord,
  area: KeyedArea,
  picture: Size,
  frames: readonly TrackedFrame[],
  idOfNew: string,
): MendEdit {
  const known = trackOf(area, tracks)
  const before = known?.kind === 'thing' ? known : null
  const { id, name } = before ?? { id: idOfNew, name: freeName(tracks, 'Thing') }
  const reference = area.keys[0]!.frame
  const whole = withWholeKeys(atRest(area, tracks), picture)
  const begin = middleOf(keyedGeometryAt(whole, reference))
  const track = { ...newTrack(id, 'thing', name, reference, [begin.x, begin.y]), frames: frames.map(rowOf) }
  const follow: Follow = { trackId: id, uses: { position: true, rotation: false, scale: false, skew: false } }
  // Every key as it would lie on the reference frame: its shape alone changes, the track takes it where it is.
  const keys = whole.keys.map(({ frame }) => ({
    frame,
    geometry: movedTo(keyedGeometryAt(whole, frame), begin),
  }))
  const edit = onKeyed(mend, area.id, `${mend.name} follows ${name}`, (now) => ({
    ...now,
    follow,
    keys: keys.map(({ frame, geometry: { shape: _shape, ...rest } }) => ({ frame, ...rest })) as never,
  }))
  return together(
    [before ? setTrack(before, track, name) : addTrack(track), edit],
    `${mend.name} follows ${name}`,
  )
}

const closed = (geometry: Geometry): Exclude<Geometry, { shape: 'path' }> => {
  if (geometry.shape === 'path') throw new RangeError('a path goes along a line and has no outline')
  return geometry
}

function movedTo(geometry: Geometry, { x, y }: Place): Geometry {
  const middle = middleOf(geometry)
  return movedBy(translationBy(x - middle.x, y - middle.y), geometry)
}

/** As it lies on the frames of its keys, with what it followed in the keys. */
const atRest = (area: KeyedArea, tracks: Tracks): KeyedArea =>
  area.keys.reduce<KeyedArea>(
    (resting, { frame }) => withGeometryAt(resting, tracks, frame, geometryAt(area, tracks, frame)),
    { ...area, follow: null },
  )

function withWholeKeys(area: KeyedArea, picture: Size): KeyedArea {
  let whole = area
  for (let i = 1; i < area.keys.length; i++) {
    const [before, after] = [area.keys[i - 1]!.frame, area.keys[i]!.frame]
    if (after - before < 2) continue
    const [a, b] = [before, after].map((frame) => closed(keyedGeometryAt(area, frame))) as [Shape, Shape]
    const [comes, leaves] = [cutOff(a, b, picture), cutOff(b, a, picture)]
    if (comes && !leaves) whole = withGeometryAt(whole, NONE, before + 1, comes)
    else if (leaves && !comes) whole = withGeometryAt(whole, NONE, after - 1, leaves)
  }
  return whole
}

type Shape = Exclude<Geometry, { shape: 'path' }>
const NONE: Tracks = new Map()

/** The whole outline laid so that its inner edge is that of the cut one; null where that is not cut off. */
function cutOff(cutShape: Shape, wholeShape: Shape, { width, height }: Size): Geometry | null {
  const [cut, whole]: Bounds[] = [cutShape, wholeShape].map((shape) => boundsOfPolygon(polygonOf(shape)))
  const isNarrow = cut!.right - cut!.left < SMALLER * (whole!.right - whole!.left)
  const isLow = cut!.bottom - cut!.top < SMALLER * (whole!.bottom - whole!.top)
  const by = (dx: number, dy: number) => movedBy(translationBy(dx, dy), wholeShape)
  // Cut off at a side it is lower too: its height there tells nothing of where it goes.
  if (isNarrow && cut!.left <= AT_BORDER_PX) return by(cut!.right - whole!.right, 0)
  if (isNarrow && cut!.right >= width - AT_BORDER_PX) return by(cut!.left - whole!.left, 0)
  if (isLow && cut!.top <= AT_BORDER_PX) return by(0, cut!.bottom - whole!.bottom)
  if (isLow && cut!.bottom >= height - AT_BORDER_PX) return by(0, cut!.top - whole!.top)
  return null
}
