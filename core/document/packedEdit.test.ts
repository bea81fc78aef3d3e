import fc from 'fast-check'
import { applyEdit, editSchema, invertEdit, type MendEdit, type MendRecords } from './edits'
import { needsToUnpack, packEdit, packedEditSchema, unpackEdit } from './packedEdit'
import { sampleEllipse, sampleRecord } from '../../tests/fixtures/sampleMend'

const NO_TRACKS = new Map()
const stateOf = (records: MendRecords) => ({ records, tracks: NO_TRACKS })

/** Any areas that a mend may have: some of eight, in any order, each in one of three sizes. */
const areasOfMend = fc
  .shuffledSubarray([...'abcdefgh'], { minLength: 1 })
  .chain((ids) =>
    fc.tuple(...ids.map((id) => fc.constantFrom(4, 8, 12).map((widthPx) => sized(id, widthPx)))),
  )
const sized = (id: string, radiusXPx: number) =>
  sampleEllipse({ id, keys: [{ frame: 1001, x: 50, y: 40, radiusXPx, radiusYPx: 8, turnDeg: 0 }] })

/** Two mends and what an edit makes of them; each may come or go. */
const edits: fc.Arbitrary<MendEdit> = fc
  .record({
    before: fc.array(fc.option(areasOfMend), { minLength: 2, maxLength: 2 }),
    after: fc.array(fc.option(areasOfMend), { minLength: 2, maxLength: 2 }),
    isOn: fc.boolean(),
  })
  .map(({ before, after, isOn }) => ({
    label: 'any',
    changes: ['m', 'n']
      .map((id, i) => ({
        id,
        before: before[i] ? sampleRecord({ id, areas: before[i] }) : null,
        after: after[i] ? sampleRecord({ id, areas: after[i], isOn }) : null,
      }))
      .filter((change) => change.before !== null || change.after !== null),
    tracks: [],
  }))

const sideOf = ({ changes }: MendEdit, side: 'before' | 'after'): MendRecords =>
  new Map(changes.flatMap((change) => (change[side] ? [[change.id, change[side]] as const] : [])))

/** As it comes out of a message, or out of the database. */
const sent = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

test('an edit that was packed is told whole again from the mends before it, and from those after it; so is the way back', () => {
  fc.assert(
    fc.property(edits, (edit) => {
      const packed = sent(packEdit(edit))
      const [before, after] = [sideOf(edit, 'before'), sideOf(edit, 'after')]
      expect(unpackEdit(packed, before)).toEqual(edit)
      expect(unpackEdit(packed, after, 'after')).toEqual(edit)
      const back = unpackEdit(invertEdit(packed), after)
      expect(back).toEqual(invertEdit(edit))
      expect(applyEdit(stateOf(after), back!).records).toEqual(before)
      if (edit.changes.length > 0) expect(packedEditSchema.parse(packed)).toEqual(packed)
    }),
    { seed: 5, numRuns: 300 },
  )
})

const ids = [...'abcdef']
const areas = ids.map((id) => sized(id, 4))
const mend = sampleRecord({ id: 'm', areas })
const editTo = (after: Parameters<typeof sampleRecord>[0]): MendEdit => ({
  label: 'one',
  changes: [{ id: 'm', before: mend, after: sampleRecord({ id: 'm', areas, ...after }) }],
  tracks: [],
})

test('what stays is told by number, in runs; what is alike but made anew stays too', () => {
  const grown = packEdit(editTo({ areas: [...sent(areas), sized('g', 4)] })).changes[0]!
  expect(grown.before!.areas).toEqual([{ shape: 'kept', from: 0, count: 6 }])
  expect(grown.after!.areas).toEqual([{ shape: 'kept', from: 0, count: 6 }, sized('g', 4)])
  const changed = [...areas.slice(0, 2), sized('c', 12), ...areas.slice(3)]
  expect(packEdit(editTo({ areas: changed })).changes[0]!.before!.areas).toEqual([
    { shape: 'kept', from: 0, count: 2 },
    areas[2],
    { shape: 'kept', from: 3, count: 3 },
  ])
})

test('mends that are not those it was made on are told from those that are', () => {
  const packed = packEdit(editTo({ areas: areas.slice(1) }))
  expect(needsToUnpack(packed)).toEqual(['m'])
  const on = (now: Parameters<typeof sampleRecord>[0]) =>
    unpackEdit(packed, new Map([['m', sampleRecord({ id: 'm', ...now })]]))
  expect(on({ areas })).not.toBeNull()
  expect(on({ areas: areas.slice(1) })).toBeNull()
  expect(on({ areas: [...areas, sized('g', 4)] })).toBeNull()
  expect(on({ areas: [sized('other', 4), ...areas.slice(1)] })).toBeNull()
  expect(unpackEdit(packed, new Map())).toBeNull()
})

test('an edit of earlier versions, told whole, needs nothing to be told', () => {
  const edit = editTo({ isOn: false })
  expect(needsToUnpack(edit)).toEqual([])
  expect(packedEditSchema.parse(edit)).toEqual(edit)
  expect(unpackEdit(edit, new Map())).toEqual(edit)
})

test('whatever its numbers say, what comes out is a mend: each area once, one at least', () => {
  const packed = packEdit(editTo({ isOn: false }))
  const withAreas = (after: readonly object[]) => {
    const [change] = packed.changes
    const told = { ...packed, changes: [{ ...change!, after: { ...change!.after!, areas: after } }] }
    const parsed = packedEditSchema.safeParse(told)
    return parsed.success ? unpackEdit(parsed.data, new Map([['m', mend]])) : 'refused'
  }
  const kept = (from: number, count: number) => ({ shape: 'kept', from, count })
  expect(withAreas([kept(0, 6)])).toMatchObject({ changes: [{ after: { isOn: false } }] })
  expect(withAreas([])).toBeNull()
  expect(withAreas([kept(0, 6), kept(2, 1)])).toBeNull()
  expect(withAreas([kept(4, 3)])).toBeNull()
  expect(withAreas([kept(0, 0)])).toBe('refused')
  expect(withAreas([kept(-1, 2)])).toBe('refused')
  expect(withAreas([{ ...kept(0, 1), more: 1 }])).toBe('refused')
  expect(editSchema.safeParse(packed).success).toBe(false)
})
