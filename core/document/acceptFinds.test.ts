import { placeOn, type Find } from '../survey/finds'
import { acceptedIds, acceptFinds } from './acceptFinds'
import type { Area, PathArea } from './areas'
import { applyEdit, editSchema, invertEdit, type MendRecords, type ShotState } from './edits'
import { mendRecordSchema } from './mend'

const RANGE = { firstFrame: 1001, lastFrame: 1048 }
const always = { ...RANGE, sure: 0.9, why: 'made up' }
const pixel = (x: number, y: number, sizePx = 3): Find => ({
  kind: 'pixel',
  id: `px-${Math.floor(x)}-${Math.floor(y)}`,
  class: sizePx > 3 ? 'cluster' : 'hot',
  x,
  y,
  widthPx: sizePx,
  heightPx: sizePx,
  ...always,
})
const mote = (x: number, radiusXPx: number): Find => ({
  kind: 'mote',
  id: `mote-${x}`,
  x,
  y: 80.4,
  radiusXPx,
  radiusYPx: radiusXPx - 2,
  turnDeg: 20,
  depthStops: -0.6,
  ...always,
})
const mark: Find = {
  kind: 'mark',
  id: 'mark-1',
  x: 100,
  y: 50,
  widthPx: 60,
  heightPx: 20,
  opacity: 0.4,
  ...always,
}
const line: Find = {
  kind: 'line',
  id: 'line-1',
  x: 50,
  y: 50,
  keys: [1001, 1031].map((frame) => ({ frame, points: [{ x: frame - 990, y: 0, widthPx: 4 }, { x: frame - 980, y: 90, widthPx: 5 }] })), // prettier-ignore
  ...always,
}
const specks: Find = {
  kind: 'specks',
  id: 'specks-1003',
  x: 40,
  y: 30,
  specks: [
    { frame: 1003, x: 40, y: 30, lengthPx: 0, widthPx: 6, turnDeg: 0 },
    { frame: 1007, x: 80, y: 50, lengthPx: 20, widthPx: 4, turnDeg: 90 },
  ],
  ...always,
}
const numbered = () => {
  let number = 0
  return () => `mend-${++number}`
}
const stateOf = (records: MendRecords): ShotState => ({ records, tracks: new Map() })

test('pixels and motes get one mend each for all places, marks and lines one of their own; one edit, that one undo takes back', () => {
  const finds = [pixel(10.5, 20.5), mote(60, 12), pixel(200.5, 90.5, 5), mark, mote(140, 16), line]
  const edit = acceptFinds(new Map(), finds, RANGE, numbered())!
  expect(editSchema.safeParse(edit).success).toBe(true)
  expect(edit.label).toBe('Accept 6 finds')
  const { records } = applyEdit(stateOf(new Map()), edit)
  const byKind = [...records.values()].map(({ kind, areas, fill }) => [kind, areas.length, fill.methodId])
  expect(byKind).toEqual([
    ['pixel', 2, 'clean-plate'],
    ['dust', 2, 'lift'],
    ['mark', 1, 'clean-plate'],
    ['wire', 1, 'clean-plate'],
  ])
  for (const record of records.values()) expect(mendRecordSchema.parse(record)).toEqual(record)
  expect([...acceptedIds(records)].sort()).toEqual(finds.map(({ id }) => id).sort())
  expect(applyEdit(stateOf(records), invertEdit(edit)).records.size).toBe(0)
})

test('a mark that travels goes straight from place to place', () => {
  const keys = [1001, 1012, 1040].map((frame) => ({ frame, x: frame - 900, y: 50 }))
  const travelling: Find = { ...mark, keys }
  const { records } = applyEdit(stateOf(new Map()), acceptFinds(new Map(), [travelling], RANGE, numbered())!)
  const [record] = [...records.values()]
  expect(mendRecordSchema.parse(record)).toEqual(record)
  const [area] = record!.areas
  expect(area).toMatchObject({ shape: 'box', interpolation: 'linear' })
  expect((area as { keys: unknown }).keys).toMatchObject(
    keys.map((key) => ({ ...key, widthPx: 92, heightPx: 52 })),
  )
  expect([1001, 1006, 1026, 1048].map((frame) => Math.round(placeOn(travelling, frame).x))).toEqual([
    101, 106, 126, 140,
  ])
})

