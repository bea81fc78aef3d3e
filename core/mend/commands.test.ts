import {
  addWire,
  duplicateMend,
  insertPoint,
  moveMend,
  removeKey,
  removeMend,
  rename,
  setFillParam,
  setFinish,
  setOn,
  setPoints,
  setSpan,
  setTravel,
} from './commands'
import { applyEdit, editSchema, type MendEdit, type MendRecords } from './edits'
import { sampleRecord } from './sampleMend'
import { mendsInOrder } from './document'

const span = { firstFrame: 1001, lastFrame: 1048 }
const ends = [
  { x: 10, y: 10, widthPx: 6 },
  { x: 50, y: 90, widthPx: 6 },
]
const after = (edit: MendEdit) => edit.changes[0]!.after!
const names = (records: MendRecords) => mendsInOrder(records.values()).map((mend) => mend.name)

test('a wire drawn in the middle is pinned at the start of its span too', () => {
  const edit = addWire(new Map(), 'a', 1023, span, ends)
  expect(editSchema.parse(edit)).toEqual(edit)
  expect(after(edit).area.keys.map((key) => key.frame)).toEqual([1001, 1023])
  expect(after(edit)).toMatchObject({ name: 'Wire 1', isOn: true, span })
})

test('commands change what they name and nothing else', () => {
  const mend = sampleRecord()
  expect(after(setOn(mend, false))).toEqual({ ...mend, isOn: false })
  expect(after(rename(mend, 'Left'))).toEqual({ ...mend, name: 'Left' })
  expect(after(setFinish(mend, { featherPx: 3 }, 'Feather'))).toEqual({ ...mend, finish: { ...mend.finish, featherPx: 3 } })
  expect(after(setFillParam(mend, 'reachPx', 9, 'Reach')).fill.params).toEqual({ ...mend.fill.params, reachPx: 9 })
  expect(after(setTravel(mend, 'linear')).area.travel).toBe('linear')
  expect(after(setSpan(mend, { firstFrame: 1005, lastFrame: 1010 })).span.firstFrame).toBe(1005)
  expect(after(setPoints(mend, 1010, ends)).area.keys.map((key) => key.frame)).toEqual([1001, 1010])
  expect(after(insertPoint(mend, 0, 0.5)).area.keys[0]!.points).toHaveLength(3)
  expect(after(removeKey(after(setPoints(mend, 1010, ends)), 1010)).area).toEqual(mend.area)
  expect(removeMend(mend).changes).toEqual([{ id: mend.id, before: mend, after: null }])
})

test('duplicates come right after their original, and mends can be put anywhere', () => {
  let records: MendRecords = new Map()
  for (const id of ['a', 'b', 'c']) records = applyEdit(records, addWire(records, id, 1001, span, ends))
  expect(names(records)).toEqual(['Wire 1', 'Wire 2', 'Wire 3'])
  records = applyEdit(records, duplicateMend(records, records.get('a')!, 'd'))
  expect(names(records)).toEqual(['Wire 1', 'Wire 4', 'Wire 2', 'Wire 3'])
  records = applyEdit(records, moveMend(records, records.get('c')!, null))
  expect(names(records)).toEqual(['Wire 3', 'Wire 1', 'Wire 4', 'Wire 2'])
  records = applyEdit(records, moveMend(records, records.get('c')!, records.get('d')!))
  expect(names(records)).toEqual(['Wire 1', 'Wire 4', 'Wire 3', 'Wire 2'])
})
