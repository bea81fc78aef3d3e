import {
  addArea,
  bendPoint,
  drawnArea,
  insertPoint,
  moveKeys,
  pasteKeys,
  removeArea,
  removeKeys,
  setFollow,
  setGeometry,
  setRole,
  setInterpolation,
} from './areaCommands'
import {
  addMend,
  duplicateMend,
  fillChosen,
  moveMend,
  removeMend,
  rename,
  setFill,
  setFillParam,
  setFinish,
  setOn,
  setSpan,
  splitMend,
} from './commands'
import { addTrack, removeTrack } from './trackCommands'
import { removeSourceKeys, setShift, setSourceFollow, setSourceInterpolation } from './sourceCommands'
import type { KeyedArea, PathArea } from './areas'
import { ALL_PARTS } from './basics'
import { startingFill } from './mend'
import { rampAt } from './span'
import { applyEdit, editSchema, type MendEdit, type ShotState } from './edits'
import { newTrack } from './follow'
import { geometryAt } from './keyedGeometry'
import { shiftAt } from './sourceKeys'
import { findFill } from '../fill/registry'
import type { Track } from './tracks'
import { mendsInStackOrder } from './document'
import { sampleEllipse, samplePath, sampleRecord } from '../../tests/fixtures/sampleMend'

const span = { firstFrame: 1001, lastFrame: 1048 }
const path = {
  shape: 'path' as const,
  points: [
    { x: 10, y: 10, widthPx: 6 },
    { x: 50, y: 90, widthPx: 6 },
  ],
}
const NO_TRACKS = new Map<string, never>()
const empty: ShotState = { records: new Map(), tracks: new Map() }
const after = (edit: MendEdit | null) => edit!.changes[0]!.after!
const areaOf = (edit: MendEdit | null, index = 0) => after(edit).areas[index] as PathArea
const names = (state: ShotState) => mendsInStackOrder(state.records.values()).map((mend) => mend.name)

test('a mark goes straight between the places where it is set; other things go smoothly', () => {
  const drawn = drawnArea(
    'a1',
    { shape: 'box', x: 50, y: 40, widthPx: 30, heightPx: 20, turnDeg: 0, cornerPx: 0 },
    1001,
  )
  expect(after(addMend(new Map(), 'mark', 'a', [drawn], span)).areas[0]!.interpolation).toBe('linear')
  expect(after(addMend(new Map(), 'pixel', 'b', [drawn], span)).areas[0]!.interpolation).toBe('smooth')
})

test('a wire is drawn on the frame that is looked at, with one key there', () => {
  const edit = addMend(new Map(), 'wire', 'a', [drawnArea('a1', path, 1023)], span)
  expect(editSchema.parse(edit)).toEqual(edit)
  expect(areaOf(edit).keys.map((key) => key.frame)).toEqual([1023])
  expect(after(edit)).toMatchObject({ name: 'Wire 1', isOn: true, span, kind: 'wire' })
  for (const [kind, unseen] of [
    ['wire', 'across'],
    ['rig', 'either'],
  ] as const) {
    const { fill } = addMend(new Map(), kind, 'b', [sampleEllipse()], span).changes[0]!.after!
    expect(fill).toMatchObject({ methodId: 'clean-plate', params: { unseen, tidyPx: 0 } })
  }
  // What soft dust lets through is kept; bad pixels take what other frames show, else what is right beside.
  const fillOfKind = (kind: 'dust' | 'pixel') =>
    addMend(new Map(), kind, 'b', [sampleEllipse()], span).changes[0]!.after!.fill
  expect(fillOfKind('dust')).toMatchObject({ methodId: 'lift', params: { unseen: 'membrane' } })
  expect(fillOfKind('pixel')).toMatchObject({ methodId: 'clean-plate', params: { unseen: 'near', every: 6 } })
  expect(addMend(new Map(), 'object', 'c', [sampleEllipse()], span).changes[0]!.after!.fill).toMatchObject({
    methodId: 'clean-plate',
    params: { unseen: 'texture', tidyPx: 36 },
  })
})

test('each command changes its own part and leaves the rest', () => {
  const mend = sampleRecord()
  expect(after(setOn(mend, false))).toEqual({ ...mend, isOn: false })
  expect(after(rename(mend, 'Left'))).toEqual({ ...mend, name: 'Left' })
  expect(after(setFinish(mend, { featherOutPx: 3 }, 'Feather'))).toEqual({
    ...mend,
    finish: { ...mend.finish, featherOutPx: 3 },
  })
  expect(after(setFillParam(mend, 'reachPx', 9, 'Reach')).fill.params).toEqual({
    ...mend.fill.params,
    reachPx: 9,
  })
  expect(areaOf(setInterpolation(mend, 'a1', 'linear')).interpolation).toBe('linear')
  expect(areaOf(setRole(mend, 'a1', 'holdout')).role).toBe('holdout')
  expect(after(setSpan(mend, { ...mend.span, firstFrame: 1005, lastFrame: 1010 })).span.firstFrame).toBe(1005)
  const keyed = after(setGeometry(mend, 'a1', NO_TRACKS, 1010, path))
  expect(keyed.areas[0]!.keys.map((key) => key.frame)).toEqual([1001, 1010])
  expect(areaOf(insertPoint(mend, 'a1', 0, 0.5)).keys[0]!.points).toHaveLength(3)
  expect(areaOf(removeKeys(keyed, 'a1', [1010]))).toEqual(mend.areas[0])
  expect(areaOf(moveKeys(keyed, 'a1', [1010], 5)).keys.map((key) => key.frame)).toEqual([1001, 1015])
  expect(removeMend(mend).changes).toEqual([{ id: mend.id, before: mend, after: null }])
})

