import fc from 'fast-check'
import { invertEdit, type MendEdit } from './edits'
import type { PackedEdit } from './packedEdit'
import { advanceStacks, afterOthers, dropStep, emptyStacks, stacksOf, type HistoryStep } from './history'
import { sampleRecord } from '../../tests/fixtures/sampleMend'

const editOf = (label: string, over: Parameters<typeof sampleRecord>[0] = {}): MendEdit => ({
  label,
  changes: [{ id: 'wire-1', before: sampleRecord(), after: sampleRecord(over) }],
  tracks: [],
})
const [first, second, third] = [
  editOf('first'),
  editOf('second', { isOn: false }),
  editOf('third', { name: 'Left' }),
]
const step = (editId: string, edit: PackedEdit): HistoryStep => ({ editId, role: 'do', targetId: null, edit })
const back = (editId: string, targetId: string | null, edit: PackedEdit): HistoryStep => ({
  editId,
  role: 'undo',
  targetId,
  edit: invertEdit(edit),
})
const again = (editId: string, targetId: string | null, edit: PackedEdit): HistoryStep => ({
  editId,
  role: 'redo',
  targetId,
  edit,
})
const ids = (steps: readonly { readonly id: string }[]) => steps.map(({ id }) => id)

test('undo and redo walk the stored history, and a new step forgets what was undone', () => {
  const stacks = stacksOf(
    [step('a', first), step('b', second), back('c', 'b', second)].map((one, i) => ({
      ...one,
      revision: i + 1,
    })),
  )
  expect(ids(stacks.done)).toEqual(['a'])
  expect(stacks.undone).toEqual([{ id: 'b', edit: second }])
  const redone = advanceStacks(stacks, again('d', 'b', second))
  expect([ids(redone.done), ids(redone.undone)]).toEqual([['a', 'b'], []])
  const onwards = advanceStacks(stacks, step('e', third))
  expect([ids(onwards.done), ids(onwards.undone)]).toEqual([['a', 'e'], []])
  expect(stacksOf([])).toEqual(emptyStacks)
})

test('an undo names what it takes back: a step made in between by somebody else stays', () => {
  const both = [step('mine', first), step('theirs', second)].reduce(advanceStacks, emptyStacks)
  const after = advanceStacks(both, back('u', 'mine', first))
  expect([ids(after.done), ids(after.undone)]).toEqual([['theirs'], ['mine']])
})

test('histories of before steps were named take back the latest', () => {
  const both = [step('a', first), step('b', second)].reduce(advanceStacks, emptyStacks)
  const undone = advanceStacks(both, back('u', null, second))
  expect([ids(undone.done), ids(undone.undone)]).toEqual([['a'], ['b']])
  expect(ids(advanceStacks(undone, again('r', null, second)).done)).toEqual(['a', 'b'])
})

test('what others do is theirs; what they take back of mine is gone from both stacks', () => {
  const mine = [step('a', first), step('b', second)].reduce(advanceStacks, emptyStacks)
  expect(afterOthers(mine, step('x', third))).toBe(mine)
  expect(ids(afterOthers(mine, back('y', 'a', first)).done)).toEqual(['b'])
  expect(dropStep(mine, 'nothing')).toEqual(mine)
})

test('after any run of steps back and forth, both stacks together hold each step once at most', () => {
  const moves = fc.array(fc.constantFrom('do' as const, 'undo' as const, 'redo' as const), { maxLength: 30 })
  fc.assert(
    fc.property(moves, (roles) => {
      let [stacks, made] = [emptyStacks, 0]
      for (const role of roles) {
        const from = role === 'undo' ? stacks.done : stacks.undone
        const target = from.at(-1)
        if (role === 'do') stacks = advanceStacks(stacks, step(`s${made++}`, first))
        else if (target)
          stacks = advanceStacks(stacks, (role === 'undo' ? back : again)('u', target.id, target.edit))
        const all = [...ids(stacks.done), ...ids(stacks.undone)]
        expect(new Set(all).size).toBe(all.length)
      }
    }),
    { seed: 11, numRuns: 100 },
  )
})
