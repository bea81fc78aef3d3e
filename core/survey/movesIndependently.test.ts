import { createRandom } from '../../tests/random'
import { createPlane, type Plane } from '../image/raster'
import { offBetween, rowsAlone, viewRidges } from './movesIndependently'
import { ridgePaths, type RidgePath } from './ridges'

const [WIDTH, HEIGHT] = [150, 80]
const random = createRandom(12)
/** Blotches some cells wide: what a flank is known again by. */
const BLOTCHES = Float32Array.from({ length: 400 * HEIGHT }, () => random())
function blotch(x: number, y: number): number {
  const [col, row] = [Math.floor(x / 3) + 100, Math.floor(y / 3)]
  return 0.12 * (BLOTCHES[row * 400 + col]! - 0.5)
}

/** A wall, nearer things from `nearFrom` on that go their own way, and a dark line. */
function frame({
  wall,
  near = 0,
  nearFrom = Infinity,
  line,
}: {
  wall: number
  near?: number
  nearFrom?: number
  line: (y: number) => number
}): Plane {
  const plane = createPlane(WIDTH, HEIGHT)
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      const isNear = x >= nearFrom + near
      const value = -2 + (isNear ? blotch(x - near + 77, y) : blotch(x - wall, y))
      plane.data[y * WIDTH + x] = Math.abs(x + 0.5 - line(y)) < 0.6 ? value - 0.8 : value
    }
  }
  return plane
}

const pathOf = (plane: Plane): RidgePath => ridgePaths(plane).find(({ isDark }) => isDark)!
function rows(then: Plane, now: Plane, went: number): number {
  const alone = rowsAlone(pathOf(then), pathOf(now), viewRidges(then), viewRidges(now), { x: went, y: 0 })
  return alone ? alone.reduce((sum, one) => sum + one, 0) : 0
}

test('a joint goes with its wall, whether the camera pans or rests: it never goes alone', () => {
  const at = (wall: number) => frame({ wall, line: () => 70.5 + wall })
  expect(rows(at(0), at(14), 14)).toBe(0)
  expect(rows(at(0), at(0), 0)).toBe(0)
})

test('a wire before the wall goes alone, in nearly all of its rows', () => {
  const then = frame({ wall: 0, line: (y) => 60 + 0.2 * y })
  const now = frame({ wall: -6, line: (y) => 62 + 0.22 * y })
  expect(rows(then, now, -6)).toBeGreaterThan(0.9 * HEIGHT)
  // And so it does where only the wire moves.
  expect(rows(then, frame({ wall: 0, line: (y) => 66 + 0.22 * y }), 0)).toBeGreaterThan(0.9 * HEIGHT)
})

test('the edge of something near goes with its own side, though not with the picture as a whole', () => {
  const then = frame({ wall: 0, near: 0, nearFrom: 71, line: () => 70.5 })
  const now = frame({ wall: -4, near: -12, nearFrom: 71, line: () => 58.5 })
  expect(rows(then, now, -4)).toBe(0)
})

test('a wire that swings about one place goes alone only where it moves', () => {
  const then = frame({ wall: 0, line: (y) => 70.5 + 0.002 * y * y })
  const now = frame({ wall: 0, line: (y) => 70.5 + 0.006 * y * y })
  const alone = rowsAlone(pathOf(then), pathOf(now), viewRidges(then), viewRidges(now), { x: 0, y: 0 })!
  const first = alone.indexOf(1)
  expect(first).toBeGreaterThan(15)
  expect(first).toBeLessThan(45)
  expect(alone.slice(50, HEIGHT - 6).every((one) => one === 1)).toBe(true)
})

test('how far one path lies from another is told where both run, if that is most of the shorter one', () => {
  const path = (first: number, places: number[]): RidgePath => ({
    isDark: true,
    first,
    places: Float32Array.from(places),
    strength: 1,
  })
  expect(offBetween(path(0, [5, 5, 5, 5]), path(1, [8, 8, 8]))).toBe(3)
  expect(offBetween(path(0, [5, 5, 5, 5]), path(3, [8, 8, 8, 8]))).toBe(Infinity)
})
