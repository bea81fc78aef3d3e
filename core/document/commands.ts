/** What an artist can do to the mends of a shot: each command makes an edit and changes nothing. */
import type { Frame, FrameRange } from '../time'
import type { Area } from './areas'
import type { MendEdit, MendRecords } from './edits'
import { geometryOfKey, movedBy, polygonOf } from './keyedGeometry'
import type { FillMethod } from '../fill/method'
import { defaultsOf, findFill } from '../fill/registry'
import { boundsOfPolygon } from '../geometry/polygon'
import { KINDS, type Kind } from './kinds'
import { startingFill, startingFinish, type Finish, type Mend, type MendKind, type MendRecord } from './mend'
import type { FillSettings } from './fillSettings'
import type { Span } from './span'
import { translationBy } from '../geometry/transform'
import { movedArea } from './areaCommands'
import { recordEdit } from './recordEdit'

/** A mend of a kind, with its first area drawn on one frame. */
export function addMend(
  records: MendRecords,
  kind: MendKind,
  id: string,
  areas: readonly Area[],
  range: FrameRange,
): MendEdit {
  const { travel }: Kind = KINDS[kind]
  const after: MendRecord = {
    id,
    kind,
    name: freeName(records, KINDS[kind].title),
    isOn: true,
    areas: areas.map((area) => (travel ? { ...area, interpolation: travel } : area)),
    fill: fittedTo(startingFill(kind), areas[0]),
    source: null,
    finish: startingFinish(kind),
    span: { firstFrame: range.firstFrame, lastFrame: range.lastFrame, rampInFrames: 0, rampOutFrames: 0 },
    stackIndex: stackIndexAfterLast(records),
  }
  return { label: `New ${after.name}`, changes: [{ id, before: null, after }], tracks: [] }
}

/** What a fill starts with for a closed area of its size. */
function fittedTo(fill: FillSettings, area: Area | undefined): FillSettings {
  const fitted = findFill(fill.methodId)?.defaultsForSize
  if (!fitted || !area || area.shape === 'matte' || area.shape === 'path') return fill
  const geometry = geometryOfKey(area, 0)
  if (geometry.shape === 'path') return fill
  const { left, right, top, bottom } = boundsOfPolygon(polygonOf(geometry))
  return { ...fill, params: { ...fill.params, ...fitted({ width: right - left, height: bottom - top }) } }
}

export const setFillParam = (mend: MendRecord, name: string, value: unknown, title: string): MendEdit =>
  recordEdit(
    mend,
    { ...mend, fill: { ...mend.fill, params: { ...mend.fill.params, [name]: value } } },
    `${title} of ${mend.name}`,
  )

/** What was chosen before is kept with its settings. */
export function setFill(mend: MendRecord, fill: FillSettings, title: string): MendEdit {
  const before = [mend.fill, ...(mend.otherFills ?? [])]
  const otherFills = before.filter(
    ({ methodId }, i) =>
      methodId !== fill.methodId && before.findIndex((one) => one.methodId === methodId) === i,
  )
  const after = otherFills.length > 0 ? { ...mend, fill, otherFills } : { ...mend, fill }
  return recordEdit(mend, after, `Fill of ${mend.name}: ${title}`)
}

/** A fill as it was when this mend had it; else as its kind starts with it, or as it starts by itself, chosen on a frame. */
export function fillChosen(mend: Mend, method: FillMethod, frame: Frame): FillSettings {
  const known = mend.otherFills?.find(({ methodId }) => methodId === method.id)
  if (known) return known
  const starting = startingFill(mend.kind)
  return starting.methodId === method.id
    ? starting
    : { methodId: method.id, methodVersion: method.version, params: defaultsOf(method, frame) }
}

export const setFinish = (mend: MendRecord, part: Partial<Finish>, title: string): MendEdit =>
  recordEdit(mend, { ...mend, finish: { ...mend.finish, ...part } }, `${title} of ${mend.name}`)

/** An area that starts later is pinned again at its new start when it is next edited. */
export const setSpan = (mend: MendRecord, span: Span): MendEdit =>
  recordEdit(mend, { ...mend, span }, `Span of ${mend.name}`)

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
  recordEdit(mend, { ...mend, isOn }, `${mend.name} ${isOn ? 'on' : 'off'}`)

export const rename = (mend: MendRecord, name: string): MendEdit =>
  recordEdit(mend, { ...mend, name }, `Rename ${mend.name} to ${name}`)

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

/** Moves a mend so that it comes right after `previous` (null: first) in the stack. */
export function moveMend(records: MendRecords, mend: MendRecord, previous: MendRecord | null): MendEdit {
  const others = new Map([...records].filter(([id]) => id !== mend.id))
  const stackIndices = [...others.values()].map((other) => other.stackIndex)
  const stackIndex = previous
    ? stackIndexBetween(others, previous.stackIndex)
    : stackIndices.length > 0
      ? Math.min(...stackIndices) - 1
      : 1
  return recordEdit(mend, { ...mend, stackIndex }, `Move ${mend.name} in the list`)
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
