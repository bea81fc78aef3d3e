/** Flashes come and go; light that changes for good, or slowly, is none. */
import { countLight } from './flashes'

const courseOf = (stops: readonly (number | null)[]) => {
  const counter = countLight()
  counter.add(1001, null)
  let last = 0
  stops.forEach((light, i) => {
    counter.add(1002 + i, light === null ? null : light - last)
    last = light ?? 0
  })
  return counter.finish()
}

test('lighter for up to four frames and back is a flash, darker too; each is told once', () => {
  expect(courseOf([0, 0, 0.8, 0, 0]).flashes).toEqual([{ firstFrame: 1004, lastFrame: 1004, stops: 0.8 }])
  const [long, ...more] = courseOf([0, 0.5, 0.6, 0.55, 0.5, 0, 0, 0]).flashes
  expect(long).toMatchObject({ firstFrame: 1003, lastFrame: 1006 })
  expect(more).toEqual([])
  expect(courseOf([0, -0.6, -0.6, 0]).flashes).toMatchObject([{ firstFrame: 1003, lastFrame: 1004 }])
  expect(courseOf([0, 0.7, 0, 0, 0, 0, 0.9, 0]).flashes).toHaveLength(2)
})

test('a lamp that is switched on, a slow dimming, a small trembling, another picture: none', () => {
  expect(courseOf([0, 0.8, 0.8, 0.8, 0.8, 0.8, 0.8]).flashes).toEqual([])
  expect(courseOf(Array.from({ length: 30 }, (_, i) => -0.05 * i)).flashes).toEqual([])
  expect(courseOf([0, 0.1, 0, 0.1, 0]).flashes).toEqual([])
  expect(courseOf([0, 0.8, null, 0, 0]).flashes).toEqual([])
})

test('what flickers is told by its deviation; what drifts does not flicker', () => {
  expect(courseOf(Array.from({ length: 40 }, (_, i) => 0.03 * i)).flickerStops).toBe(0)
  // Light that goes up and down by turns by .1 deviates by .1; its second differences are four times that, of independent values the root of six.
  const { flickerStops } = courseOf(Array.from({ length: 40 }, (_, i) => (i % 2 === 0 ? 0.1 : -0.1)))
  expect(flickerStops).toBeGreaterThan(0.1)
  expect(flickerStops).toBeLessThan(0.3)
})