test('areas are added and removed, the last one stays; a point of an outline becomes a corner', () => {
  const two = after(addArea(sampleRecord(), sampleEllipse({ role: 'holdout' })))
  expect(two.areas.map((area) => area.role)).toEqual(['cover', 'holdout'])
  expect(after(removeArea(two, 'a1')).areas).toHaveLength(1)
  expect(removeArea(sampleRecord(), 'a1')).toBeNull()
  const point = (x: number, y: number) => ({ x, y, inX: 1, inY: 0, outX: -1, outY: 0 })
  const outline = drawnArea('o', { shape: 'outline', points: [point(0, 0), point(9, 0), point(9, 9)] }, 1001)
  const bent = after(bendPoint(sampleRecord({ areas: [outline] }), 'o', 1, 'corner')).areas[0] as Extract<
    KeyedArea,
    { shape: 'outline' }
  >
  expect(bent.keys[0]!.points[1]).toEqual({ x: 9, y: 0, inX: 0, inY: 0, outX: 0, outY: 0 })
})

test('keys go from one mend to another where the shapes fit', () => {
  const from = areaOf(setGeometry(sampleRecord(), 'a1', NO_TRACKS, 1010, path))
  const pasted = pasteKeys(sampleRecord({ id: 'b' }), 'a1', from, [1001, 1010], 1020)
  expect(areaOf(pasted).keys.map((key) => key.frame)).toEqual([1001, 1020, 1029])
  expect(pasteKeys(sampleRecord({ areas: [sampleEllipse()] }), 'e1', from, [1001], 1020)).toBeNull()
})

test('duplicates get a free name, stand aside and come right after the original; mends move in the stack', () => {
  let state = empty
  for (const id of ['a', 'b', 'c'])
    state = applyEdit(state, addMend(state.records, 'wire', id, [samplePath()], span))
  expect(names(state)).toEqual(['Wire 1', 'Wire 2', 'Wire 3'])
  state = applyEdit(state, duplicateMend(state.records, state.records.get('a')!, 'd'))
  expect(names(state)).toEqual(['Wire 1', 'Wire 4', 'Wire 2', 'Wire 3'])
  expect((state.records.get('d')!.areas[0] as PathArea).keys[0]!.points[0]!.x).toBe(56)
  state = applyEdit(state, moveMend(state.records, state.records.get('c')!, null))
  expect(names(state)).toEqual(['Wire 3', 'Wire 1', 'Wire 4', 'Wire 2'])
  state = applyEdit(state, moveMend(state.records, state.records.get('c')!, state.records.get('d')!))
  expect(names(state)).toEqual(['Wire 1', 'Wire 4', 'Wire 3', 'Wire 2'])
})

test('an area that begins to follow, or stops, does not jump where it is seen', () => {
  const rows = Array.from({ length: 48 }, (_, i): [number, number, ...number[]] => [
    1001 + i,
    1,
    100 + 2 * i,
    50 + i,
  ])
  const track = { ...newTrack('t', 'point', 'Point 1', 1010, [118, 59]), frames: rows }
  const mend = sampleRecord({ areas: [sampleEllipse()] })
  let state = applyEdit(applyEdit(empty, addTrack(track)), {
    label: 'x',
    changes: [{ id: mend.id, before: null, after: mend }],
    tracks: [],
  })
  const at = (frame: number) =>
    geometryAt(state.records.get(mend.id)!.areas[0] as KeyedArea, state.tracks, frame)
  const before = at(1020)
  state = applyEdit(
    state,
    setFollow(state, state.records.get(mend.id)!, 'e1', { trackId: 't', uses: ALL_PARTS }, 1020),
  )
  expect(at(1020)).toEqual(before)
  expect(at(1030)).toMatchObject({ x: 50 + 20, y: 40 + 10 })
  state = applyEdit(state, removeTrack(state, state.tracks.get('t')!, 1030))
  expect(state.tracks.size).toBe(0)
  expect(at(1040)).toMatchObject({ x: 70, y: 50 })
})

