import { surfaceMotion } from './surface'
import { apply, similarity, translationBy } from './transform'

const PLACES = [10, 10, 60, 14, 20, 70, 66, 60]
const moved = (m: Parameters<typeof apply>[0]) =>
  Array.from({ length: PLACES.length / 2 }, (_, i) => {
    const { x, y } = apply(m, PLACES[2 * i]!, PLACES[2 * i + 1]!)
    return [x, y]
  }).flat()

test('where all places move as one, so does every other: Schaefer et al. 2006, section 2, reproduces similarities', () => {
  const motion = similarity(1.1, 0.2, 5, -3)
  for (const [x, y] of [
    [30, 30],
    [0, 90],
    [60, 14],
  ] as const) {
    // prettier-ignore
    const there = apply(surfaceMotion(PLACES, moved(motion), x, y)!, x, y)
    const asked = apply(motion, x, y)
    expect(there.x).toBeCloseTo(asked.x, 6)
    expect(there.y).toBeCloseTo(asked.y, 6)
  }
})

test('at a place it goes where that goes, whatever the others do', () => {
  const to = moved(translationBy(2, 0)).map((value, i) => (i === 0 ? value + 9 : value))
  expect(apply(surfaceMotion(PLACES, to, 10, 10)!, 10, 10).x).toBeCloseTo(21, 1)
  expect(apply(surfaceMotion(PLACES, to, 66, 60)!, 66, 60).x).toBeCloseTo(68, 1)
})

test('one place gives its shift, none gives nothing', () => {
  expect(surfaceMotion([4, 4], [6, 3], 90, 90)).toEqual(translationBy(2, -1))
  expect(surfaceMotion([], [], 1, 1)).toBeNull()
})
