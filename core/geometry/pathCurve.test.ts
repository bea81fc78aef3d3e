import { createPathCurve, nearestOnPath, pathPointAt } from './pathCurve'

const at = (x: number, y: number, widthPx = 8) => ({ x, y, widthPx })

test('a straight path runs at one pixel for each pixel', () => {
  const curve = createPathCurve([at(0, 0, 4), at(30, 40, 8)])
  expect(curve.lengthPx).toBeCloseTo(50, 10)
  expect(pathPointAt(curve, 25)).toMatchObject({ x: 15, y: 20, widthPx: 6 })
  expect(pathPointAt(curve, 25).tangentX).toBeCloseTo(0.6, 10)
  expect(pathPointAt(curve, 999)).toMatchObject({ x: 30, y: 40 })
})

test('a hanging wire given by three points is a parabola, measured along its length', () => {
  const sag = 40
  const curve = createPathCurve([at(0, 0), at(100, sag), at(200, 0)])
  for (const x of [20, 50, 130, 180]) {
    expect(nearestOnPath(curve, x, 4 * sag * (x / 200) * (1 - x / 200)).distancePx).toBeLessThan(0.03)
  }
  // Length of a parabola of span a and sag h: a/2 √(1 + q²) + a/(2q) asinh q with q = 4h/a. Any table of integrals.
  const q = (4 * sag) / 200
  const exact = 100 * Math.sqrt(1 + q * q) + (100 / q) * Math.asinh(q)
  expect(curve.lengthPx).toBeCloseTo(exact, 1)
  expect(curve.pointArcs[1]).toBeCloseTo(curve.lengthPx / 2, 6)
})

test('equal steps along the path are equal steps in the picture', () => {
  const curve = createPathCurve([at(0, 0), at(10, 50), at(120, 60), at(160, 10)])
  for (let arc = 0; arc + 1 < curve.lengthPx; arc += 1) {
    const [p, q] = [pathPointAt(curve, arc), pathPointAt(curve, arc + 1)]
    expect(Math.hypot(q.x - p.x, q.y - p.y)).toBeCloseTo(1, 2)
  }
})

test('points on one spot do no harm; one point is refused', () => {
  const curve = createPathCurve([at(5, 5), at(5, 5), at(9, 5)])
  expect([...curve.xs, ...curve.ys, ...curve.tangentXs].every(Number.isFinite)).toBe(true)
  expect(() => createPathCurve([at(1, 1)])).toThrow('at least 2 points')
})
