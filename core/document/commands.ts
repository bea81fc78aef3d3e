/** What an artist can do to the mends of a shot: each command makes an edit and changes nothing. */
import type { Frame, FrameRange } from '../time'
import type { Area, Follow, Geometry, KeyedArea } from './areas'
import type { Change, MendEdit, MendRecords, ShotState } from './edits'
import { geometryAt, movedBy } from './keyedGeometry'
import { KINDS } from './kinds'
import {
  withGeometryAt,
  withKeysMoved,
  withKeysPasted,
  withOnlyGeometry,
  withoutKeysAt,
  withPointBent,
  withPointInserted,
  withPointRemoved,
} from './keys'
import {
  startingFill,
  startingFinish,
  type FillSettings,
  type Finish,
  type MendKind,
  type MendRecord,
  type Span,
} from './mend'
import { translationBy } from '../geometry/transform'
import { restingSource, shiftAt, withShiftAt } from './sourceKeys'
import type { Shift, Source } from './source'
import type { Track, Tracks } from './tracks'

const change = (before: MendRecord, after: MendRecord, label: string): MendEdit => ({
  label,
  changes: [{ id: before.id, before, after }],
  tracks: [],
})

/** A new area drawn on one frame; it rests as drawn, pinned at the start of its span. */
export function drawnArea(
  id: string,
  geometry: Geometry,
  frame: Frame,
  role: Area['role'] = 'cover',
): KeyedArea {
  const { shape, ...rest } = geometry
  const keys = [{ frame, ...rest }]
  return { shape, id, role, interpolation: 'smooth', follow: null, keys } as unknown as KeyedArea
}

/** A mend of a kind, with its first area drawn on one frame. */
export function addMend(
  records: MendRecords,
  kind: MendKind,
  id: string,
  areas: readonly Area[],
  range: FrameRange,
): MendEdit {
  const after: MendRecord = {
    id,
    kind,
    name: freeName(records, KINDS[kind].title),
    isOn: true,
    areas: [...areas],
    fill: startingFill(kind),
    source: null,
    finish: startingFinish(kind),
    span: { firstFrame: range.firstFrame, lastFrame: range.lastFrame, rampInFrames: 0, rampOutFrames: 0 },
    stackIndex: stackIndexAfterLast(records),
  }
  return { label: `New ${after.name}`, changes: [{ id, before: null, after }], tracks: [] }
}

export const addArea = (mend: MendRecord, area: Area): MendEdit =>
  change(
    mend,
    { ...mend, areas: [...mend.areas, area] },
    `Add ${area.role === 'holdout' ? 'a holdout' : `a ${area.shape}`} to ${mend.name}`,
  )

/** The last area cannot go: then the mend itself should. */
export const removeArea = (mend: MendRecord, areaId: string): MendEdit | null =>
  mend.areas.length > 1
    ? change(
        mend,
        { ...mend, areas: mend.areas.filter((area) => area.id !== areaId) },
        `Remove an area from ${mend.name}`,
      )
    : null

const withArea = (mend: MendRecord, areaId: string, act: (area: Area) => Area): MendRecord => ({
  ...mend,
  areas: mend.areas.map((area) => (area.id === areaId ? act(area) : area)),
})

const onKeyed = (
  mend: MendRecord,
  areaId: string,
  label: string,
  act: (area: KeyedArea) => KeyedArea,
): MendEdit =>
  change(
    mend,
    withArea(mend, areaId, (area) => (area.shape === 'matte' ? area : act(area))),
    label,
  )

export const setGeometry = (
  mend: MendRecord,
  areaId: string,
  tracks: Tracks,
  frame: Frame,
  geometry: Geometry,
  what = 'Move',
): MendEdit =>
  onKeyed(mend, areaId, `${what} ${mend.name} at ${frame}`, (area) =>
    withGeometryAt(area, tracks, frame, geometry),
  )

export const insertPoint = (mend: MendRecord, areaId: string, after: number, share: number): MendEdit =>
  onKeyed(mend, areaId, `Add a point to ${mend.name}`, (area) => withPointInserted(area, after, share))

