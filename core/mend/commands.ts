/** What an artist can do to the mends of a shot: each command makes an edit and changes nothing. */
import type { PathPoint } from '../geometry/pathCurve'
import type { Frame } from '../time'
import type { MendEdit, MendRecords } from './edits'
import { withoutKeyAt, withPointInserted, withPointRemoved, withPointsAt } from './keys'
import { DEFAULT_FINISH, startingFill, type Finish, type MendRecord, type Span } from './schema'

/** A wire drawn on one frame: its points are pinned there and at the start of its span. */
export function addWire(records: MendRecords, id: string, frame: Frame, span: Span, points: readonly PathPoint[]): MendEdit {
  const area = withPointsAt({ shape: 'path', travel: 'smooth', keys: [{ frame: span.firstFrame, points: [...points] }] }, span, frame, points)
  const after: MendRecord = {
    id,
    kind: 'wire',
    name: freeName(records, 'Wire'),
    isOn: true,
    area,
    fill: startingFill(),
    finish: DEFAULT_FINISH,
    span,
    order: orderAfterLast(records),
  }
  return { label: `New ${after.name}`, changes: [{ id, before: null, after }] }
}

const change = (before: MendRecord, after: MendRecord, label: string): MendEdit => ({ label, changes: [{ id: before.id, before, after }] })

export const setPoints = (mend: MendRecord, frame: Frame, points: readonly PathPoint[], what = 'Move'): MendEdit =>
  change(mend, { ...mend, area: withPointsAt(mend.area, mend.span, frame, points) }, `${what} ${mend.name} at ${frame}`)

export const insertPoint = (mend: MendRecord, after: number, share: number): MendEdit =>
  change(mend, { ...mend, area: withPointInserted(mend.area, after, share) }, `Add a point to ${mend.name}`)

export const removePoint = (mend: MendRecord, index: number): MendEdit =>
  change(mend, { ...mend, area: withPointRemoved(mend.area, index) }, `Remove a point from ${mend.name}`)

export const removeKey = (mend: MendRecord, frame: Frame): MendEdit =>
  change(mend, { ...mend, area: withoutKeyAt(mend.area, frame) }, `Remove the key at ${frame} from ${mend.name}`)

export const setTravel = (mend: MendRecord, travel: MendRecord['area']['travel']): MendEdit =>
  change(mend, { ...mend, area: { ...mend.area, travel } }, `Travel ${travel}, ${mend.name}`)

export const setFillParam = (mend: MendRecord, name: string, value: unknown, title: string): MendEdit =>
  change(mend, { ...mend, fill: { ...mend.fill, params: { ...mend.fill.params, [name]: value } } }, `${title} of ${mend.name}`)

export const setFinish = (mend: MendRecord, part: Partial<Finish>, title: string): MendEdit =>
  change(mend, { ...mend, finish: { ...mend.finish, ...part } }, `${title} of ${mend.name}`)

/** An area that starts later is pinned again at its new start when it is next edited. */
export const setSpan = (mend: MendRecord, span: Span): MendEdit => change(mend, { ...mend, span }, `Span of ${mend.name}`)

export const setOn = (mend: MendRecord, isOn: boolean): MendEdit => change(mend, { ...mend, isOn }, `${mend.name} ${isOn ? 'on' : 'off'}`)

export const rename = (mend: MendRecord, name: string): MendEdit => change(mend, { ...mend, name }, `Rename ${mend.name} to ${name}`)

export const removeMend = (mend: MendRecord): MendEdit => ({
  label: `Delete ${mend.name}`,
  changes: [{ id: mend.id, before: mend, after: null }],
})

/** A copy right after the original, a little aside so that both can be seen and taken hold of. */
export function duplicateMend(records: MendRecords, mend: MendRecord, id: string): MendEdit {
  const ASIDE_PX = 16
  const keys = mend.area.keys.map((key) => ({ ...key, points: key.points.map((point) => ({ ...point, x: point.x + ASIDE_PX })) }))
  const after: MendRecord = {
    ...mend,
    id,
    name: freeName(records, mend.name.replace(/ \d+$/, '')),
    area: { ...mend.area, keys },
    order: orderBetween(records, mend.order),
  }
  return { label: `Duplicate ${mend.name}`, changes: [{ id, before: null, after }] }
}

/** Moves a mend so that it comes right after `previous` (null: first) in the stack. */
export function moveMend(records: MendRecords, mend: MendRecord, previous: MendRecord | null): MendEdit {
  const others = new Map([...records].filter(([id]) => id !== mend.id))
  const orders = [...others.values()].map((other) => other.order)
  const order = previous ? orderBetween(others, previous.order) : orders.length > 0 ? Math.min(...orders) - 1 : 1
  return change(mend, { ...mend, order }, `Move ${mend.name} in the list`)
}

function freeName(records: MendRecords, stem: string): string {
  const taken = new Set([...records.values()].map((mend) => mend.name))
  let number = 1
  while (taken.has(`${stem} ${number}`)) number++
  return `${stem} ${number}`
}

const orderAfterLast = (records: MendRecords): number => Math.max(0, ...[...records.values()].map((mend) => mend.order)) + 1

function orderBetween(records: MendRecords, order: number): number {
  const later = [...records.values()].map((mend) => mend.order).filter((other) => other > order)
  return later.length > 0 ? (order + Math.min(...later)) / 2 : order + 1
}
