import { createRaster } from '../image/raster'
import { creaseLifts } from './creases'

const [WIDTH, HEIGHT] = [60, 40]
const skinOf = (light: (x: number, y: number) => number) => {
  const out = createRaster(WIDTH, HEIGHT, 4)
  for (let at = 0; at < WIDTH * HEIGHT; at++) {
    out.data.fill(light(at % WIDTH, Math.floor(at / WIDTH)), 4 * at, 4 * at + 3)
    out.data[4 * at + 3] = 1
  }
  return out
}
const liftAt = (lifts: Float32Array, x: number, y: number) => lifts[y * WIDTH + x]!

test('a dark line comes up towards the skin beside it, and not all of the way; the skin stays', () => {
  const line = skinOf((x) => (Math.abs(x - 30) <= 2 ? 0.4 : 0.5))
  const lifts = creaseLifts(line, 8, 1)
  const raised = 0.4 * (1 + liftAt(lifts, 30, 20))
  expect(raised).toBeGreaterThan(0.46)
  expect(raised).toBeLessThan(0.5)
  expect(liftAt(lifts, 10, 20)).toBe(0)
  expect(liftAt(creaseLifts(line, 8, 0.5), 30, 20)).toBeCloseTo(liftAt(lifts, 30, 20) / 2, 6)
})

test('an edge, what is wider, what is as dark as a hole and what is no skin are no creases', () => {
  const worst = (light: (x: number, y: number) => number, width = 8) =>
    Math.max(...creaseLifts(skinOf(light), width, 1))
  expect(worst((x) => (x < 30 ? 0.3 : 0.6))).toBe(0)
  expect(worst((x) => (Math.abs(x - 30) <= 8 ? 0.4 : 0.5))).toBe(0)
  expect(worst((x) => (Math.abs(x - 30) <= 2 ? 0.1 : 0.5))).toBe(0)
  const none = skinOf((x) => (Math.abs(x - 30) <= 2 ? 0.4 : 0.5))
  for (let at = 0; at < WIDTH * HEIGHT; at++) none.data[4 * at + 3] = 0
  expect(Math.max(...creaseLifts(none, 8, 1))).toBe(0)
})
