import { createRandom } from '../../tests/random'
import { createPlane, type Plane } from '../image/raster'
import { ridgePaths, ridgesOf } from './ridges'

const [WIDTH, HEIGHT] = [120, 90]
const { abs, max, round } = Math

/** Grey with a little noise, in stops of light. */
function ground(seed = 5): Plane {
  const random = createRandom(seed)
  const plane = createPlane(WIDTH, HEIGHT)
  for (let i = 0; i < plane.data.length; i++) plane.data[i] = -2 + 0.04 * (random() - 0.5)
  return plane
}

/** Lays a line over some rows: so many stops darker where it covers a cell whole. */
function lay(
  plane: Plane,
  placeAt: (row: number) => number,
  depth: number,
  from = 0,
  to = HEIGHT,
  wide = 1,
): Plane {
  for (let row = from; row < to; row++) {
    for (let col = 0; col < WIDTH; col++) {
      const cover = max(0, Math.min(1, wide / 2 + 0.5 - abs(col + 0.5 - placeAt(row))))
      plane.data[row * WIDTH + col]! += depth * cover
    }
  }
  return plane
}

const offs = (
  { first, places }: { readonly first: number; readonly places: Float32Array },
  placeAt: (row: number) => number,
) => [...places].map((place, k) => abs(place - placeAt(first + k)))

test('a ridge is what is darker than both its sides, by as much; an edge is none', () => {
  const plane = createPlane(12, 1)
  plane.data.set([0, 0, 0, 0, 0, -0.5, 0, 0, 0, 0, 0, 0])
  expect(ridgesOf(plane, true).data[5]).toBeCloseTo(0.5)
  expect(ridgesOf(plane, false).data[5]).toBe(0)
  plane.data.set([0, 0, 0, 0, 0, 0, -1, -1, -1, -1, -1, -1])
  expect([...ridgesOf(plane, true).data, ...ridgesOf(plane, false).data].every((value) => value <= 0.5)).toBe(
    true,
  )
  expect(ridgesOf(plane, true).data[7]).toBe(0)
})

test.each([
  ['upright', (row: number) => 40.5 + 0 * row],
  ['leaning', (row: number) => 20 + 0.6 * row],
  ['sagging', (row: number) => 30 + 0.012 * (row - 45) * (row - 45)],
])('a line that is %s is found along its whole length, to a fraction of a cell', (_, placeAt) => {
  const [path, ...more] = ridgePaths(lay(ground(), placeAt, -0.8))
  expect(more).toEqual([])
  expect(path!.isDark).toBe(true)
  expect(path!.first).toBeLessThan(3)
  expect(path!.places.length).toBeGreaterThan(HEIGHT - 4)
  expect(max(...offs(path!, placeAt))).toBeLessThan(0.6)
  expect(path!.strength).toBeGreaterThan(0.3)
})

test('two lines that cross are both found; a bright one is told from a dark one', () => {
  const plane = lay(
    lay(ground(), (row) => 20 + 0.9 * row, -0.9),
    (row) => 100 - 0.2 * row,
    0.9,
  )
  const paths = ridgePaths(plane)
  expect(paths.map(({ isDark }) => isDark)).toEqual([true, false])
  expect(max(...offs(paths[0]!, (row) => 20 + 0.9 * row))).toBeLessThan(1)
})

test('a line ends where it ends; a short one is none; noise alone has none', () => {
  const [path] = ridgePaths(lay(ground(), () => 60.5, -0.8, 10, 55))
  expect([path!.first, path!.first + path!.places.length].map((row) => round(row / 4))).toEqual(
    [10, 55].map((row) => round(row / 4)),
  )
  expect(ridgePaths(lay(ground(), () => 60.5, -0.8, 10, 30))).toEqual([])
  for (const seed of [1, 2, 3]) expect(ridgePaths(ground(seed))).toEqual([])
})

test('what goes to and fro, as the gaps between stones, is no line', () => {
  const zigzag = (row: number) => 60.5 + 4 * (Math.floor(row / 5) % 2)
  expect(ridgePaths(lay(ground(), zigzag, -0.8, 0, HEIGHT, 2))).toEqual([])
})
