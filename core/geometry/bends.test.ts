import fc from 'fast-check'
import { bendsOf } from './bends'

interface Point {
  readonly x: number
  readonly y: number
}
const offLine = (point: Point, from: Point, to: Point): number =>
  Math.abs(point.y - from.y - ((point.x - from.x) / (to.x - from.x)) * (to.y - from.y))

test('a line needs its ends, a bend one more', () => {
  const line = Array.from({ length: 20 }, (_, x) => ({ x, y: 2 * x }))
  expect(bendsOf(line, 0.1, offLine)).toEqual([line[0], line[19]])
  const bent = line.map(({ x }) => ({ x, y: Math.abs(x - 7) }))
  expect(bendsOf(bent, 0.1, offLine).map(({ x }) => x)).toEqual([0, 7, 19])
})

test('nothing that is left out is further off than the tolerance; a few points stay as they are', () => {
  const level = fc.double({ min: -50, max: 50, noNaN: true })
  fc.assert(
    fc.property(fc.array(level, { minLength: 1, maxLength: 40 }), (levels) => {
      const points = levels.map((y, x) => ({ x, y }))
      const kept = bendsOf(points, 3, offLine)
      expect(kept[0]).toBe(points[0])
      expect(kept.at(-1)).toBe(points.at(-1))
      for (const point of points) {
        const next = kept.findIndex(({ x }) => x >= point.x)
        if (kept[next] !== point) expect(offLine(point, kept[next - 1]!, kept[next]!)).toBeLessThanOrEqual(3)
      }
    }),
  )
})
