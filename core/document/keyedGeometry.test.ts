import { similarity, type Matrix3 } from '../geometry/transform'
import type { Area, BoxKey, EllipseKey, Geometry, KeyedArea } from './areas'
import { newTrack } from './follow'
import { geometryAt, geometryFrom, keyedFrom, keyedGeometryAt, movedBy, numbersOf } from './keyedGeometry'
import {
  hasKeyAt,
  outlineThrough,
  withGeometryAt,
  withKeysMoved,
  withKeysPasted,
  withOnlyGeometry,
  withoutKeysAt,
  withPointBent,
  withPointInserted,
  withPointRemoved,
} from './keys'
import { placeArea } from '../plan/placedArea'
import { flattenOutline } from '../geometry/outline'
import { sampleEllipse, samplePath } from '../../tests/fixtures/sampleMend'
import type { Track } from './tracks'

const span = { firstFrame: 1001, lastFrame: 1048 }
const NO_TRACKS = new Map<string, never>()
const common = { id: 'a', role: 'cover' as const, interpolation: 'smooth' as const, follow: null }
const points = (x: number, widthPx = 4) => [
  { x, y: 0, widthPx },
  { x: x + 10, y: 20, widthPx },
]
const path = (interpolation: 'smooth' | 'linear', ...keys: [number, number][]) =>
  samplePath({ interpolation, keys: keys.map(([frame, x]) => ({ frame, points: points(x) })) })
const xAt = (area: KeyedArea, frame: number) => numbersOf(keyedGeometryAt(area, frame))[0]!

const outline = (size: number): Geometry => ({
  shape: 'outline',
  points: outlineThrough(
    [
      { x: 10, y: 10 },
      { x: 10 + size, y: 12 },
      { x: 8 + size, y: 14 + size },
      { x: 12, y: 9 + size },
    ],
    'smooth',
  ),
})
const areas: KeyedArea[] = [
  path('smooth', [1001, 0], [1010, 30], [1020, 0]),
  sampleEllipse(),
  {
    ...common,
    shape: 'box',
    keys: [{ frame: 1001, x: 40, y: 30, widthPx: 20, heightPx: 12, turnDeg: 15, cornerPx: 2 }],
  },
  withOnlyGeometry({ ...common, shape: 'outline', keys: [{ frame: 1001, points: outlineThrough([{ x: 0, y: 0 }, { x: 1, y: 0 }, { x: 1, y: 1 }], 'corner') }] }, NO_TRACKS, 1001, outline(30)), // prettier-ignore
]

test('before the first and after the last key a shape rests; on a key it is the key', () => {
  const keyed = path('smooth', [1005, 10], [1011, 40], [1020, 0])
  expect([1001, 1011, 1040].map((frame) => xAt(keyed, frame))).toEqual([10, 40, 0])
})

test('smooth travel runs through the keys on a curve, linear straight', () => {
  expect(xAt(path('linear', [1001, 0], [1005, 16], [1009, 64]), 1003)).toBeCloseTo(8, 10)
  // x = t²: three keys of a parabola give the parabola back.
  expect(xAt(path('smooth', [1001, 0], [1005, 16], [1009, 64]), 1003)).toBeCloseTo(4, 10)
})

test.each(areas.map((area) => [area.shape, area] as const))(
  'every number of a %s is keyed, and numbers go there and back',
  (shape, area) => {
    const geometry = keyedGeometryAt(area, 1010)
    expect(geometryFrom(shape, numbersOf(geometry))).toEqual(geometry)
    const changed = geometryFrom(shape, numbersOf(geometry).map((value) => value + 3)) // prettier-ignore
    const keyed = withGeometryAt(area, NO_TRACKS, 1030, changed)
    expect(keyedGeometryAt(keyed, 1030)).toEqual(changed)
    expect(hasKeyAt(keyed, 1030)).toBe(true)
    expect(keyedGeometryAt(keyed, 1001)).toEqual(keyedGeometryAt(area, 1001))
  },
)

test('one drawing is one key: setting a shape on a frame keys it there and nowhere else', () => {
  const drawn = path('smooth', [1025, 10])
  const edited = withGeometryAt(drawn, NO_TRACKS, 1030, { shape: 'path', points: points(50) })
  expect(edited.keys.map((key) => [key.frame, xAt(edited, key.frame)])).toEqual([
    [1025, 10],
    [1030, 50],
  ])
  expect(xAt(edited, 1001)).toBe(10)
})