test('a source is keyed where it is set, rides on a track and lets go of it without a jump', () => {
  const mend = sampleRecord({ areas: [sampleEllipse()] })
  const shift = { dx: 30, dy: 4, turnDeg: 0, scale: 1 }
  const placed = setShift(mend, 'e1', NO_TRACKS, 1010, shift).changes[0]!.after!
  expect(placed.source!.keys).toEqual([{ frame: 1010, ...shift }])
  const moved = setShift(placed, 'e1', NO_TRACKS, 1020, { ...shift, dx: 50 }).changes[0]!.after!
  expect(moved.source!.keys.map((key) => key.frame)).toEqual([1010, 1020])
  expect(removeSourceKeys(moved, [1020])!.changes[0]!.after!.source!.keys).toHaveLength(1)
  expect(removeSourceKeys(moved, [1010, 1020])!.changes[0]!.after!.source!.keys).toHaveLength(1)
  expect(removeSourceKeys(mend, [1001])).toBeNull()
  expect(setSourceInterpolation(moved, 'linear').changes[0]!.after!.source!.interpolation).toBe('linear')

  const track: Track = { ...newTrack('t', 'point', 'Wall', 1001, [80, 40]), frames: [[1001, 1, 80, 40], [1010, 1, 98, 40]] as unknown as Track['frames'] } // prettier-ignore
  const state = { records: new Map([[mend.id, placed]]), tracks: new Map([['t', track]]) }
  const seen = (source: NonNullable<typeof placed.source>) =>
    Math.round(shiftAt(source, placed.areas[0]!, state.tracks, 1010).dx * 100) / 100
  const riding = setSourceFollow(state, placed, 'e1', { trackId: 't', uses: ALL_PARTS }, 1010)!.changes[0]!
    .after!
  expect(seen(riding.source!)).toBe(30)
  expect(Math.round(shiftAt(riding.source!, placed.areas[0]!, state.tracks, 1001).dx)).toBe(12)
  const free = setSourceFollow(state, riding, 'e1', null, 1010)!.changes[0]!.after!
  expect([seen(free.source!), free.source!.follow]).toEqual([30, null])
})

test('split at a frame, a mend becomes two that meet there and cover every frame once', () => {
  const record = sampleRecord({
    span: { firstFrame: 1001, lastFrame: 1048, rampInFrames: 3, rampOutFrames: 5 },
  })
  const records = new Map([[record.id, record]])
  const edit = splitMend(records, record, 'second', 1020)!
  const [first, second] = edit.changes.map((change) => change.after!)
  expect(edit.label).toBe(`Split ${record.name} at 1020`)
  expect(first!.span).toEqual({ firstFrame: 1001, lastFrame: 1019, rampInFrames: 3, rampOutFrames: 0 })
  expect(second!.span).toEqual({ firstFrame: 1020, lastFrame: 1048, rampInFrames: 0, rampOutFrames: 5 })
  expect(second!.areas).toEqual(first!.areas)
  for (let frame = 1001; frame <= 1048; frame++) {
    const whole = rampAt(record.span, frame)
    expect(Math.max(rampAt(first!.span, frame), rampAt(second!.span, frame))).toBe(whole)
    expect(Math.min(rampAt(first!.span, frame), rampAt(second!.span, frame))).toBe(0)
  }
  expect(splitMend(records, record, 'second', 1001)).toBeNull()
})

test('a fill that is chosen again is as it was; one that was never chosen is as its kind or itself starts', () => {
  const mend = after(addMend(new Map(), 'wire', 'a', [drawnArea('a1', path, 1001)], span))
  const [near, median] = [findFill('near')!, findFill('median')!]
  expect(fillChosen(mend, findFill('clean-plate')!, 1001).params).toMatchObject({ unseen: 'across' })
  const chosen = after(setFill(mend, fillChosen(mend, near, 1001), 'Near'))
  const deep = after(setFillParam(chosen, 'ringPx', 7, 'Ring'))
  const other = after(setFill(deep, fillChosen(deep, median, 1001), 'Median'))
  expect(other.otherFills!.map(({ methodId }) => methodId)).toEqual(['near', 'clean-plate'])
  const back = after(setFill(other, fillChosen(other, near, 1001), 'Near'))
  expect(back.fill.params).toMatchObject({ ringPx: 7 })
  expect(back.otherFills!.map(({ methodId }) => methodId)).toEqual(['median', 'clean-plate'])
  expect(editSchema.parse(setFill(back, mend.fill, 'Clean plate'))).toBeTruthy()
})

test('a skin mend starts with a radius and pores that suit the height of its face', () => {
  const outline = (height: number) =>
    drawnArea('a', { shape: 'ellipse', x: 300, y: 300, radiusXPx: height / 3, radiusYPx: height / 2, turnDeg: 0 }, 1001) // prettier-ignore
  const startOf = (height: number) => addMend(new Map(), 'skin', 'k', [outline(height)], { firstFrame: 1001, lastFrame: 1001 }).changes[0]!.after!.fill.params // prettier-ignore
  expect(startOf(600)).toMatchObject({ radiusPx: 50, poresPx: 5.5, evenness: 30 })
  expect(startOf(60)).toMatchObject({ radiusPx: 6, poresPx: 1 })
  // What has no size, or asks for none, starts as ever.
  expect(addMend(new Map(), 'wire', 'w', [samplePath()], { firstFrame: 1001, lastFrame: 1001 }).changes[0]!.after!.fill).toEqual(startingFill('wire')) // prettier-ignore
})
