/** Sources in time: where a mend copies from on a frame, and keying it. */
import {
  apply,
  compose,
  invert,
  keepParts,
  localParts,
  similarity,
  translationBy,
  type Matrix3,
  type Place,
} from '../geometry/transform'
import type { Frame, FrameRange } from '../time'
import { isKeyed, type Area } from './areas'
import type { Follow } from './basics'
import { followMotion, geometryAt, keyedGeometryAt, middleOf, numbersAt } from './keyedGeometry'
import { SCALE_RANGE, type Shift, type Source } from './source'
import { compact, trackMiddle, trackMotionAt, type Tracks } from './tracks'

export const NO_SHIFT: Shift = { dx: 0, dy: 0, turnDeg: 0, scale: 1 }

const scaleWithin = (scale: number): number => Math.min(Math.max(scale, SCALE_RANGE.min), SCALE_RANGE.max)

/** The keyed shift on a frame, before any track. */
export function keyedShiftAt({ keys, interpolation }: Source, frame: Frame): Shift {
  const [dx, dy, turnDeg, scale] = numbersAt(
    keys.map((key) => key.frame),
    (index) => [keys[index]!.dx, keys[index]!.dy, keys[index]!.turnDeg, keys[index]!.scale],
    interpolation,
    frame,
  ) as [number, number, number, number]
  return { dx, dy, turnDeg, scale: scaleWithin(scale) }
}

export const placeOfArea = (area: Area, tracks: Tracks, frame: Frame): Place =>
  isKeyed(area) ? middleOf(geometryAt(area, tracks, frame)) : { x: 0, y: 0 }

/** The motion that area and source share, where both ride on the same track: the copy then turns, swells and skews as its surroundings do. */
function sharedMotion(source: Source, area: Area, tracks: Tracks, frame: Frame): Matrix3 | null {
  const track = source.follow ? tracks.get(source.follow.trackId) : undefined
  if (!track || track.kind === 'cling' || !isKeyed(area) || area.follow?.trackId !== track.id) return null
  return followMotion(area, track, frame, keyedGeometryAt(area, frame))
}

/** A shift as a matrix: turned and scaled about the place that is shifted. */
const shiftMatrix = ({ x, y }: Place, { dx, dy, turnDeg, scale }: Shift): Matrix3 =>
  turnDeg === 0 && scale === 1
    ? translationBy(dx, dy)
    : compose(
        translationBy(x + dx, y + dy),
        compose(similarity(scale, (turnDeg * Math.PI) / 180, 0, 0), translationBy(-x, -y)),
      )

/** From the area to its source where both ride on one track: back to its reference frame, over by the keyed shift, and here again. */
function ridden(source: Source, area: Area, tracks: Tracks, frame: Frame): Matrix3 | null {
  const motion = sharedMotion(source, area, tracks, frame)
  const back = motion && invert(motion)
  if (!back) return null
  const here = placeOfArea(area, tracks, frame)
  const there = apply(back, here.x, here.y)
  return compose(motion, compose(shiftMatrix(there, keyedShiftAt(source, frame)), back))
}

/** The shift as it is seen on a frame: keys, then the source's own track. */
export function shiftAt(source: Source, area: Area, tracks: Tracks, frame: Frame): Shift {
  const whole = ridden(source, area, tracks, frame)
  if (whole) {
    const at = placeOfArea(area, tracks, frame)
    const { to, scale, turnRad } = localParts(whole, at.x, at.y)
    return { dx: to.x - at.x, dy: to.y - at.y, turnDeg: (turnRad * 180) / Math.PI, scale }
  }
  const keyed = keyedShiftAt(source, frame)
  const track = source.follow ? tracks.get(source.follow.trackId) : undefined
  const motion = track && track.kind !== 'cling' ? trackMotionAt(track, frame) : null
  if (!track || !motion || !source.follow) return keyed
  const from = placeOfArea(area, tracks, track.referenceFrame)
  const here = placeOfArea(area, tracks, frame)
  const { to, scale, turnRad } = localParts(
    keepParts(
      motion,
      source.follow.uses.position ? trackMiddle(track) : { x: from.x + keyed.dx, y: from.y + keyed.dy },
      source.follow.uses,
    ),
    from.x + keyed.dx,
    from.y + keyed.dy,
  )
  return {
    dx: to.x - here.x,
    dy: to.y - here.y,
    turnDeg: keyed.turnDeg + (turnRad * 180) / Math.PI,
    scale: keyed.scale * scale,
  }
}

