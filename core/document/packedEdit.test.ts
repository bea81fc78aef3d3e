import fc from 'fast-check'
import type { Area } from './areas'
import { applyEdit, editSchema, invertEdit, type MendEdit, type MendRecords, type ShotState } from './edits'
import { newTrack } from './follow'
import { needsToUnpack, packEdit, packedEditSchema, unpackEdit } from './packedEdit'
import type { Track } from './tracks'
import { sampleEllipse, samplePath, sampleRecord } from '../../tests/fixtures/sampleMend'

const stateOf = (records: MendRecords): ShotState => ({ records, tracks: new Map() })

/** Any keys that an area may have: on some of five frames, each in one of two sizes. */
const keysOfArea = fc
  .subarray([1001, 1002, 1005, 1010, 1020], { minLength: 1 })
  .chain((frames) => fc.tuple(...frames.map((frame) => fc.constantFrom(4, 8).map((radiusXPx) => sizedKey(frame, radiusXPx))))) // prettier-ignore
const sizedKey = (frame: number, radiusXPx: number) => ({ frame, x: 50, y: 40, radiusXPx, radiusYPx: 8, turnDeg: 0 }) // prettier-ignore
const sized = (id: string, radiusXPx: number) => sampleEllipse({ id, keys: [sizedKey(1001, radiusXPx)] })

/** Any areas that a mend may have: some of six, in any order, each with any keys, or a path. */
const areasOfMend = fc
  .shuffledSubarray([...'abcdef'], { minLength: 1 })
  .chain((ids) => fc.tuple(...ids.map((id) => fc.oneof(keysOfArea.map((keys): Area => sampleEllipse({ id, keys })), fc.constant<Area>(samplePath({ id })))))) // prettier-ignore

/** Any rows of a track, three numbers each. */
const anyTrack = (id: string) =>
  keysOfArea.map((keys): Track => ({ ...newTrack(id, 'point', id, 1001, [1, 2]), frames: keys.map(({ frame, radiusXPx }) => [frame, 1, radiusXPx, 2]) })) // prettier-ignore

const twoSides = <T>(one: fc.Arbitrary<T>) => fc.record({ before: fc.option(one), after: fc.option(one) })

/** Two mends and a track, and what an edit makes of them; each may come or go. */
const edits: fc.Arbitrary<MendEdit> = fc
  .record({
    mends: fc.tuple(twoSides(areasOfMend), twoSides(areasOfMend)),
    track: twoSides(anyTrack('t')),
    isOn: fc.boolean(),
  })
  .map(({ mends, track, isOn }) => ({
    label: 'any',
    changes: mends
      .map(({ before, after }, i) => ({
        id: `m${i}`,
        before: before && sampleRecord({ id: `m${i}`, areas: before }),
        after: after && sampleRecord({ id: `m${i}`, areas: after, isOn }),
      }))
      .filter((change) => change.before !== null || change.after !== null),
    tracks: track.before || track.after ? [{ id: 't', ...track }] : [],
  }))

const sideOf = ({ changes, tracks }: MendEdit, side: 'before' | 'after'): ShotState => ({
  records: new Map(changes.flatMap((change) => (change[side] ? [[change.id, change[side]] as const] : []))),
  tracks: new Map(tracks.flatMap((change) => (change[side] ? [[change.id, change[side]] as const] : []))),
})

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
      expect(applyEdit(after, back!)).toEqual(before)
      if (edit.changes.length + edit.tracks.length > 0) expect(packedEditSchema.parse(packed)).toEqual(packed)
    }),
    { seed: 5, numRuns: 400 },
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

test('of an area that has changed only keys that have changed are told, of a track only frames', () => {
  const keys = [1001, 1005, 1010].map((frame) => sizedKey(frame, 4))
  const outline = sampleEllipse({ id: 'a', keys })
  const grown = { ...outline, keys: [...keys.slice(0, 2), sizedKey(1010, 9), sizedKey(1015, 4)] }
  const track: Track = { ...newTrack('t', 'point', 'Point 1', 1001, [1, 2]), frames: [[1001, 1, 1, 2], [1002, 1, 3, 4]] } // prettier-ignore
  const longer: Track = { ...track, name: 'Left', frames: [...track.frames, [1003, 0.5, 5, 6]] }
  const { changes, tracks } = packEdit({
    label: 'both',
    changes: [
      { id: 'm', before: sampleRecord({ areas: [outline] }), after: sampleRecord({ areas: [grown] }) },
    ],
    tracks: [{ id: 't', before: track, after: longer }],
  })
  const run = { shape: 'kept', from: 0, count: 2 }
  expect(changes[0]!.before!.areas).toEqual([{ ...outline, keys: [run, keys[2]] }])
  expect(changes[0]!.after!.areas).toEqual([{ ...outline, keys: [run, ...grown.keys.slice(2)] }])
  expect(tracks[0]!.before).toEqual({ ...track, frames: [run] })
  expect(tracks[0]!.after).toEqual({ ...longer, frames: [run, [1003, 0.5, 5, 6]] })
})

