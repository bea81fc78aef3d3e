import fc from 'fast-check'
import { addEquation, solveNotNegative, solveSymmetric } from './linear'

const number = fc.double({ min: -3, max: 3, noNaN: true })
const rows = fc.array(fc.tuple(number, number, number, number), { minLength: 8, maxLength: 20 })

function normal(equations: readonly (readonly number[])[]) {
  const [upper, right] = [new Float64Array(6), new Float64Array(3)]
  for (const [a, b, c, value] of equations) addEquation(upper, right, [a!, b!, c!], value!, 1)
  return { upper, right }
}
const lossOf = (equations: readonly (readonly number[])[], x: ArrayLike<number>) =>
  equations.reduce((sum, [a, b, c, value]) => sum + (a! * x[0]! + b! * x[1]! + c! * x[2]! - value!) ** 2, 0)

test('where nothing comes out below 0 it is the plain solution', () => {
  fc.assert(
    fc.property(rows, (equations) => {
      const { upper, right } = normal(equations)
      const plain = solveSymmetric(upper, right)
      fc.pre(plain !== null && plain.every((one) => one >= 0))
      expect(solveNotNegative(upper, right)).toEqual(plain)
    }),
  )
})

test('nothing is below 0, and nothing at all would be no better', () => {
  fc.assert(
    fc.property(rows, (equations) => {
      const { upper, right } = normal(equations)
      const found = solveNotNegative(upper, right)
      expect(Math.min(...found)).toBeGreaterThanOrEqual(0)
      expect(lossOf(equations, found)).toBeLessThanOrEqual(lossOf(equations, [0, 0, 0]) + 1e-9)
    }),
  )
})

test('an unknown that nothing was measured of is 0, the others are found', () => {
  const { upper, right } = normal([
    [1, 0, 0, 2],
    [1, 0, 1, 5],
    [2, 0, 1, 7],
  ])
  const [a, b, c] = solveNotNegative(upper, right)
  expect([a, b, c].map((one) => Math.round(1e9 * one!) / 1e9)).toEqual([2, 0, 3])
})
