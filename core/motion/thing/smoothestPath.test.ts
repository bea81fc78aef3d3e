import { smoothestPath } from './smoothestPath'

const at = (dx: number, score: number) => ({ dx, dy: 0, score })

test('a path keeps its speed rather than jump to what fits a little better', () => {
  const frames = [0, 1, 2, 3, 4].map((i) => [at(6 * i, 0.8), at(-40, i === 2 ? 0.85 : 0.1)])
  expect(smoothestPath(frames)).toEqual([0, 0, 0, 0, 0])
})

test('it jumps where all that follows fits there alone', () => {
  const frames = [0, 1, 2, 3, 4, 5].map((i) => [at(0, i < 3 ? 0.9 : 0.1), at(30, i < 3 ? 0.1 : 0.9)])
  expect(smoothestPath(frames)).toEqual([0, 0, 0, 1, 1, 1])
})

test('none and one frame have nothing to choose', () => {
  expect(smoothestPath([])).toEqual([])
  expect(smoothestPath([[at(3, 1), at(4, 0.2)]])).toEqual([0])
})
