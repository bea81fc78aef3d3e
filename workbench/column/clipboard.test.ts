import { samplePath, sampleEllipse, sampleRecord } from '../../tests/fixtures/sampleMend'
import { createBench } from '../store/bench'
import { pasteInto } from './clipboard'
import { samplePlate } from '../../tests/fixtures/sampleBench'

function bench() {
  const records = [
    sampleRecord({ id: 'a' }),
    sampleRecord({ id: 'b', name: 'Wire 2', stackIndex: 2 }),
    sampleRecord({ id: 'c', name: 'Dust 1', stackIndex: 3, areas: [sampleEllipse()] }),
  ]
  const store = createBench({
    plate: samplePlate,
    records,
    tracks: [],
    history: [],
    frame: 1010,
    selectedId: 'b',
    save: () => undefined,
    onBlocked: () => undefined,
  })
  return { store, mend: (id: string) => store.getState().records.get(id)! }
}

test('nothing copied pastes nothing', () => {
  const { store, mend } = bench()
  pasteInto(store, mend('b'), 'a1')
  expect(store.getState().stacks.done).toEqual([])
})

test('an area goes into another mend whole, with an id of its own', () => {
  const { store, mend } = bench()
  store.getState().copyArea(samplePath())
  pasteInto(store, mend('b'), 'a1')
  const { areas } = mend('b')
  expect(areas).toHaveLength(2)
  expect(areas[1]).toMatchObject({ shape: 'path', keys: areas[0]!.keys })
  expect(areas[1]!.id).not.toBe('a1')
  expect(store.getState().areaId).toBe(areas[1]!.id)
})

test('keys land on the frame that is looked at; keys of another shape are refused', () => {
  const { store, mend } = bench()
  store.getState().copyArea(samplePath(), [1001])
  pasteInto(store, mend('b'), 'a1')
  expect(mend('b').areas[0]!.keys.map((key) => key.frame)).toEqual([1001, 1010])
  const before = mend('c')
  pasteInto(store, before, 'e1')
  expect(mend('c')).toBe(before)
})
