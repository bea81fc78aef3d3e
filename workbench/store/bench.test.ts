import { addMend, removeMend, rename, setFinish, setOn, together } from '../../core/document/commands'
import { addTrack } from '../../core/document/trackCommands'
import type { HistoryEntry, HistoryStep } from '../../core/document/history'
import { packEdit, type PackedEdit } from '../../core/document/packedEdit'
import { samplePath, sampleRecord } from '../../tests/fixtures/sampleMend'
import { newTrack } from '../../core/document/follow'
import { createBench } from './bench'
import { DEFAULT_BRUSH, strokeArea } from '../../core/document/brush'
import { brushTool, idleTool } from '../tools/tool'
import { chosenStrokes, playedRange, selectedMend, selectedMends } from './benchState'
import { samplePlate } from '../../tests/fixtures/sampleBench'

const record = sampleRecord()

function bench() {
  const saved: HistoryStep[] = []
  const blocked: string[] = []
  const store = createBench({
    plate: samplePlate,
    records: [record],
    tracks: [],
    history: [],
    frame: 1010,
    selectedId: record.id,
    save: (step) => void saved.push(step),
    onBlocked: ({ label }, role) => void blocked.push(`${role} ${label}`),
  })
  return { store, saved, blocked, now: () => store.getState() }
}

test('one gesture is one step, stored once, undone at once', () => {
  const { saved, now } = bench()
  for (const featherOutPx of [2, 3, 4])
    now().preview(setFinish(now().records.get(record.id)!, { featherOutPx }, 'Feather'))
  expect(now().records.get(record.id)!.finish.featherOutPx).toBe(4)
  expect(saved).toEqual([])
  now().endGesture()
  expect(saved).toHaveLength(1)
  expect(saved[0]!.edit.changes[0]).toMatchObject({
    before: { finish: { featherOutPx: 1.5 } },
    after: { finish: { featherOutPx: 4 } },
  })
  now().undo()
  expect(now().records.get(record.id)).toEqual(record)
  expect(saved.map(({ role }) => role)).toEqual(['do', 'undo'])
  expect(saved[1]!.targetId).toBe(saved[0]!.editId)
  now().redo()
  expect(now().records.get(record.id)!.finish.featherOutPx).toBe(4)
})

test('a gesture that is cancelled, or ends where it began, leaves nothing', () => {
  const { saved, now } = bench()
  now().preview(setFinish(record, { featherOutPx: 9 }, 'Feather'))
  now().cancelGesture()
  expect(now().records.get(record.id)).toEqual(record)
  now().preview(setFinish(record, { featherOutPx: 9 }, 'Feather'))
  now().preview(setFinish(now().records.get(record.id)!, { featherOutPx: 1.5 }, 'Feather'))
  now().endGesture()
  expect(saved).toEqual([])
})

