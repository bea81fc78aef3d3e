import { createRandom } from '../../demo/random'
import { BinnedSizes, GRAIN_BINS, levelsFrom, Sizes } from './grainSizes'

/** Normal numbers: Box and Muller, 1958. */
function normals(count: number, seed: number): number[] {
  const random = createRandom(seed)
  return Array.from(
    { length: count },
    () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random()),
  )
}

test.each([0, 0.1, 0.2, 0.3])(
  'the deviation of normal numbers is found with a share of %f of them replaced by edges',
  (share) => {
    const sizes = new Sizes(6000, 0)
    normals(6000, 5).forEach((value, i) =>
      sizes.add((i % 100) / 100 < share ? 0.02 * 8 * value : 0.02 * value),
    )
    expect(Math.abs(Math.sqrt(sizes.variance()) / 0.02 - 1)).toBeLessThan(0.03 + 0.3 * share)
  },
)

test('whole steps are spread, and the spreading taken off: the variance of rounded numbers is that of the numbers and 1/12', () => {
  const sizes = new Sizes(8000, 1)
  normals(8000, 6).forEach((value) => sizes.add(Math.round(1.5 * value)))
  expect(Math.abs(sizes.variance() / (1.5 ** 2 + 1 / 12) - 1)).toBeLessThan(0.06)
})

test('nothing has no variance, and equal numbers have none', () => {
  expect(new Sizes(4, 0).variance()).toBe(0)
  const sizes = new Sizes(50, 0)
  for (let i = 0; i < 50; i++) sizes.add(0)
  expect(sizes.variance()).toBe(0)
})

test('a brightness with few places takes the level of the nearest with enough', () => {
  const sizes = new BinnedSizes(1, 5000, 0)
  normals(2000, 7).forEach((value) => sizes.add(0, 0.3, value))
  normals(2000, 8).forEach((value) => sizes.add(0, 0.8, 3 * value))
  normals(50, 9).forEach((value) => sizes.add(0, 0.55, 20 * value))
  const levels = levelsFrom(sizes, (variance) => variance)
  expect(levels).toHaveLength(GRAIN_BINS)
  expect(Math.abs(levels[2]! - 1)).toBeLessThan(0.1)
  expect(Math.abs(levels[6]! - 3)).toBeLessThan(0.3)
  expect(levels[4]).toBe(levels[2] as number)
  expect([levels[0], levels[7]]).toEqual([levels[2], levels[6]])
})
