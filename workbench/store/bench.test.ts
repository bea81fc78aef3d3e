import { addWire, rename, setFinish, setOn } from '../../core/mend/commands'
import type { EditRole, MendEdit } from '../../core/mend/edits'
import { sampleRecord } from '../../core/mend/sampleMend'
import { createBench, selectedMend } from './bench'

const plate = {
  id: 'p',
  width: 100,
  height: 80,
  channels: 3,
  bitDepth: 8,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  lastFrame: 1048,
} as const
const record = sampleRecord()

function bench() {
  const saved: [EditRole, MendEdit][] = []
  const store = createBench({
    plate,
    records: [record],
    history: [],
    frame: 1010,
    selectedId: record.id,
    save: (role, edit) => saved.push([role, edit]),
  })
  return { store, saved, now: () => store.getState() }
}

test('one gesture is one step, stored once, undone at once', () => {
  const { saved, now } = bench()
  for (const featherPx of [2, 3, 4]) now().preview(setFinish(now().records.get(record.id)!, { featherPx }, 'Feather'))
  expect(now().records.get(record.id)!.finish.featherPx).toBe(4)
  expect(saved).toEqual([])
  now().endGesture()
  expect(saved).toHaveLength(1)
  expect(saved[0]![1].changes[0]).toMatchObject({ before: { finish: { featherPx: 1.5 } }, after: { finish: { featherPx: 4 } } })
  now().undo()
  expect(now().records.get(record.id)).toEqual(record)
  expect(saved.map(([role]) => role)).toEqual(['do', 'undo'])
  now().redo()
  expect(now().records.get(record.id)!.finish.featherPx).toBe(4)
})

test('a gesture that is cancelled, or ends where it began, leaves nothing', () => {
  const { saved, now } = bench()
  now().preview(setFinish(record, { featherPx: 9 }, 'Feather'))
  now().cancelGesture()
  expect(now().records.get(record.id)).toEqual(record)
  now().preview(setFinish(record, { featherPx: 9 }, 'Feather'))
  now().preview(setFinish(now().records.get(record.id)!, { featherPx: 1.5 }, 'Feather'))
  now().endGesture()
  expect(saved).toEqual([])
})

test('what is added is selected; what is gone is not', () => {
  const { now } = bench()
  now().commit(addWire(now().records, 'new', 1010, { firstFrame: 1001, lastFrame: 1048 }, record.area.keys[0]!.points))
  expect(now().selectedId).toBe('new')
  now().undo()
  expect(selectedMend(now())).toBeNull()
  expect(now().stacks.undone).toHaveLength(1)
})

test('frames stay inside the shot', () => {
  const { now } = bench()
  now().goTo(5)
  expect(now().frame).toBe(1001)
  now().goTo(9999)
  expect(now().frame).toBe(1048)
})

test('others’ edits are taken in; ours stay unless they touch the same mend', () => {
  const { now } = bench()
  const ours = rename(record, 'Ours')
  now().commit(ours)
  const elsewhere = addWire(new Map(), 'theirs', 1001, { firstFrame: 1001, lastFrame: 1048 }, record.area.keys[0]!.points)
  expect(now().takeInNewer([{ revision: 1, role: 'do', edit: elsewhere }], [ours])).toBe(true)
  expect([...now().records.keys()].sort()).toEqual(['theirs', record.id].sort())
  expect(now().records.get(record.id)!.name).toBe('Ours')
  expect(now().takeInNewer([{ revision: 2, role: 'do', edit: setOn(record, false) }], [ours])).toBe(false)
  expect(now().records.get(record.id)).toMatchObject({ name: 'Wire 1', isOn: false })
})