test('smooth travel keeps to the range of its keys, up to a little at a turning point', () => {
  // Two keys close to each other, and a third far away: a free spline would leave the picture.
  const keyed = path('smooth', [1001, 0], [1004, 2], [1005, 300], [1048, 310])
  const farthest = Math.max(...Array.from({ length: 48 }, (_, i) => Math.abs(xAt(keyed, 1001 + i) - 155)))
  expect(farthest).toBeLessThan(155 + 0.12 * 298)
  const turning = path('smooth', [1001, 0], [1010, 100], [1020, 90], [1040, -400])
  const xs = Array.from({ length: 40 }, (_, i) => xAt(turning, 1001 + i))
  expect(Math.max(...xs)).toBeLessThan(100 + 0.15 * 100)
  // A swing that turns between two keys, from the demo film: the free spline is right within half a px.
  const swing = path('smooth', [1001, 800], [1008, 810], [1019, 809], [1030, 788], [1041, 769], [1048, 767])
  expect(Math.max(...Array.from({ length: 48 }, (_, i) => xAt(swing, 1001 + i)))).toBeGreaterThan(811)
  const resting = path('smooth', [1001, 0], [1010, 100], [1020, 100], [1030, 0])
  for (let frame = 1010; frame <= 1020; frame++) expect(xAt(resting, frame)).toBeCloseTo(100, 9)
})

test('pins are removed, moved without a ripple and copied; one always stays', () => {
  const keyed = path('smooth', [1001, 0], [1010, 5], [1020, 9])
  expect(withoutKeysAt(keyed, [1010]).keys).toHaveLength(2)
  expect(withoutKeysAt(keyed, [1001, 1010, 1020]).keys).toHaveLength(1)
  const moved = withKeysMoved(keyed, [1010], 10, span)
  expect(moved.keys.map((key) => [key.frame, xAt(moved, key.frame)])).toEqual([
    [1001, 0],
    [1020, 5],
  ])
  // Nothing leaves the span.
  expect(withKeysMoved(keyed, [1010, 1020], 99, span).keys.map((key) => key.frame)).toEqual([
    1001, 1038, 1048,
  ])
  const pasted = withKeysPasted(keyed, keyed, [1001, 1010], 1030)!
  expect(pasted.keys.map((key) => key.frame)).toEqual([1001, 1010, 1020, 1030, 1039])
  expect(withKeysPasted(keyed, areas[1]!, [1001], 1030)).toBeNull()
})

test('a point added to a path lies on it in every key, and a point can go again', () => {
  const more = withPointInserted(path('smooth', [1001, 0], [1010, 100]), 0, 0.5)
  for (const frame of [1001, 1010])
    expect(numbersOf(keyedGeometryAt(more, frame)).slice(3, 6)).toEqual([xAt(more, frame) + 5, 10, 4])
  expect(withPointRemoved(more, 1)).toEqual(path('smooth', [1001, 0], [1010, 100]))
  expect(withPointRemoved(path('smooth', [1001, 0]), 0).keys[0]!).toEqual({ frame: 1001, points: points(0) })
})

test('a point added to an outline on one frame leaves the shape of every other frame as it was', () => {
  const area = withGeometryAt(areas[3]!, NO_TRACKS, 1020, outline(60))
  const more = withPointInserted(area, 1, 0.37)
  for (const frame of [1001, 1009, 1020]) {
    const [before, after] = [area, more].map((one) => keyedGeometryAt(one, frame)) as [
      Extract<Geometry, { shape: 'outline' }>,
      Extract<Geometry, { shape: 'outline' }>,
    ]
    expect(after.points).toHaveLength(5)
    const [a, b] = [flattenOutline(before.points), flattenOutline(after.points)]
    const nearest = (x: number, y: number) =>
      Math.min(
        ...Array.from({ length: a.length / 2 }, (_, i) => Math.hypot(a[2 * i]! - x, a[2 * i + 1]! - y)),
      )
    for (let i = 0; i < b.length; i += 2) expect(nearest(b[i]!, b[i + 1]!)).toBeLessThan(1.6) // sides of the polygon are up to 3 px long
  }
  const corner = withPointBent(more, 2, 'corner') as Extract<KeyedArea, { shape: 'outline' }>
  expect(corner.keys.every((key) => key.points[2]!.inX === 0 && key.points[2]!.outY === 0)).toBe(true)
  expect(withPointBent(corner, 2, 'smooth').keys).not.toEqual(corner.keys)
})

/** A plane that turns by 0.2 rad, swells by a fifth and shifts, from frame 1001 to 1011. */
const motionAt = (frame: number): Matrix3 =>
  similarity(1 + 0.02 * (frame - 1001), 0.02 * (frame - 1001), 3 * (frame - 1001), -2 * (frame - 1001))
function planarTrack(): Track {
  const corners = [20, 20, 80, 20, 80, 60, 20, 60]
  const frames = Array.from({ length: 11 }, (_, i): [number, number, ...number[]] => {
    const m = motionAt(1001 + i)
    const row = Array.from({ length: 4 }, (_c, k) => [
      m[0] * corners[2 * k]! + m[1] * corners[2 * k + 1]! + m[2],
      m[3] * corners[2 * k]! + m[4] * corners[2 * k + 1]! + m[5],
    ])
    return [1001 + i, 1, ...row.flat()]
  })
  return { ...newTrack('t', 'planar', 'Plane 1', 1001, corners), frames }
}
const uses = { position: true, rotation: true, scale: true, skew: true }

