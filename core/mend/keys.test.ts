import { hasKeyAt, pathPointsAt, withoutKeyAt, withPointInserted, withPointRemoved, withPointsAt } from './keys'
import type { PathArea } from './schema'

const span = { firstFrame: 1001, lastFrame: 1048 }
const points = (x: number, widthPx = 4) => [
  { x, y: 0, widthPx },
  { x: x + 10, y: 20, widthPx },
]
const area = (travel: 'smooth' | 'linear', ...keys: [number, number][]): PathArea => ({
  shape: 'path',
  travel,
  keys: keys.map(([frame, x]) => ({ frame, points: points(x) })),
})

test('keys hold outside and are met exactly', () => {
  const keyed = area('smooth', [1005, 10], [1011, 40], [1020, 0])
  expect(pathPointsAt(keyed, 1001)).toEqual(points(10))
  expect(pathPointsAt(keyed, 1011)).toEqual(points(40))
  expect(pathPointsAt(keyed, 1040)).toEqual(points(0))
})

test('linear travel runs straight, smooth travel follows a throw', () => {
  expect(pathPointsAt(area('linear', [1001, 0], [1005, 16], [1009, 64]), 1003)[0]!.x).toBeCloseTo(8, 10)
  // x = t²: three keys of a parabola give the parabola back.
  expect(pathPointsAt(area('smooth', [1001, 0], [1005, 16], [1009, 64]), 1003)[0]!.x).toBeCloseTo(4, 10)
})

test('the first edit pins the start of the span as it was', () => {
  const drawn = area('smooth', [1020, 10])
  const edited = withPointsAt(drawn, span, 1030, points(50))
  expect(edited.keys.map((key) => [key.frame, key.points[0]!.x])).toEqual([
    [1001, 10],
    [1020, 10],
    [1030, 50],
  ])
  expect(withPointsAt(edited, span, 1030, points(60)).keys).toHaveLength(3)
})

test('a key can go, the last one stays', () => {
  const keyed = area('smooth', [1001, 0], [1010, 5])
  expect(withoutKeyAt(keyed, 1010).keys).toHaveLength(1)
  expect(withoutKeyAt(withoutKeyAt(keyed, 1010), 1001).keys).toHaveLength(1)
  expect([hasKeyAt(keyed, 1010), hasKeyAt(keyed, 1009)]).toEqual([true, false])
})

test('a point added is added on every key and leaves every shape as it was', () => {
  const keyed = area('smooth', [1001, 0], [1010, 100])
  const more = withPointInserted(keyed, 0, 0.5)
  for (const [index, key] of more.keys.entries()) {
    expect(key.points).toHaveLength(3)
    expect(key.points[1]).toMatchObject({ x: index * 100 + 5, y: 10, widthPx: 4 })
  }
  expect(withPointRemoved(more, 1)).toEqual(keyed)
  expect(withPointRemoved(keyed, 0)).toEqual(keyed)
})

test('smooth travel never makes a width that the schema forbids', () => {
  const keys = [
    [1001, 100],
    [1010, 0.5],
    [1011, 0.5],
    [1020, 300],
  ].map(([frame, widthPx]) => ({ frame: frame!, points: points(0, widthPx) }))
  for (let frame = 1001; frame <= 1020; frame++) {
    for (const point of pathPointsAt({ shape: 'path', travel: 'smooth', keys }, frame)) expect(point.widthPx).toBeGreaterThanOrEqual(0.5)
  }
})