export const removePoint = (mend: MendRecord, areaId: string, index: number): MendEdit =>
  onKeyed(mend, areaId, `Remove a point from ${mend.name}`, (area) => withPointRemoved(area, index))

export const bendPoint = (
  mend: MendRecord,
  areaId: string,
  index: number,
  bend: 'smooth' | 'corner',
): MendEdit =>
  onKeyed(mend, areaId, `Make a point of ${mend.name} ${bend === 'corner' ? 'a corner' : 'smooth'}`, (area) =>
    withPointBent(area, index, bend),
  )

export const removeKeys = (mend: MendRecord, areaId: string, frames: readonly Frame[]): MendEdit =>
  onKeyed(
    mend,
    areaId,
    `Remove ${frames.length === 1 ? `the key at ${frames[0]}` : `${frames.length} keys`} from ${mend.name}`,
    (area) => withoutKeysAt(area, frames),
  )

export const moveKeys = (mend: MendRecord, areaId: string, frames: readonly Frame[], by: number): MendEdit =>
  onKeyed(
    mend,
    areaId,
    `Move ${frames.length === 1 ? 'a key' : `${frames.length} keys`} of ${mend.name} by ${by} frames`,
    (area) => withKeysMoved(area, frames, by, mend.span),
  )

/** Keys copied to another frame, of this area or of another mend's. Null where the shapes do not fit. */
export function pasteKeys(
  mend: MendRecord,
  areaId: string,
  from: KeyedArea,
  frames: readonly Frame[],
  to: Frame,
): MendEdit | null {
  const target = mend.areas.find((area) => area.id === areaId)
  if (!target || target.shape === 'matte') return null
  const pasted = withKeysPasted(target, from, frames, to)
  return (
    pasted &&
    change(
      mend,
      withArea(mend, areaId, () => pasted),
      `Paste ${frames.length === 1 ? 'a key' : `${frames.length} keys`} into ${mend.name}`,
    )
  )
}

export const setInterpolation = (
  mend: MendRecord,
  areaId: string,
  interpolation: Area['interpolation'],
): MendEdit =>
  change(
    mend,
    withArea(mend, areaId, (area) => ({ ...area, interpolation })),
    `Travel ${interpolation}, ${mend.name}`,
  )

export const setRole = (mend: MendRecord, areaId: string, role: Area['role']): MendEdit =>
  change(
    mend,
    withArea(mend, areaId, (area) => ({ ...area, role })),
    `${role === 'holdout' ? 'Hold out' : 'Cover'} an area of ${mend.name}`,
  )

export const setFillParam = (mend: MendRecord, name: string, value: unknown, title: string): MendEdit =>
  change(
    mend,
    { ...mend, fill: { ...mend.fill, params: { ...mend.fill.params, [name]: value } } },
    `${title} of ${mend.name}`,
  )

export const setFill = (mend: MendRecord, fill: FillSettings, title: string): MendEdit =>
  change(mend, { ...mend, fill }, `Fill of ${mend.name}: ${title}`)

export const setFinish = (mend: MendRecord, part: Partial<Finish>, title: string): MendEdit =>
  change(mend, { ...mend, finish: { ...mend.finish, ...part } }, `${title} of ${mend.name}`)

/** An area that starts later is pinned again at its new start when it is next edited. */
export const setSpan = (mend: MendRecord, span: Span): MendEdit =>
  change(mend, { ...mend, span }, `Span of ${mend.name}`)

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
  return change(
    mend,
    { ...mend, source: withShiftAt(mend.source, area, tracks, frame, shift) },
    `${what} of ${mend.name} at ${frame}`,
  )
}

/** A source that rests against the area, in place of whatever there was. */
export const setSource = (mend: MendRecord, source: Source | null, what: string): MendEdit =>
  change(mend, { ...mend, source }, `${what}, ${mend.name}`)

