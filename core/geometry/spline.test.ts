import fc from 'fast-check'
import { createSpline, splineSlope, splineValue } from './spline'

test('two values give a straight line, three a parabola', () => {
  const line = createSpline([0, 4], [1, 9])
  expect(splineValue(line, 1)).toBeCloseTo(3, 12)
  const parabola = createSpline([0, 1, 3], [0, 1, 9])
  for (const t of [0.25, 0.5, 1.5, 2.9]) expect(splineValue(parabola, t)).toBeCloseTo(t * t, 12)
  expect(splineSlope(parabola, 2)).toBeCloseTo(4, 12)
})

test('any cubic is met exactly by four values or more', () => {
  const cubic = (t: number) => 2 * t ** 3 - 7 * t * t + t - 3
  for (const knots of [
    [0, 1, 3, 4],
    [0, 2, 3, 7, 9],
    [1, 2, 4, 5, 8, 11],
  ]) {
    const spline = createSpline(knots, knots.map(cubic))
    for (let t = knots[0]!; t <= knots.at(-1)!; t += 0.25)
      expect(Math.abs(splineValue(spline, t) - cubic(t))).toBeLessThan(1e-9 * 3000)
  }
})

test('the end values hold outside', () => {
  const spline = createSpline([2, 5], [7, 8])
  expect([splineValue(spline, -100), splineValue(spline, 100)]).toEqual([7, 8])
})

test('passes through its values, smoothly', () => {
  const values = fc.array(
    fc.tuple(fc.double({ min: 0.5, max: 20, noNaN: true }), fc.double({ min: -50, max: 50, noNaN: true })),
    {
      minLength: 3,
      maxLength: 9,
    },
  )
  fc.assert(
    fc.property(values, (steps) => {
      let at = 0
      const knots = steps.map(([gap]) => (at += gap))
      const spline = createSpline(
        knots,
        steps.map(([, value]) => value),
      )
      const STEP = 1e-6
      knots.forEach((knot, i) => {
        expect(splineValue(spline, knot)).toBeCloseTo(steps[i]![1], 8)
        if (i === 0 || i === knots.length - 1) return
        const before = splineSlope(spline, knot - STEP)
        expect(Math.abs(splineSlope(spline, knot + STEP) - before)).toBeLessThan(
          1e-2 * (1 + Math.abs(before)),
        )
      })
    }),
    { seed: 3, numRuns: 100 },
  )
})

test('knots that do not rise are refused', () => {
  expect(() => createSpline([1, 1], [0, 0])).toThrow('knots must rise')
  expect(() => createSpline([], [])).toThrow('at least 1')
})