/** Takes a place of the area to the place that it is copied from. */
export const sourceFromTarget = (source: Source, area: Area, tracks: Tracks, frame: Frame): Matrix3 =>
  ridden(source, area, tracks, frame) ??
  shiftMatrix(placeOfArea(area, tracks, frame), shiftAt(source, area, tracks, frame))

/** The keyed shift that would look like `shift` on a frame: the way back from `shiftAt`. */
function keyedFrom(source: Source, area: Area, tracks: Tracks, frame: Frame, shift: Shift): Shift {
  const [keyed, seen] = [keyedShiftAt(source, frame), shiftAt(source, area, tracks, frame)]
  const motion = sharedMotion(source, area, tracks, frame)
  const out = motion && invert(motion)
  if (out) {
    const at = placeOfArea(area, tracks, frame)
    const [from, to] = [apply(out, at.x, at.y), apply(out, at.x + shift.dx, at.y + shift.dy)]
    return {
      dx: to.x - from.x,
      dy: to.y - from.y,
      turnDeg: keyed.turnDeg + shift.turnDeg - seen.turnDeg,
      scale: scaleWithin((keyed.scale * shift.scale) / seen.scale),
    }
  }
  // Its track turns and scales the way from the reference frame; a small difference goes back the same way.
  const turnRad = ((seen.turnDeg - keyed.turnDeg) * Math.PI) / 180
  const back = similarity(keyed.scale / seen.scale, -turnRad, 0, 0)
  const [x, y] = [shift.dx - seen.dx, shift.dy - seen.dy]
  return {
    dx: keyed.dx + back[0] * x + back[1] * y,
    dy: keyed.dy + back[3] * x + back[4] * y,
    turnDeg: keyed.turnDeg + shift.turnDeg - seen.turnDeg,
    scale: scaleWithin((keyed.scale * shift.scale) / seen.scale),
  }
}

/** A source keyed on a frame. */
export function withShiftAt(
  source: Source | null,
  area: Area,
  tracks: Tracks,
  frame: Frame,
  shift: Shift,
): Source {
  const rounded = (one: Shift): Shift => ({
    dx: compact(one.dx),
    dy: compact(one.dy),
    turnDeg: compact(one.turnDeg),
    scale: compact(one.scale),
  })
  if (!source) return { keys: [{ frame, ...rounded(shift) }], interpolation: 'smooth', follow: null }
  const keyed = rounded(keyedFrom(source, area, tracks, frame, shift))
  const others = source.keys.filter((key) => key.frame !== frame)
  return { ...source, keys: [...others, { frame, ...keyed }].sort((a, b) => a.frame - b.frame) }
}

/** One shift for the whole span. @param like  A source that it travels like. */
export const restingSource = (
  span: FrameRange,
  { dx, dy, turnDeg, scale }: Shift,
  { interpolation }: Pick<Source, 'interpolation'> = { interpolation: 'smooth' },
): Source => ({ keys: [{ frame: span.firstFrame, dx, dy, turnDeg, scale }], interpolation, follow: null })

/** What a source rides on so that it goes with the ground as its area does: the area's own track. */
export const ridesWith = (area: Area, tracks: Tracks): Follow | null => {
  const track = area.follow ? tracks.get(area.follow.trackId) : undefined
  return track && track.kind !== 'cling' ? area.follow : null
}