export const setSourceInterpolation = (mend: MendRecord, interpolation: Source['interpolation']): MendEdit =>
  mend.source
    ? setSource(mend, { ...mend.source, interpolation }, `Source travels ${interpolation}`)
    : change(mend, mend, `Source of ${mend.name}`)

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

/** Lets the source follow a track of its own, or nothing. On the frame looked at it stays where it is. */
export function setSourceFollow(
  state: ShotState,
  mend: MendRecord,
  areaId: string,
  follow: Follow | null,
  frame: Frame,
): MendEdit | null {
  const area = mend.areas.find((one) => one.id === areaId) ?? mend.areas[0]!
  if (!mend.source) return null
  const seen = shiftAt(mend.source, area, state.tracks, frame)
  const resting: Source = {
    ...restingSource(mend.span, seen),
    interpolation: mend.source.interpolation,
    follow,
  }
  const source = follow
    ? {
        ...resting,
        keys: withShiftAt(resting, area, state.tracks, frame, seen).keys.filter((key) => key.frame === frame),
      }
    : resting
  return setSource(
    mend,
    source,
    follow
      ? `Source follows ${state.tracks.get(follow.trackId)?.name ?? 'a track'}`
      : 'Source follows nothing',
  )
}

/**
 * From a frame on another mend of the same thing takes over, over so many frames: a copy that lies right on top and
 * comes bit by bit while the first stays on beneath it, so that the plate never shows through.
 */
export function handOver(
  records: MendRecords,
  mend: MendRecord,
  id: string,
  frame: Frame,
  frames: number,
): MendEdit | null {
  const { firstFrame, lastFrame } = mend.span
  if (frame <= firstFrame || frame > lastFrame) return null
  const rampInFrames = Math.min(frames, lastFrame - frame)
  const before: MendRecord = {
    ...mend,
    span: { ...mend.span, lastFrame: Math.max(frame - 1, frame + rampInFrames - 1), rampOutFrames: 0 },
  }
  const after: MendRecord = {
    ...mend,
    id,
    name: freeName(records, mend.name.replace(/ \d+$/, '')),
    span: { ...mend.span, firstFrame: frame, rampInFrames },
    stackIndex: stackIndexBetween(records, mend.stackIndex),
  }
  return {
    label: `Hand ${mend.name} over at ${frame}`,
    changes: [
      { id: mend.id, before: mend, after: before },
      { id, before: null, after },
    ],
    tracks: [],
  }
}

/** Two mends of one: the second from this frame on, so that either can be changed by itself. Nothing looks different at first. */
export function splitMend(records: MendRecords, mend: MendRecord, id: string, frame: Frame): MendEdit | null {
  const edit = handOver(records, mend, id, frame, 0)
  return edit && { ...edit, label: `Split ${mend.name} at ${frame}` }
}

export const setOn = (mend: MendRecord, isOn: boolean): MendEdit =>
  change(mend, { ...mend, isOn }, `${mend.name} ${isOn ? 'on' : 'off'}`)

export const rename = (mend: MendRecord, name: string): MendEdit =>
  change(mend, { ...mend, name }, `Rename ${mend.name} to ${name}`)

export const removeMend = (mend: MendRecord): MendEdit => ({
  label: `Delete ${mend.name}`,
  changes: [{ id: mend.id, before: mend, after: null }],
  tracks: [],
})

/** Several edits of different mends as one step. */
export const together = (edits: readonly MendEdit[], label: string): MendEdit => ({
  label: edits.length === 1 ? edits[0]!.label : label,
  changes: edits.flatMap((edit) => edit.changes),
  tracks: edits.flatMap((edit) => edit.tracks),
})

const ASIDE_PX = 16

/** A copy right after the original, a little aside so that both can be seen and taken hold of. */
export function duplicateMend(records: MendRecords, mend: MendRecord, id: string): MendEdit {
  const aside = translationBy(ASIDE_PX, 0)
  const areas = mend.areas.map((area) =>
    area.shape === 'matte' ? area : movedArea(area, (geometry) => movedBy(aside, geometry)),
  )
  const after: MendRecord = {
    ...mend,
    id,
    name: freeName(records, mend.name.replace(/ \d+$/, '')),
    areas,
    stackIndex: stackIndexBetween(records, mend.stackIndex),
  }
  return { label: `Duplicate ${mend.name}`, changes: [{ id, before: null, after }], tracks: [] }
}