test.each(areas.map((area) => [area.shape, area] as const))(
  'a %s follows a plane, and what is dragged on a later frame is an offset from there on',
  (_shape, area) => {
    const tracks = new Map([['t', planarTrack()]])
    const following = { ...area, follow: { trackId: 't', uses } } as KeyedArea
    const wanted = movedBy(motionAt(1006), keyedGeometryAt(area, 1006))
    numbersOf(geometryAt(following, tracks, 1006)).forEach((value, i) =>
      expect(value).toBeCloseTo(numbersOf(wanted)[i]!, 6),
    )
    const dragged = movedBy([1, 0, 7, 0, 1, -4, 0, 0, 1], geometryAt(following, tracks, 1006))
    const keyed = withGeometryAt(following, tracks, 1006, dragged)
    numbersOf(geometryAt(keyed, tracks, 1006)).forEach((value, i) =>
      expect(value).toBeCloseTo(numbersOf(dragged)[i]!, 6),
    )
    const back = keyedFrom(following, tracks, 1009, geometryAt(following, tracks, 1009))
    numbersOf(back).forEach((value, i) =>
      expect(value).toBeCloseTo(numbersOf(keyedGeometryAt(area, 1009))[i]!, 6),
    )
  },
)

test('only the parts of a motion that are wanted are taken over', () => {
  const tracks = new Map([['t', planarTrack()]])
  const at = (parts: Partial<typeof uses>) =>
    geometryAt(
      {
        ...areas[1]!,
        follow: { trackId: 't', uses: { ...uses, skew: false, ...parts } },
      } as Area as KeyedArea,
      tracks,
      1011,
    ) as Geometry & EllipseKey
  const start = keyedGeometryAt(areas[1]!, 1011) as Geometry & EllipseKey
  expect(at({ rotation: false }).turnDeg).toBeCloseTo(0, 6)
  expect(at({}).turnDeg).toBeCloseTo((0.2 * 180) / Math.PI, 6)
  expect(at({ scale: false }).radiusXPx).toBeCloseTo(start.radiusXPx, 6)
  expect(at({}).radiusXPx).toBeCloseTo(1.2 * start.radiusXPx, 6)
  const still = at({ position: false })
  expect([still.x, still.y]).toEqual([start.x, start.y])
})

test('a box on a plane in perspective keeps its sides straight: its outline goes through the motion', () => {
  const track: Track = { ...newTrack('t', 'planar', 'Plane', 1001, [0, 0, 100, 0, 100, 100, 0, 100]), frames: [[1001, 1, 0, 0, 100, 0, 100, 100, 0, 100], [1002, 1, 10, 5, 90, 0, 100, 100, 0, 90]] } // prettier-ignore
  const box: KeyedArea = {
    ...common,
    shape: 'box',
    follow: { trackId: 't', uses },
    keys: [
      { frame: 1001, x: 50, y: 50, widthPx: 100, heightPx: 100, turnDeg: 0, cornerPx: 0 } satisfies BoxKey,
    ],
  }
  const placed = placeArea(box, new Map([['t', track]]), 1002).shape
  if (placed.shape !== 'closed') throw new Error('a box is closed')
  const corners = new Set(
    Array.from({ length: placed.polygon.length / 2 }, (_, i) =>
      placed.polygon
        .slice(2 * i, 2 * i + 2)
        .map((value) => Math.abs(value).toFixed(3))
        .join(' '),
    ),
  )
  expect(corners).toEqual(new Set(['100.000 100.000', '0.000 90.000', '10.000 5.000', '90.000 0.000']))
})

test('a clinging path keeps its share of the line, its distance from it, and its width against the line’s', () => {
  const line = (x: number, width: number) => [x, 0, width, x + 20, 50, width, x + 40, 100, width]
  const track: Track = { ...newTrack('c', 'cling', 'Cling', 1001, []), frames: [[1001, 1, ...line(0, 4)], [1002, 1, ...line(30, 8)]] } // prettier-ignore
  const area = samplePath({ follow: { trackId: 'c', uses }, keys: [{ frame: 1001, points: [{ x: 2, y: 0, widthPx: 6 }, { x: 20, y: 50, widthPx: 4 }, { x: 40, y: 100, widthPx: 4 }] }] }) // prettier-ignore
  const tracks = new Map([['c', track]])
  const seen = geometryAt(area, tracks, 1002)
  if (seen.shape !== 'path') throw new Error('a path stays a path')
  expect(seen.points[1]).toMatchObject({ widthPx: 8 })
  expect(seen.points[1]!.x).toBeCloseTo(50, 6)
  expect(seen.points[0]!.x).toBeCloseTo(32, 6)
  expect(seen.points[0]!.widthPx).toBeCloseTo(12, 6)
  const moved = { shape: 'path' as const, points: seen.points.map((point) => ({ ...point, x: point.x + 3 })) }
  const keyed = withGeometryAt(area, tracks, 1002, moved)
  numbersOf(geometryAt(keyed, tracks, 1002)).forEach((value, i) =>
    expect(value).toBeCloseTo(numbersOf(moved)[i]!, 1),
  )
})
