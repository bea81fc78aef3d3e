import { IDENTITY, translationBy } from '../../geometry/transform'
import type { FillInput, Prepared } from '../method'
import { shadeFromAnchor, steadyShade } from './steadyShade'

const rect = { col: 10, row: 20, width: 30, height: 20 }
const input = { rect } as FillInput
const all = Int32Array.from({ length: 600 }, (_, pixel) => pixel)
/** Rises by 0.02 a px to the right. */
const there = steadyShade(input, all, {
  strengths: Float32Array.from(all, (pixel) => 0.02 * (pixel % 30)),
  missing: [0.5, 0.4, 0.3],
})
const anchor = (groundX: number, value = there): Prepared[] => [
  {
    frame: 1,
    purpose: 'anchor',
    groundFromHere: groundX === 0 ? IDENTITY : translationBy(groundX, 0),
    areaFromHere: IDENTITY,
    value,
  },
]
/** Pixels away from the edges. */
const inner = all.filter((pixel) => pixel % 30 > 8 && pixel % 30 < 22)

test('its strengths go with the ground, between pixels too; its depth stays', () => {
  const measured = { ...there, count: inner.length }
  const shade = shadeFromAnchor(anchor(2.5, measured), input, inner)!
  inner.forEach((pixel, k) => expect(shade.strengths[k]).toBeCloseTo(0.02 * ((pixel % 30) + 2.5), 4))
  expect(shade.missing).toEqual([0.5, 0.4, 0.3])
  const resting = shadeFromAnchor(anchor(0), input, all)!
  all.forEach((pixel, k) => expect(resting.strengths[k]).toBeCloseTo(0.02 * (pixel % 30), 4))
})

test('an area that goes over its ground covers more during the span than on a frame: it is told nothing', () => {
  expect(shadeFromAnchor(anchor(0), input, inner)).toBeNull()
})

test('nor is one that lies beside what was measured, or without an anchor', () => {
  expect(shadeFromAnchor(anchor(25), input, all)).toBeNull()
  expect(shadeFromAnchor([], input, all)).toBeNull()
})