/** An area with every key’s geometry changed. */
export const movedArea = (area: KeyedArea, act: (geometry: Geometry) => Geometry): KeyedArea =>
  ({
    ...area,
    keys: area.keys.map(({ frame, ...rest }) => {
      const { shape: _shape, ...moved } = act({ shape: area.shape, ...rest } as Geometry)
      return { frame, ...moved }
    }),
  }) as unknown as KeyedArea

/** An area copied into another mend, as it is, with what it follows. */
export const copyArea = (mend: MendRecord, area: Area, id: string): MendEdit => addArea(mend, { ...area, id })

/** Moves a mend so that it comes right after `previous` (null: first) in the stack. */
export function moveMend(records: MendRecords, mend: MendRecord, previous: MendRecord | null): MendEdit {
  const others = new Map([...records].filter(([id]) => id !== mend.id))
  const stackIndices = [...others.values()].map((other) => other.stackIndex)
  const stackIndex = previous
    ? stackIndexBetween(others, previous.stackIndex)
    : stackIndices.length > 0
      ? Math.min(...stackIndices) - 1
      : 1
  return change(mend, { ...mend, stackIndex }, `Move ${mend.name} in the list`)
}

/** Lets an area follow a track, or nothing. It does not jump: on the frame looked at it stays where it is. */
export function setFollow(
  state: ShotState,
  mend: MendRecord,
  areaId: string,
  follow: Follow | null,
  frame: Frame,
): MendEdit {
  const label = follow
    ? `${mend.name} follows ${state.tracks.get(follow.trackId)?.name ?? 'a track'}`
    : `${mend.name} follows nothing`
  // One key, set where it is seen now: earlier keys belonged to another way of moving.
  return onKeyed(mend, areaId, label, (area) =>
    withOnlyGeometry({ ...area, follow }, state.tracks, frame, geometryAt(area, state.tracks, frame)),
  )
}

export function addTrack(track: Track): MendEdit {
  return {
    label: `New track ${track.name}`,
    changes: [],
    tracks: [{ id: track.id, before: null, after: track }],
  }
}

export const setTrack = (before: Track, after: Track, label: string): MendEdit => ({
  label,
  changes: [],
  tracks: [{ id: before.id, before, after }],
})

/** Takes a track away. What followed it rests where it is on the frame looked at. */
export function removeTrack(state: ShotState, track: Track, frame: Frame): MendEdit {
  const changes: Change<MendRecord>[] = []
  for (const mend of state.records.values()) {
    const followers = mend.areas.filter((area) => area.follow?.trackId === track.id)
    if (followers.length === 0) continue
    const after = followers.reduce(
      (left, area) => setFollow(state, left, area.id, null, frame).changes[0]!.after!,
      mend,
    )
    changes.push({ id: mend.id, before: mend, after })
  }
  return {
    label: `Delete track ${track.name}`,
    changes,
    tracks: [{ id: track.id, before: track, after: null }],
  }
}

export function freeName(records: ReadonlyMap<string, { readonly name: string }>, stem: string): string {
  const taken = new Set([...records.values()].map((one) => one.name))
  let number = 1
  while (taken.has(`${stem} ${number}`)) number++
  return `${stem} ${number}`
}

export const stackIndexAfterLast = (records: MendRecords): number =>
  Math.max(0, ...[...records.values()].map((mend) => mend.stackIndex)) + 1

function stackIndexBetween(records: MendRecords, stackIndex: number): number {
  const later = [...records.values()].map((mend) => mend.stackIndex).filter((other) => other > stackIndex)
  return later.length > 0 ? (stackIndex + Math.min(...later)) / 2 : stackIndex + 1
}
