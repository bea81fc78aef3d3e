import { apply, compose, similarity, translationBy } from '../geometry/transform'
import { setFollow } from './areaCommands'
import { newTrack } from './follow'
import { sampleEllipse, sampleRecord } from '../../tests/fixtures/sampleMend'
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

/** A plane that turns by 2° and grows by 2 % a frame about 200, 100. */
const floor: Track = {
  ...newTrack('f', 'planar', 'Floor', 1001, [0, 0, 400, 0, 400, 200, 0, 200]),
  frames: Array.from({ length: 48 }, (_, i) => {
    const corners = [0, 0, 400, 0, 400, 200, 0, 200]
    const m = floorMotion(i)
    const moved = [0, 1, 2, 3].flatMap((k) => {
      const { x, y } = apply(m, corners[2 * k]!, corners[2 * k + 1]!)
      return [x, y]
    })
    return [1001 + i, 1, ...moved] as Track['frames'][number]
  }),
}
function floorMotion(i: number) {
  const about = similarity(1.02 ** i, (i * 2 * Math.PI) / 180, 0, 0)
  return compose(translationBy(200, 100), compose(about, translationBy(-200, -100)))
}
const onFloor: Tracks = new Map([['f', floor]])
const follow = { trackId: 'f', uses: { position: true, rotation: true, scale: true, skew: true } }

test('riding on the track that the area rides on, it stays on the same piece of the floor, however that turns and swells', () => {
  const ridingArea = sampleEllipse({ follow })
  const source: Source = { ...restingSource(span, shift(60, 20)), follow }
  for (const i of [0, 7, 20]) {
    const m = floorMotion(i)
    const ground = apply(m, 55 + 60, 40 + 20) // 60 right and 20 down on the floor of the first frame
    const here = apply(m, 55, 40)
    const taken = apply(sourceFromTarget(source, ridingArea, onFloor, 1001 + i), here.x, here.y)
    expect([taken.x - ground.x, taken.y - ground.y].every((off) => Math.abs(off) < 0.02)).toBe(true)
  }
  // Turned with the floor: by no more than both turn, so none.
  expect(shiftAt(source, ridingArea, onFloor, 1021).turnDeg).toBeCloseTo(0, 2)
  const set = withShiftAt(source, ridingArea, onFloor, 1021, shift(-50, 30))
  const seen = shiftAt(set, ridingArea, onFloor, 1021)
  expect([seen.dx, seen.dy]).toEqual([expect.closeTo(-50, 1), expect.closeTo(30, 1)])
})

test('an area that begins to follow takes a source along that went with it, and leaves one that rides elsewhere', () => {
  const state = { records: new Map(), tracks: new Map([...onFloor, ...tracks]) }
  const mend = sampleRecord({ areas: [area], source: restingSource(span, shift(60, 20)) })
  const { source } = setFollow(state, mend, area.id, follow, 1011).changes[0]!.after!
  expect(source!.follow).toEqual(follow)
  const followed = sampleEllipse({ follow })
  expect(shiftAt(source!, followed, state.tracks, 1001).dx).toBeLessThan(60) // the floor has grown until then
  const elsewhere = { ...mend, source: riding(restingSource(span, shift(30, 0))) }
  expect(setFollow(state, elsewhere, area.id, follow, 1011).changes[0]!.after!.source!.follow!.trackId).toBe(
    't',
  )
})