test('a few pixels take what other frames show there, and where none does what is beside; hundreds are all filled from beside', () => {
  const fillOf = (count: number) =>
    acceptFinds(
      new Map(),
      Array.from({ length: count }, (_, i) => pixel(10.5 + 4 * i, 20.5)),
      RANGE,
      numbered(),
    )!.changes[0]!.after!.fill
  expect(fillOf(60)).toMatchObject({ methodId: 'clean-plate', params: { unseen: 'near', every: 6 } })
  expect(fillOf(61)).toMatchObject({ methodId: 'near' })
})

test('a bad pixel is covered by whole pixels, a mote by all of its ellipse, a line by its path with its keys', () => {
  const edit = acceptFinds(
    new Map(),
    [pixel(10.5, 20.5), pixel(31, 41, 4), mote(60, 12), line],
    RANGE,
    numbered(),
  )!
  const [pixels, dust, wire] = edit.changes.map(({ after }) => after!)
  expect(pixels!.areas.map(({ keys }) => keys[0])).toMatchObject([
    { x: 10.5, y: 20.5, widthPx: 3, heightPx: 3 },
    { x: 31, y: 41, widthPx: 4, heightPx: 4 },
  ])
  expect(pixels!.finish).toMatchObject({ featherOutPx: 0, growPx: 0 })
  expect(dust!.areas[0]!.keys).toEqual([
    { frame: 1001, x: 60, y: 80.4, radiusXPx: 12, radiusYPx: 10, turnDeg: 20 },
  ])
  expect(wire!.areas[0]!.keys.map((key) => [key.frame, 'points' in key && key.points.length])).toEqual([
    [1001, 2],
    [1031, 2],
  ])
})

test('a wire is mended as long as it was seen, and no longer: what is seen after a cut is another picture', () => {
  const [wire] = acceptFinds(new Map(), [{ ...line, lastFrame: 1031 }], RANGE, numbered())!.changes.map(
    ({ after }) => after!,
  )
  expect(wire!.span).toEqual({
    firstFrame: RANGE.firstFrame,
    lastFrame: 1031,
    rampInFrames: 0,
    rampOutFrames: 0,
  })
})

test('later finds join the mends that are there; what is accepted already is not accepted twice', () => {
  const first = applyEdit(
    stateOf(new Map()),
    acceptFinds(new Map(), [pixel(10.5, 20.5), mote(60, 12)], RANGE, numbered())!,
  )
  const again = acceptFinds(first.records, [pixel(10.5, 20.5), pixel(50.5, 20.5)], RANGE, () => 'never')!
  const { records } = applyEdit(first, again)
  expect([...records.values()].map(({ areas }) => areas.length)).toEqual([2, 1])
  expect(again.label).toBe('Add 1 place to Pixel 1')
  expect(acceptFinds(records, [pixel(10.5, 20.5)], RANGE, () => 'never')).toBeNull()
})

test('where dust cannot be lifted it is filled by its size: a median for small motes, a membrane over large ones', () => {
  const unseenOf = (radiusPx: number) =>
    acceptFinds(new Map(), [mote(60, radiusPx)], RANGE, numbered())!.changes[0]!.after!.fill.params['unseen']
  expect(unseenOf(12)).toBe('median')
  expect(unseenOf(30)).toBe('membrane')
})

test('specks become one brush: a dab for each on its frame, healed from the frames beside; single ones may go, the find stays accepted', () => {
  const edit = acceptFinds(new Map(), [specks], RANGE, numbered())!
  expect(editSchema.safeParse(edit).success).toBe(true)
  const after = edit.changes[0]!.after!
  expect(after).toMatchObject({ kind: 'brush', name: 'Specks 1' })
  const [dab, hair] = after.areas as [Area, Area]
  expect(dab).toMatchObject({ stroke: { span: { firstFrame: 1003, lastFrame: 1003 }, fill: { methodId: 'clean-plate', params: { before: 2, after: 2, every: 1 } } } }) // prettier-ignore
  expect((hair as PathArea).keys[0]!.points.map(({ x, y, widthPx }) => [Math.round(x), Math.round(y), widthPx])).toEqual([[80, 40, 8], [80, 60, 8]]) // prettier-ignore
  const records: MendRecords = new Map([[after.id, { ...after, areas: [hair] }]])
  expect(acceptedIds(records).has('specks-1003')).toBe(true)
  expect(acceptFinds(records, [specks], RANGE, numbered())).toBeNull()
})
