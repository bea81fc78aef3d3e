import fc from 'fast-check'
import { newTrack } from './follow'
import {
  applyChanges,
  applyEdit,
  editSchema,
  fitsOn,
  invertChanges,
  invertEdit,
  squashChanges,
  squashEdits,
  touchedBy,
  type Change,
} from './edits'
import { sampleRecord } from '../../tests/fixtures/sampleMend'

type Note = { readonly text: number }
type Step = readonly [id: string, text: number | null]

/** Any run of edits that really happened, one after the other. */
const histories = fc.array(
  fc.array(fc.tuple(fc.constantFrom('a', 'b', 'c'), fc.option(fc.integer({ min: 0, max: 9 }))), {
    minLength: 1,
    maxLength: 4,
  }),
  { maxLength: 12 },
)

function play(
  records: ReadonlyMap<string, Note>,
  steps: readonly Step[],
): { changes: Change<Note>[]; after: ReadonlyMap<string, Note> } {
  const lastOf = new Map(steps.map(([id, text]) => [id, text === null ? null : { text }]))
  const changes = [...lastOf]
    .map(([id, after]) => ({ id, before: records.get(id) ?? null, after }))
    .filter((c) => c.before !== null || c.after !== null)
  return { changes, after: applyChanges(records, changes) }
}

const plain = (records: ReadonlyMap<string, Note>) => Object.fromEntries([...records].sort())

test('an edit and its inverse cancel; two squashed do what the two did', () => {
  fc.assert(
    fc.property(histories, (history) => {
      let records: ReadonlyMap<string, Note> = new Map()
      let whole: Change<Note>[] = []
      for (const steps of history) {
        const { changes, after } = play(records, steps)
        expect(plain(applyChanges(after, invertChanges(changes)))).toEqual(plain(records))
        whole = squashChanges(whole, changes)
        records = after
      }
      expect(plain(applyChanges(new Map<string, Note>(), whole))).toEqual(plain(records))
    }),
    { seed: 21, numRuns: 200 },
  )
})

test('what came and went again leaves no trace', () => {
  const add: Change<Note>[] = [{ id: 'a', before: null, after: { text: 1 } }]
  expect(squashChanges(add, invertChanges(add))).toEqual([])
})

test('an edit changes mends and tracks in one step, and undoing it takes both back', () => {
  const track = newTrack('t', 'point', 'Point 1', 1001, [3, 4])
  const edit = {
    label: 'both',
    changes: [{ id: 'wire-1', before: null, after: sampleRecord() }],
    tracks: [{ id: 't', before: null, after: track }],
  }
  const empty = { records: new Map(), tracks: new Map() }
  const after = applyEdit(empty, edit)
  expect([after.records.size, after.tracks.get('t')]).toEqual([1, track])
  expect(applyEdit(after, invertEdit(edit))).toEqual(empty)
  expect(editSchema.parse(edit)).toEqual(edit)
  expect(touchedBy(edit)).toEqual(['wire-1', 't'])
  expect(squashEdits(edit, invertEdit(edit))).toMatchObject({ changes: [], tracks: [] })
})

test('edits from outside are checked', () => {
  const good = { label: 'x', changes: [{ id: 'wire-1', before: null, after: sampleRecord() }], tracks: [] }
  expect(editSchema.safeParse(good).success).toBe(true)
  expect(editSchema.safeParse({ ...good, changes: [{ ...good.changes[0]!, id: 'other' }] }).success).toBe(
    false,
  )
  expect(editSchema.safeParse({ ...good, changes: [...good.changes, ...good.changes] }).success).toBe(false)
  expect(editSchema.safeParse({ ...good, changes: [{ id: 'a', before: null, after: null }] }).success).toBe(
    false,
  )
})

test('an edit fits where all that it says was there is there', () => {
  const [on, off] = [sampleRecord(), sampleRecord({ isOn: false })]
  const edit = { label: 'x', changes: [{ id: 'wire-1', before: on, after: off }], tracks: [] }
  const state = (record: typeof on) => ({ records: new Map([['wire-1', record]]), tracks: new Map() })
  expect(fitsOn(state(JSON.parse(JSON.stringify(on))), edit)).toBe(true)
  expect(fitsOn(state(off), edit)).toBe(false)
  expect(fitsOn({ records: new Map(), tracks: new Map() }, edit)).toBe(false)
  const track = newTrack('t', 'point', 'Point 1', 1001, [3, 4])
  expect(fitsOn(state(on), { ...edit, tracks: [{ id: 't', before: track, after: null }] })).toBe(false)
})
