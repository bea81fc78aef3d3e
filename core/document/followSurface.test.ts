import { sampleRecord } from '../../tests/fixtures/sampleMend'
import { applyEdit } from './edits'
import { followSurface, hiddenSpots, isOnSurface, surfaceTrack } from './followSurface'
import { drawnArea } from './areaCommands'
import { geometryAt } from './keyedGeometry'
import { mendSpots } from './spotsFound'
import type { KeyedArea } from './areas'
import type { Track } from './tracks'
import { tracksFromCsv, tracksToCsv } from './trackFiles'

const ellipse = (id: string, x: number, y: number) =>
  drawnArea(id, { shape: 'ellipse', x, y, radiusXPx: 5, radiusYPx: 5, turnDeg: 0 }, 1002)
const mend = {
  ...sampleRecord(),
  kind: 'blemish' as const,
  areas: [ellipse('a', 20, 20), ellipse('b', 60, 20)],
}
const state = { records: new Map([[mend.id, mend]]), tracks: new Map<string, Track>() }

/** The first goes 3 px right a frame; the second 1 px, and is out of sight on the last frame. */
const followed = (track: Track): Track => ({
  ...track,
  frames: [1002, 1003, 1004].map((frame, i) => [frame, 1, 20 + 3 * i, 20, 1, 60 + i, 20, i === 2 ? 0 : 1]),
})

test('a track holds the places of all spots; followed, each goes with its own, and the step can be taken back', () => {
  const track = followed(surfaceTrack(state, mend, 1002, 't'))
  expect(track).toMatchObject({
    kind: 'surface',
    name: 'Surface 1',
    seed: [20, 20, 60, 20],
    referenceFrame: 1002,
  })
  const after = applyEdit(state, followSurface(state, mend, track))
  const now = after.records.get(mend.id)!
  expect(isOnSurface(mend, state.tracks)).toBe(false)
  expect(isOnSurface(now, after.tracks)).toBe(true)
  const xs = now.areas.map((area) => (geometryAt(area as KeyedArea, after.tracks, 1004) as { x: number }).x)
  expect(xs[0]).toBeCloseTo(26, 1)
  expect(xs[1]).toBeCloseTo(62, 1)
  expect([1003, 1004].map((frame) => hiddenSpots(now, after.tracks, frame))).toEqual([0, 1])
  // Followed again from another frame it is the same track, begun where the spots lie there.
  const again = surfaceTrack(after, now, 1003, 'other')
  expect(again).toMatchObject({ id: 't', referenceFrame: 1003, frames: [] })
  expect(again.seed[0]).toBeCloseTo(23, 1)
  expect(again.seed[2]).toBeCloseTo(61, 1)
})

test('a track that another mend follows too is left to it', () => {
  const after = applyEdit(state, followSurface(state, mend, followed(surfaceTrack(state, mend, 1002, 't'))))
  const now = after.records.get(mend.id)!
  const shared = { ...after, records: new Map(after.records).set('copy', { ...now, id: 'copy' }) }
  expect(surfaceTrack(shared, now, 1003, 'new')).toMatchObject({ id: 'new', name: 'Surface 2' })
})

test('as a table it goes out and comes in again', () => {
  const track = followed(surfaceTrack(state, mend, 1002, 't'))
  const back = tracksFromCsv(tracksToCsv([track]), () => 't')
  expect(back).toMatchObject({
    ok: true,
    value: [{ kind: 'surface', seed: [20, 20, 60, 20], frames: track.frames }],
  })
})

test('spots that were found become one mend, a little wider than they are', () => {
  let id = 0
  const spots = [{ x: 10, y: 12, radiusPx: 4 }]
  const range = { firstFrame: 1001, lastFrame: 1009 }
  const { edit, mendId } = mendSpots(state.records, spots, 1002, range, () => `id${id++}`)
  const made = edit.changes[0]!.after!
  expect(made).toMatchObject({ id: mendId, kind: 'blemish', fill: { methodId: 'heal' } })
  expect(made.areas).toMatchObject([
    { shape: 'ellipse', keys: [{ frame: 1002, x: 10, y: 12, radiusXPx: 8 }] },
  ])
})
