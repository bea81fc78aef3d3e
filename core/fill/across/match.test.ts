import { createRaster, type Raster } from '../../image/raster'
import { matchSides } from './match'

/** A strip whose brightness runs along the path as `value` says. */
function strip(value: (arc: number) => number, columns = 120): Raster {
  const raster = createRaster(columns, 3, 1)
  for (let row = 0; row < 3; row++)
    for (let col = 0; col < columns; col++) raster.data[row * columns + col] = value(col)
  return raster
}

const bumps = (arc: number) => 0.5 + 0.2 * Math.sin(arc / 3.1) + 0.2 * Math.sin(arc / 7.7 + 1)
const GAP_PX = 9
const WITHIN_PX = 1 // a straighter join is preferred between nearly equal ones
const inner = (values: Float32Array) => [...values.slice(20, 100)]

test.each([0, 3, -4, 6])('a shift of %i px between the sides is found along the whole path', (shift) => {
  const { shifts, agreement } = matchSides(
    strip(bumps),
    strip((arc) => bumps(arc - shift)),
    8,
    GAP_PX,
  )
  for (const found of inner(shifts)) expect(Math.abs(found - shift)).toBeLessThanOrEqual(WITHIN_PX)
  for (const share of inner(agreement)) expect(share).toBeGreaterThan(0.7)
})

test('a shift that grows along the path is followed', () => {
  const growing = (arc: number) => arc / 30
  const { shifts } = matchSides(
    strip(bumps),
    strip((arc) => bumps(arc - growing(arc))),
    8,
    GAP_PX,
  )
  inner(shifts).forEach((found, i) =>
    expect(Math.abs(found - growing(i + 20))).toBeLessThanOrEqual(1.5 * WITHIN_PX),
  )
})

test('between equals the straight join is taken, and flat sides agree on nothing', () => {
  const { shifts, agreement } = matchSides(
    strip(() => 0.4),
    strip(() => 0.4),
    8,
    GAP_PX,
  )
  expect([...shifts].every((shift) => shift === 0)).toBe(true)
  expect([...agreement].every((share) => share === 0)).toBe(true)
})

test('unrelated sides agree little', () => {
  let state = 3
  const noise = () => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    return (state >>> 8) / 2 ** 24
  }
  const { agreement } = matchSides(strip(noise), strip(noise), 8, GAP_PX)
  const mean = inner(agreement).reduce((sum, share) => sum + share, 0) / 80
  expect(mean).toBeLessThan(0.2)
})

test('without any shift allowed the sides stay straight across', () => {
  const { shifts } = matchSides(
    strip(bumps),
    strip((arc) => bumps(arc - 5)),
    0,
    GAP_PX,
  )
  expect([...shifts].every((shift) => shift === 0)).toBe(true)
})
