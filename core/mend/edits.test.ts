import fc from 'fast-check'
import { advanceStacks, applyEdit, editSchema, emptyStacks, invertEdit, squashEdits, stacksOf, type Edit } from './edits'
import { sampleRecord } from './sampleMend'

type Note = { readonly text: number }
type Step = readonly [id: string, text: number | null]

/** Any run of edits that really happened, one after the other. */
const histories = fc.array(
  fc.array(fc.tuple(fc.constantFrom('a', 'b', 'c'), fc.option(fc.integer({ min: 0, max: 9 }))), { minLength: 1, maxLength: 4 }),
  { maxLength: 12 },
)

function play(records: Map<string, Note>, steps: readonly Step[]): { edit: Edit<Note>; after: Map<string, Note> } {
  const lastOf = new Map(steps.map(([id, text]) => [id, text === null ? null : { text }]))
  const changes = [...lastOf]
    .map(([id, after]) => ({ id, before: records.get(id) ?? null, after }))
    .filter((c) => c.before !== null || c.after !== null)
  const edit = { label: 'step', changes }
  return { edit, after: applyEdit(records, edit) }
}

const plain = (records: ReadonlyMap<string, Note>) => Object.fromEntries([...records].sort())

test('an edit and its inverse cancel; two squashed do what the two did', () => {
  fc.assert(
    fc.property(histories, (history) => {
      let records = new Map<string, Note>()
      let whole: Edit<Note> = { label: 'all', changes: [] }
      for (const steps of history) {
        const { edit, after } = play(records, steps)
        expect(plain(applyEdit(after, invertEdit(edit)))).toEqual(plain(records))
        whole = squashEdits(whole, edit)
        records = after
      }
      expect(plain(applyEdit(new Map<string, Note>(), whole))).toEqual(plain(records))
    }),
    { seed: 21, numRuns: 200 },
  )
})

test('what came and went again leaves no trace', () => {
  const add: Edit<Note> = { label: 'add', changes: [{ id: 'a', before: null, after: { text: 1 } }] }
  expect(squashEdits(add, invertEdit(add)).changes).toEqual([])
})

test('undo and redo walk the stored history, and a new step forgets what was undone', () => {
  const first = { label: 'first', changes: [{ id: 'wire-1', before: null, after: sampleRecord() }] }
  const second = { label: 'second', changes: [{ id: 'wire-1', before: sampleRecord(), after: sampleRecord({ isOn: false }) }] }
  const third = { label: 'third', changes: [{ id: 'wire-1', before: sampleRecord(), after: sampleRecord({ name: 'Left' }) }] }
  const stacks = stacksOf([
    { revision: 1, role: 'do', edit: first },
    { revision: 2, role: 'do', edit: second },
    { revision: 3, role: 'undo', edit: invertEdit(second) },
  ])
  expect(stacks.done.map((edit) => edit.label)).toEqual(['first'])
  expect(stacks.undone).toEqual([second])
  const redone = advanceStacks(stacks, 'redo', second)
  expect([redone.done.length, redone.undone.length]).toEqual([2, 0])
  expect(advanceStacks(stacks, 'do', third)).toEqual({ done: [first, third], undone: [] })
  expect(stacksOf([])).toEqual(emptyStacks)
})

test('edits from outside are checked', () => {
  const good = { label: 'x', changes: [{ id: 'wire-1', before: null, after: sampleRecord() }] }
  expect(editSchema.safeParse(good).success).toBe(true)
  expect(editSchema.safeParse({ ...good, changes: [{ ...good.changes[0]!, id: 'other' }] }).success).toBe(false)
  expect(editSchema.safeParse({ ...good, changes: [...good.changes, ...good.changes] }).success).toBe(false)
  expect(editSchema.safeParse({ ...good, changes: [{ id: 'a', before: null, after: null }] }).success).toBe(false)
})
