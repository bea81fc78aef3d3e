import fc from 'fast-check'
import { newTrack } from '../core/document/follow'
import type { ShotDocument } from '../core/plan/shotDocument'
import { sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { applyChange, changeBetween } from './documents'

const plate = { firstFrame: 1001, lastFrame: 1010, width: 64, height: 48 }
const mends = ['a', 'b', 'c'].map((id) => sampleMend({ id }))
const tracks = ['t', 'u'].map((id) => newTrack(id, 'point', id, 1001, [1, 2]))

/** Any shot of some of three mends, on or off, in any order, with some of two tracks. */
const documents: fc.Arbitrary<ShotDocument> = fc
  .record({
    some: fc.shuffledSubarray(mends),
    off: fc.subarray(['a', 'b', 'c']),
    held: fc.subarray(tracks),
  })
  .map(({ some, off, held }) => ({
    plate,
    mends: some.map((mend) => (off.includes(mend.id) ? { ...mend, isOn: false } : mend)),
    tracks: new Map(held.map((track) => [track.id, track])),
    scene: null,
  }))

/** As it comes out at the other end of a message. */
const sent = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

test('a worker that is told of every change has the document, whatever the changes', () => {
  fc.assert(
    fc.property(fc.array(documents, { minLength: 1, maxLength: 6 }), (states) => {
      let [here, there]: [ShotDocument | null, ShotDocument | null] = [null, null]
      for (const state of states) {
        there = applyChange(there, sent(changeBetween(here, state)))
        here = state
        expect(there).toEqual(here)
      }
    }),
    { seed: 3, numRuns: 100 },
  )
})

test('what stays the same is not sent, and stays the same object over there', () => {
  const before: ShotDocument = { plate, mends, tracks: new Map([['t', tracks[0]!]]), scene: null }
  const after = {
    ...before,
    mends: [mends[1]!, { ...mends[0]!, finish: { ...mends[0]!.finish, grain: 0.5 } }],
  }
  const change = changeBetween(before, after)
  expect([change.stack, change.mends.length, change.tracks.length, 'scene' in change]).toEqual([
    ['b', 'a'],
    1,
    0,
    false,
  ])
  const known = applyChange(null, sent(changeBetween(null, before)))
  const told = applyChange(known, sent(change))
  expect(told.tracks).toBe(known.tracks)
  expect(told.mends[0]).toBe(known.mends[1])
  // Only its finish has changed: its areas are placed as they were.
  expect(told.mends[1]!.areas[0]).toBe(known.mends[0]!.areas[0])
})

test('of a mend that has changed only areas that have changed are sent; the others stay the same objects', () => {
  const areas = ['x', 'y', 'z'].map((id) => sampleEllipse({ id }))
  const mend = sampleMend({ id: 'a', areas })
  const before: ShotDocument = { plate, mends: [mend], tracks: new Map(), scene: null }
  const moved = sampleEllipse({ id: 'y', role: 'holdout' })
  const after = { ...before, mends: [{ ...mend, areas: [areas[2]!, moved] }] }
  const change = changeBetween(before, after)
  expect(change.mends[0]!.areas).toEqual([
    { shape: 'kept', from: 2, count: 1 },
    { ...moved, keys: [{ shape: 'kept', from: 0, count: 1 }] },
  ])
  const there = applyChange(null, sent(changeBetween(null, before)))
  const next = applyChange(there, sent(change))
  expect(next).toEqual(after)
  expect(next.mends[0]!.areas[0]).toBe(there.mends[0]!.areas[2])
})
