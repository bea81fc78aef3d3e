import fc from 'fast-check'
import { medianOf } from './median'

const sortedMiddle = (values: readonly number[]) => [...values].sort((a, b) => a - b)[values.length >> 1]

test('the middle of sorted values, of two the greater', () => {
  expect(medianOf([3, 1, 2])).toBe(2)
  expect(medianOf([4, 1, 3, 2])).toBe(3)
  expect(medianOf([])).toBeNaN()
  fc.assert(
    fc.property(
      fc.array(
        fc.double({ noNaN: true }).map((value) => value + 0),
        { minLength: 1, maxLength: 60 },
      ),
      (values) => {
        expect(medianOf(values)).toBe(sortedMiddle(values))
      },
    ),
    { seed: 4, numRuns: 500 },
  )
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 1, maxLength: 200 }), (values) => {
      expect(medianOf(Float32Array.from(values))).toBe(sortedMiddle(values))
    }),
    { seed: 5, numRuns: 200 },
  )
})