test('what is added is selected; what is gone is not', () => {
  const { now } = bench()
  now().commit(addMend(now().records, 'wire', 'new', [samplePath()], record.span))
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

const theirs = (revision: number, edit: PackedEdit): HistoryEntry => ({
  revision,
  editId: `theirs-${revision}`,
  role: 'do',
  targetId: null,
  edit,
})

test('undo takes back one’s own step, also after somebody else has made one', () => {
  const { now, saved } = bench()
  now().commit(rename(record, 'Mine'))
  const elsewhere = addMend(new Map(), 'wire', 'theirs', [samplePath()], record.span)
  now().takeInNewer([theirs(2, elsewhere)], [])
  now().undo()
  expect(now().records.get(record.id)!.name).toBe(record.name)
  expect(now().records.has('theirs')).toBe(true)
  expect(saved.at(-1)).toMatchObject({ role: 'undo', targetId: saved[0]!.editId })
  now().redo()
  expect(now().records.get(record.id)!.name).toBe('Mine')
  expect(saved.at(-1)).toMatchObject({ role: 'redo', targetId: saved[0]!.editId })
  // Nothing more of one's own: theirs is not taken back.
  now().undo()
  now().undo()
  expect(now().records.has('theirs')).toBe(true)
})

test('a step that somebody else has built upon is not taken back: it is said, and the one before is next', () => {
  const { now, saved, blocked } = bench()
  now().commit(setOn(record, false))
  now().commit(rename(now().records.get(record.id)!, 'Mine'))
  now().takeInNewer([theirs(3, setFinish(now().records.get(record.id)!, { featherOutPx: 7 }, 'Feather'))], [])
  now().undo()
  expect(blocked).toHaveLength(1)
  expect(now().records.get(record.id)).toMatchObject({ name: 'Mine', finish: { featherOutPx: 7 } })
  expect(saved.map(({ role }) => role)).toEqual(['do', 'do'])
  expect(now().stacks.done).toHaveLength(1)
})

test('others’ edits are taken in; ours stay unless they touch the same mend', () => {
  const { now } = bench()
  const ours = rename(record, 'Ours')
  now().commit(ours)
  const elsewhere = addMend(new Map(), 'wire', 'theirs', [samplePath()], record.span)
  expect(now().takeInNewer([theirs(1, elsewhere)], [ours])).toBe(true)
  expect([...now().records.keys()].sort()).toEqual(['theirs', record.id].sort())
  expect(now().records.get(record.id)!.name).toBe('Ours')
  expect(now().takeInNewer([theirs(2, setOn(record, false))], [ours])).toBe(false)
  expect(now().records.get(record.id)).toMatchObject({ name: 'Wire 1', isOn: false })
})

const painted = (...ids: string[]) => sampleRecord({ id: 'brush', kind: 'brush', areas: ids.map((id) => strokeArea(id, [{ x: 1, y: 1, pressure: 1 }], DEFAULT_BRUSH, 1001, record.span)) }) // prettier-ignore
const paintedOn = (before: ReturnType<typeof painted>, after: ReturnType<typeof painted>) =>
  packEdit({ label: 'Stroke', changes: [{ id: 'brush', before, after }], tracks: [] })

test('what was painted before the page was opened is taken back stroke by stroke, and painted again', () => {
  const states = [painted('a'), painted('a', 'b'), painted('a', 'b', 'c'), painted('c', 'b', 'a')]
  const history = states.slice(1).map((after, i) => ({ revision: i + 2, editId: `e${i}`, role: 'do', targetId: null, edit: paintedOn(states[i]!, after) }) as const) // prettier-ignore
  const saved: HistoryStep[] = []
  const store = createBench({ plate: samplePlate, records: [states[3]!], tracks: [], history, frame: 1001, selectedId: null, save: (step) => void saved.push(step), onBlocked: () => undefined }) // prettier-ignore
  const now = () => store.getState().records.get('brush')
  for (const state of states.slice(0, 3).reverse()) {
    store.getState().undo()
    expect(now()).toEqual(state)
  }
  for (const state of states.slice(1)) {
    store.getState().redo()
    expect(now()).toEqual(state)
  }
  // Nothing is told again that stayed: strokes are not, on the way back either.
  for (const { edit } of saved) expect(JSON.stringify(edit).match(/"points"/g)?.length ?? 0).toBeLessThan(2)
})

test('edits of others that were made on something else are not laid over: nothing changes, and ours is set aside', () => {
  const { now } = bench()
  const before = now().records
  expect(now().takeInNewer([theirs(1, paintedOn(painted('a'), painted('a', 'b')))], [])).toBe(false) // prettier-ignore
  expect(now().records).toBe(before)
})

test('several mends are selected together, and go with what they belong to', () => {
  const { now } = bench()
  now().commit(addMend(now().records, 'wire', 'b', [samplePath()], record.span))
  now().commit(addMend(now().records, 'wire', 'c', [samplePath()], record.span))
  now().toggleSelected('b')
  expect(selectedMends(now()).map((mend) => mend.id)).toEqual(['c', 'b'])
  now().toggleSelected('b')
  expect(selectedMends(now())).toHaveLength(1)
  now().toggleSelected('b')
  now().commit(
    together(
      [removeMend(now().records.get('b')!), removeMend(now().records.get('c')!)],
      'Delete several mends',
    ),
  )
  expect(selectedMends(now())).toEqual([])
  now().undo()
  expect([...now().records.keys()].sort()).toEqual(['b', 'c', record.id].sort())
})

test('tracks come and go with their steps, and what shows them lets go', () => {
  const { now, saved } = bench()
  const track = newTrack('t1', 'point', 'Point 1', 1010, [40, 30])
  now().commit(addTrack(track))
  expect(now().trackId).toBe('t1')
  now().stabilise('t1')
  now().undo()
  expect([now().tracks.size, now().trackId, now().stabilisedTrackId]).toEqual([0, null, null])
  now().redo()
  expect(now().tracks.get('t1')).toEqual(track)
  expect(saved).toHaveLength(3)
})

test('side by side nothing is drawn: a tool in the hand ends it, and it puts the tool down', () => {
  const { now } = bench()
  now().setTool(brushTool)
  now().setCompare({ mode: 'beside' })
  expect(now().tool).toBe(idleTool)
  now().setTool(brushTool)
  expect(now().compare.mode).toBe('off')
  // All else can be compared while one paints.
  now().setCompare({ mode: 'wipe', wipeX: 0.2 })
  expect(now()).toMatchObject({ tool: { kind: 'brush' }, compare: { mode: 'wipe', wipeX: 0.2, wipeY: 0.5 } })
})

test('strokes that are chosen: the first has the handles; another mend or stroke that is selected lets go of them', () => {
  const { now } = bench()
  const areas = ['a', 'b', 'c'].map((id) => strokeArea(id, [{ x: 1, y: 1, pressure: 1 }], DEFAULT_BRUSH, 1001, { firstFrame: 1001, lastFrame: 1048 })) // prettier-ignore
  const mend = sampleRecord({ id: 'brush', kind: 'brush', areas })
  now().chooseStrokes(['b', 'c'])
  expect([now().areaId, [...now().alsoStrokes]]).toEqual(['b', ['c']])
  expect(chosenStrokes(mend, now()).map(({ id }) => id)).toEqual(['b', 'c'])
  now().selectArea('a')
  expect(chosenStrokes(mend, now()).map(({ id }) => id)).toEqual(['a'])
  now().chooseStrokes(['a', 'b'])
  now().select(null)
  expect(chosenStrokes(mend, now())).toEqual([])
})

test('the brush stays the same one where nothing of it is set otherwise', () => {
  const { now } = bench()
  const { brush } = now()
  now().setBrush({ sizePx: brush.sizePx, lays: brush.lays })
  expect(now().brush).toBe(brush)
  now().setBrush({ sizePx: 7 })
  expect(now().brush).toEqual({ ...brush, sizePx: 7 })
})

test('a range to play lies within the shot; all of it, or none of it, is no range', () => {
  const { now } = bench()
  const { firstFrame, lastFrame } = samplePlate
  expect(playedRange(now())).toMatchObject({ firstFrame, lastFrame })
  now().setPlayRange({ firstFrame: firstFrame + 2, lastFrame: lastFrame + 50 })
  expect(now().playRange).toEqual({ firstFrame: firstFrame + 2, lastFrame })
  now().setPlayRange({ firstFrame: firstFrame + 5, lastFrame: firstFrame + 3 })
  expect(now().playRange).toBeNull()
  now().setPlayRange({ firstFrame: 0, lastFrame: 1_000_000 })
  expect(now().playRange).toBeNull()
  now().setPlayback({ repeat: 'once' })
  expect(now().playback).toEqual({ repeat: 'once', pace: 'every', speed: 'full' })
  now().setDropped(4)
  now().setPlaying(true)
  expect(now().droppedFrames).toBe(0)
})
