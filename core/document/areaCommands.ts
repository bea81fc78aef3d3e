/** What an artist can do to the areas of a mend: drawn, moved, keyed, copied. */
import type { Frame } from '../time'
import type { Area, Geometry, KeyedArea } from './areas'
import type { Follow } from './basics'
import type { MendEdit, ShotState } from './edits'
import { geometryAt } from './keyedGeometry'
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
import type { MendRecord } from './mend'
import type { Tracks } from './tracks'
import { recordEdit } from './recordEdit'
import type { Source } from './source'
import { ridingSource } from './sourceCommands'
import { ridesWith, shiftAt } from './sourceKeys'

/** A new area drawn on one frame; it rests as drawn, with one key there. */
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

export const addArea = (mend: MendRecord, area: Area): MendEdit =>
  recordEdit(
    mend,
    { ...mend, areas: [...mend.areas, area] },
    `Add ${area.role === 'holdout' ? 'a holdout' : `a ${area.shape}`} to ${mend.name}`,
  )

/** The last area cannot go: then the mend itself should. */
export const removeArea = (mend: MendRecord, areaId: string): MendEdit | null =>
  mend.areas.length > 1
    ? recordEdit(
        mend,
        { ...mend, areas: mend.areas.filter((area) => area.id !== areaId) },
        `Remove an area from ${mend.name}`,
      )
    : null

const withArea = (mend: MendRecord, areaId: string, act: (area: Area) => Area): MendRecord => ({
  ...mend,
  areas: mend.areas.map((area) => (area.id === areaId ? act(area) : area)),
})

export const onKeyed = (
  mend: MendRecord,
  areaId: string,
  label: string,
  act: (area: KeyedArea) => KeyedArea,
): MendEdit =>
  recordEdit(
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
    recordEdit(
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
  recordEdit(
    mend,
    withArea(mend, areaId, (area) => ({ ...area, interpolation })),
    `Travel ${interpolation}, ${mend.name}`,
  )

export const setRole = (mend: MendRecord, areaId: string, role: Area['role']): MendEdit =>
  recordEdit(
    mend,
    withArea(mend, areaId, (area) => ({ ...area, role })),
    `${role === 'holdout' ? 'Hold out' : 'Cover'} an area of ${mend.name}`,
  )

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

/**
 * Lets an area follow a track, or nothing. It does not jump: on the frame looked at it stays where it is. A source that went with the
 * area goes on with it.
 */
export function setFollow(
  state: ShotState,
  mend: MendRecord,
  areaId: string,
  follow: Follow | null,
  frame: Frame,
): MendEdit {
  const { tracks } = state
  const label = follow
    ? `${mend.name} follows ${tracks.get(follow.trackId)?.name ?? 'a track'}`
    : `${mend.name} follows nothing`
  // One key, set where it is seen now: earlier keys belonged to another way of moving.
  const edit = onKeyed(mend, areaId, label, (area) =>
    withOnlyGeometry({ ...area, follow }, tracks, frame, geometryAt(area, tracks, frame)),
  )
  const [before, after] = [mend, edit.changes[0]!.after!].map(({ areas }) =>
    areas.find(({ id }) => id === areaId),
  )
  if (!mend.source || !before || !after || !goesWith(mend.source, before, tracks)) return edit
  const seen = shiftAt(mend.source, before, tracks, frame)
  const source = ridingSource(mend.source, seen, after, tracks, ridesWith(after, tracks), frame)
  return recordEdit(mend, { ...edit.changes[0]!.after!, source }, label)
}

/** Whether a source rides on what its area follows, and on nothing of its own. */
const goesWith = (source: Source, area: Area, tracks: Tracks): boolean =>
  (source.follow?.trackId ?? null) === (ridesWith(area, tracks)?.trackId ?? null)
