import { apply } from '../geometry/transform'
import { newTrack } from './follow'
import { sampleEllipse } from '../../tests/fixtures/sampleMend'
import { keyedShiftAt, restingSource, shiftAt, sourceFromTarget, withShiftAt } from './sourceKeys'
import { sourceSchema, type Source } from './source'
import type { Track, Tracks } from './tracks'

const span = { firstFrame: 1001, lastFrame: 1048 }
const NO_TRACKS: Tracks = new Map()
const area = sampleEllipse() // its middle rests at 50, 40
const shift = (dx: number, dy: number) => ({ dx, dy, turnDeg: 0, scale: 1 })

/** A point track that moves 2 px right and 1 px down a frame. */
const moving: Track = {
  ...newTrack('t', 'point', 'Wall', 1001, [80, 40]),
  frames: Array.from({ length: 48 }, (_, i) => [1001 + i, 1, 80 + 2 * i, 40 + i] as Track['frames'][number]),
}
const tracks: Tracks = new Map([['t', moving]])
const riding = (source: Source): Source => ({
  ...source,
  follow: { trackId: 't', uses: { position: true, rotation: true, scale: true, skew: true } },
})

test('a source that rests is the same shift on every frame; a key set elsewhere is one key more', () => {
  const source = withShiftAt(null, area, NO_TRACKS, 1020, shift(30, -4))
  expect(source.keys).toEqual([{ frame: 1020, ...shift(30, -4) }])
  const late: Source = { ...source, keys: [{ frame: 1010, ...shift(30, -4) }] }
  const moved = withShiftAt(late, area, NO_TRACKS, 1030, shift(50, 0))
  expect(moved.keys.map((key) => key.frame)).toEqual([1010, 1030])
  expect(keyedShiftAt(moved, 1001)).toEqual(shift(30, -4))
  expect(keyedShiftAt(moved, 1048)).toEqual(shift(50, 0))
})

test('between keys it travels straight when asked to; keys may not stand twice or out of order', () => {
  const source: Source = { keys: [{ frame: 1001, ...shift(0, 0) }, { frame: 1011, ...shift(20, 10) }], interpolation: 'linear', follow: null } // prettier-ignore
  expect(keyedShiftAt(source, 1006)).toEqual(shift(10, 5))
  expect(sourceSchema.safeParse({ ...source, keys: [...source.keys].reverse() }).success).toBe(false)
  expect(sourceSchema.safeParse({ ...source, keys: [] }).success).toBe(false)
  expect(sourceSchema.safeParse(source).success).toBe(true)
})

test('a place of the area is taken from where turn, size and shift lead', () => {
  const source: Source = {
    keys: [{ frame: 1001, dx: 100, dy: 10, turnDeg: 90, scale: 2 }],
    interpolation: 'smooth',
    follow: null,
  }
  const m = sourceFromTarget(source, area, NO_TRACKS, 1001)
  expect(apply(m, 50, 40)).toEqual({
    x: expect.closeTo(150, 6) as number,
    y: expect.closeTo(50, 6) as number,
  })
  // One px to the right of the middle: turned a quarter clockwise and doubled, two px further down.
  expect(apply(m, 51, 40)).toEqual({
    x: expect.closeTo(150, 6) as number,
    y: expect.closeTo(52, 6) as number,
  })
})

test('riding on a track of its own it goes where the track goes, while the area rests', () => {
  const source = riding(restingSource(span, shift(30, 0)))
  expect(shiftAt(source, area, tracks, 1001)).toMatchObject({ dx: 30, dy: 0 })
  expect(shiftAt(source, area, tracks, 1011).dx).toBeCloseTo(50, 6)
  expect(shiftAt(source, area, tracks, 1011).dy).toBeCloseTo(10, 6)
  // Set right on a frame, it is there on that frame, and the key is an offset.
  const set = withShiftAt(source, area, tracks, 1011, shift(60, 10))
  expect(shiftAt(set, area, tracks, 1011).dx).toBeCloseTo(60, 3)
  expect(keyedShiftAt(set, 1011).dx).toBeCloseTo(40, 3)
  expect(shiftAt(set, area, tracks, 1001).dx).toBeCloseTo(30, 3)
})

test('a track that is gone leaves the keys alone', () => {
  expect(shiftAt(riding(restingSource(span, shift(12, 3))), area, NO_TRACKS, 1020)).toEqual(shift(12, 3))
})
