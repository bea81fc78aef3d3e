/** Sources in time: where a mend copies from on a frame, and keying it. */
import {
  compose,
  keepParts,
  localParts,
  similarity,
  translationBy,
  type Matrix3,
  type Place,
} from '../geometry/transform'
import type { Frame, FrameRange } from '../time'
import type { Area } from './areas'
import { geometryAt, middleOf, numbersAt } from './keyedGeometry'
import { isKeyed, SCALE_RANGE, type Shift, type Source } from './source'
import { compact, trackMiddle, trackMotionAt, type Tracks } from './tracks'

export const NO_SHIFT: Shift = { dx: 0, dy: 0, turnDeg: 0, scale: 1 }

/** The keyed shift on a frame, before any track. */
export function keyedShiftAt({ keys, interpolation }: Source, frame: Frame): Shift {
  const [dx, dy, turnDeg, scale] = numbersAt(
    keys.map((key) => key.frame),
    (index) => [keys[index]!.dx, keys[index]!.dy, keys[index]!.turnDeg, keys[index]!.scale],
    interpolation,
    frame,
  ) as [number, number, number, number]
  return { dx, dy, turnDeg, scale: Math.min(Math.max(scale, SCALE_RANGE.min), SCALE_RANGE.max) }
}

const placeOfArea = (area: Area, tracks: Tracks, frame: Frame): Place =>
  isKeyed(area) ? middleOf(geometryAt(area, tracks, frame)) : { x: 0, y: 0 }

/** The shift as it is seen on a frame: keys, then the source's own track. */
export function shiftAt(source: Source, area: Area, tracks: Tracks, frame: Frame): Shift {
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
export function sourceFromTarget(source: Source, area: Area, tracks: Tracks, frame: Frame): Matrix3 {
  const { dx, dy, turnDeg, scale } = shiftAt(source, area, tracks, frame)
  if (turnDeg === 0 && scale === 1) return translationBy(dx, dy)
  const { x, y } = placeOfArea(area, tracks, frame)
  return compose(
    translationBy(x + dx, y + dy),
    compose(similarity(scale, (turnDeg * Math.PI) / 180, 0, 0), translationBy(-x, -y)),
  )
}

/** The keyed shift that would look like `shift` on a frame: the way back from `shiftAt`. */
function keyedFrom(source: Source, area: Area, tracks: Tracks, frame: Frame, shift: Shift): Shift {
  const [keyed, seen] = [keyedShiftAt(source, frame), shiftAt(source, area, tracks, frame)]
  // Its track turns and scales the way from the reference frame; a small difference goes back the same way.
  const turnRad = ((seen.turnDeg - keyed.turnDeg) * Math.PI) / 180
  const back = similarity(keyed.scale / seen.scale, -turnRad, 0, 0)
  const [x, y] = [shift.dx - seen.dx, shift.dy - seen.dy]
  return {
    dx: keyed.dx + back[0] * x + back[1] * y,
    dy: keyed.dy + back[3] * x + back[4] * y,
    turnDeg: keyed.turnDeg + shift.turnDeg - seen.turnDeg,
    scale: Math.min(Math.max((keyed.scale * shift.scale) / seen.scale, SCALE_RANGE.min), SCALE_RANGE.max),
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

/** One shift for the whole span. */
export const restingSource = (span: FrameRange, shift: Shift): Source => ({
  keys: [{ frame: span.firstFrame, ...shift }],
  interpolation: 'smooth',
  follow: null,
})
