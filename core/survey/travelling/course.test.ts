import { courseOf } from './course'

const at = (frame: number, x: number, y = 0) => ({ frame, x, y })

test('a course that goes, rests and goes on has its bends on the very frames', () => {
  const places = Array.from({ length: 30 }, (_, i) =>
    at(1001 + i, i < 8 ? 3 * i : i < 18 ? 24 : 24 - 2 * (i - 17), i < 18 ? 5 : 5 + i - 17),
  )
  const { bends, agreeing, between } = courseOf(places, 0.5)
  expect(bends.map(({ frame }) => frame)).toEqual([1001, 1009, 1018, 1030])
  expect(agreeing).toBe(30)
  expect(between).toEqual([7, 8, 11])
})

test('places that are wrong bend nothing, not even in a row, nor at the ends', () => {
  const wrong = new Set([0, 6, 7, 15, 23])
  const places = Array.from({ length: 24 }, (_, i) => at(i, 4 * i + (wrong.has(i) ? 9 - i : 0)))
  const { bends, agreeing, between } = courseOf(places, 0.5)
  expect(bends.map(({ frame }) => frame)).toEqual([1, 22])
  expect([agreeing, between]).toEqual([19, [17]])
})

test('frames on which nothing was seen are bridged at an even pace', () => {
  const places = [0, 1, 2, 9, 10, 11].map((frame) => at(frame, 2 * frame, frame))
  expect(courseOf(places, 0.2).bends).toEqual([at(0, 0, 0), at(11, 22, 11)])
})

test('one place is a course; what jumps about agrees with none', () => {
  expect(courseOf([at(7, 1, 2)], 1)).toEqual({ bends: [at(7, 1, 2)], agreeing: 1, between: [] })
  const jumping = Array.from({ length: 20 }, (_, i) => at(i, (i * 7919) % 101, (i * 104729) % 97))
  expect(courseOf(jumping, 0.5).agreeing).toBeLessThan(12)
})