test('keys and frames that are packed out of order make neither mend nor track', () => {
  const area = sampleEllipse({ id: 'a', keys: [sizedKey(1001, 4), sizedKey(1005, 4)] })
  const before = sampleRecord({ id: 'm', areas: [area] })
  const packed = packEdit({ label: 'on', changes: [{ id: 'm', before, after: { ...before, isOn: false } }], tracks: [] }) // prettier-ignore
  const withKeys = (keys: readonly object[], shape = 'ellipse') => {
    const [change] = packed.changes
    const told = { ...change!, before: { ...before, areas: [{ ...area, keys: [{ shape: 'kept', from: 0, count: 2 }] }] }, after: { ...before, areas: [{ ...area, shape, keys }] } } // prettier-ignore
    const parsed = packedEditSchema.safeParse({ ...packed, changes: [told] })
    return parsed.success ? unpackEdit(parsed.data, stateOf(new Map([['m', before]]))) : 'refused'
  }
  const kept = (from: number) => ({ shape: 'kept', from, count: 1 })
  expect(withKeys([kept(0), sizedKey(1003, 4), kept(1)])).toMatchObject({ changes: [{ after: { areas: [{ keys: [{}, { frame: 1003 }, {}] }] } }] }) // prettier-ignore
  // Keys of an ellipse are none of a box.
  expect(withKeys([kept(0)], 'box')).toBeNull()
  expect(withKeys([kept(1), kept(0)])).toBeNull()
  expect(withKeys([kept(0), kept(0)])).toBeNull()
  expect(withKeys([kept(2)])).toBeNull()
  expect(withKeys([sizedKey(1005, 4), sizedKey(1003, 4)])).toBe('refused')
  expect(withKeys([])).toBe('refused')
})

test('mends that are not those it was made on are told from those that are', () => {
  const packed = packEdit(editTo({ areas: areas.slice(1) }))
  expect(needsToUnpack(packed)).toEqual({ mends: ['m'], tracks: [] })
  const on = (now: Parameters<typeof sampleRecord>[0]) =>
    unpackEdit(packed, stateOf(new Map([['m', sampleRecord({ id: 'm', ...now })]])))
  expect(on({ areas })).not.toBeNull()
  expect(on({ areas: areas.slice(1) })).toBeNull()
  expect(on({ areas: [...areas, sized('g', 4)] })).toBeNull()
  expect(on({ areas: [sized('other', 4), ...areas.slice(1)] })).toBeNull()
  expect(unpackEdit(packed, stateOf(new Map()))).toBeNull()
})

test('an edit of earlier versions, told whole, needs nothing to be told', () => {
  const edit = editTo({ isOn: false })
  expect(needsToUnpack(edit)).toEqual({ mends: [], tracks: [] })
  // What no schema of a mend takes, this one does not take either.
  for (const wrong of [
    [],
    [areas[0], areas[0]],
    [{ ...areas[0]!, keys: [] }],
    [{ ...areas[0]!, keys: [sizedKey(1002, 4), sizedKey(1001, 4)] }],
  ]) {
    const told = { ...edit, changes: [{ id: 'm', before: null, after: { ...mend, areas: wrong } }] }
    expect([packedEditSchema.safeParse(told).success, editSchema.safeParse(told).success]).toEqual([
      false,
      false,
    ])
  }
  expect(packedEditSchema.parse(edit)).toEqual(edit)
  expect(unpackEdit(edit, stateOf(new Map()))).toEqual(edit)
})

test('whatever its numbers say, what comes out is a mend: each area once, one at least', () => {
  const packed = packEdit(editTo({ isOn: false }))
  const withAreas = (after: readonly object[]) => {
    const [change] = packed.changes
    const told = { ...packed, changes: [{ ...change!, after: { ...change!.after!, areas: after } }] }
    const parsed = packedEditSchema.safeParse(told)
    return parsed.success ? unpackEdit(parsed.data, stateOf(new Map([['m', mend]]))) : 'refused'
  }
  const kept = (from: number, count: number) => ({ shape: 'kept', from, count })
  expect(withAreas([kept(0, 6)])).toMatchObject({ changes: [{ after: { isOn: false } }] })
  expect(withAreas([])).toBe('refused')
  expect(withAreas([kept(0, 6), kept(2, 1)])).toBeNull()
  expect(withAreas([kept(4, 3)])).toBeNull()
  expect(withAreas([kept(0, 0)])).toBe('refused')
  expect(withAreas([kept(-1, 2)])).toBe('refused')
  expect(withAreas([{ ...kept(0, 1), more: 1 }])).toBe('refused')
  expect(editSchema.safeParse(packed).success).toBe(false)
})
