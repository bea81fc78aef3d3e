/** What an artist can do to the place that a mend copies from. */
import type { Frame } from '../time'
import type { Area } from './areas'
import type { Follow } from './basics'
import type { MendEdit, ShotState } from './edits'
import type { MendRecord } from './mend'
import { restingSource, shiftAt, withShiftAt } from './sourceKeys'
import type { Shift, Source } from './source'
import type { Tracks } from './tracks'
import { recordEdit } from './recordEdit'

/** Where a mend copies from, as it is seen on a frame; keyed there. */
export function setShift(
  mend: MendRecord,
  areaId: string,
  tracks: Tracks,
  frame: Frame,
  shift: Shift,
  what = 'Source',
): MendEdit {
  const area = mend.areas.find((one) => one.id === areaId) ?? mend.areas[0]!
  return recordEdit(
    mend,
    { ...mend, source: withShiftAt(mend.source, area, tracks, frame, shift) },
    `${what} of ${mend.name} at ${frame}`,
  )
}

/** A source that rests against the area, in place of whatever there was. */
export const setSource = (mend: MendRecord, source: Source | null, what: string): MendEdit =>
  recordEdit(mend, { ...mend, source }, `${what}, ${mend.name}`)

export const setSourceInterpolation = (mend: MendRecord, interpolation: Source['interpolation']): MendEdit =>
  mend.source
    ? setSource(mend, { ...mend.source, interpolation }, `Source travels ${interpolation}`)
    : recordEdit(mend, mend, `Source of ${mend.name}`)

/** Without the source's keys on some frames; one always stays. */
export function removeSourceKeys(mend: MendRecord, frames: readonly Frame[]): MendEdit | null {
  if (!mend.source) return null
  const kept = mend.source.keys.filter((key) => !frames.includes(key.frame))
  return setSource(
    mend,
    { ...mend.source, keys: kept.length > 0 ? kept : mend.source.keys.slice(0, 1) },
    'Remove keys of the source',
  )
}

/**
 * A source that rides on a track, or on nothing, and lies somewhere on a frame.
 * @param area  As it follows then. @param seen  Where the source is seen on the frame.
 */
export function ridingSource(
  source: Source,
  seen: Shift,
  area: Area,
  tracks: Tracks,
  follow: Follow | null,
  frame: Frame,
): Source {
  const resting: Source = { ...source, keys: [{ frame: source.keys[0]!.frame, ...seen }], follow }
  if (!follow) return resting
  const keys = withShiftAt(resting, area, tracks, frame, seen).keys.filter((key) => key.frame === frame)
  return { ...resting, keys }
}

/** Lets the source follow a track of its own, or nothing. On the frame looked at it stays where it is. */
export function setSourceFollow(
  { tracks }: ShotState,
  mend: MendRecord,
  areaId: string,
  follow: Follow | null,
  frame: Frame,
): MendEdit | null {
  const area = mend.areas.find((one) => one.id === areaId) ?? mend.areas[0]!
  if (!mend.source) return null
  const seen = shiftAt(mend.source, area, tracks, frame)
  const riding = ridingSource(restingSource(mend.span, seen, mend.source), seen, area, tracks, follow, frame)
  return setSource(
    mend,
    riding,
    follow ? `Source follows ${tracks.get(follow.trackId)?.name ?? 'a track'}` : 'Source follows nothing',
  )
}
