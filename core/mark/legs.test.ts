import fc from 'fast-check'
import { legsOf } from './legs'

const at = (frame: number, dx: number, dy: number) => ({ frame, dx, dy })

test('a course of rests and straight travel comes back as the frames on which it bends', () => {
  const places = Array.from({ length: 40 }, (_, i) => {
    if (i <= 5) return at(1001 + i, 0, 0)
    if (i <= 17) return at(1001 + i, 10 * (i - 5), 2 * (i - 5))
    if (i <= 23) return at(1001 + i, 120, 24)
    return at(1001 + i, 120 - 7 * (i - 23), 24 + 5.5 * (i - 23))
  })
  const shaken = places.map(({ frame, dx, dy }, i) =>
    at(frame, dx + 0.1 * (i % 2), dy - 0.1 * (i % 3 === 0 ? 1 : 0)),
  )
  expect(legsOf(places).map(({ frame }) => frame)).toEqual([1001, 1006, 1018, 1024, 1040])
  expect(legsOf(shaken).map(({ frame }) => frame)).toEqual([1001, 1006, 1018, 1024, 1040])
})

test('what rests is one place', () => {
  expect(legsOf([at(1, 4, 4), at(2, 4.1, 4), at(3, 4, 3.9)])).toEqual([at(1, 4, 4)])
  expect(legsOf([])).toEqual([])
})

test('no place lies further from its leg than allowed', () => {
  const course = fc.array(
    fc.tuple(fc.double({ min: -50, max: 50, noNaN: true }), fc.double({ min: -50, max: 50, noNaN: true })),
    { minLength: 2, maxLength: 30 },
  )
  fc.assert(
    fc.property(course, (steps) => {
      const places = steps.map(([dx, dy], i) => at(i, dx, dy))
      const legs = legsOf(places)
      for (const { frame, dx, dy } of places) {
        const after = legs.findIndex((leg) => leg.frame >= frame)
        const [a, b] = [legs[Math.max(0, after - 1)]!, legs[Math.max(0, after)]!]
        const share = b.frame > a.frame ? (frame - a.frame) / (b.frame - a.frame) : 1
        const [x, y] = [a.dx + share * (b.dx - a.dx), a.dy + share * (b.dy - a.dy)]
        if (legs.length > 1) expect(Math.hypot(dx - x, dy - y)).toBeLessThanOrEqual(0.25 + 1e-9)
      }
    }),
  )
})
