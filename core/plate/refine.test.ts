import { createRandom } from '../../tests/random'
import { paintRaster } from '../../tests/fixtures/sampleInput'
import { anchorsAt, gatherFrameOf, readingPlanes, ROOMY_BYTES } from '../../tests/fixtures/samplePlaces'
import { wavesAt } from '../../tests/fixtures/sampleScene'
import { apply, compose, translationBy, type Matrix3 } from '../geometry/transform'
import { withKernelMemory } from '../kernels/memory'
import { openFrame, type GatherFrame } from './places'
import { refineMotion } from './refine'

const [WIDTH, HEIGHT] = [160, 120]
const random = createRandom(21)

/** This frame's texture, seen through a motion, brighter by a gain and an offset, with grain. */
function otherFrame(thereFromHere: Matrix3, gain: number, offset: number, grain = 0): GatherFrame {
  // The way back of an affine motion, by Cramer's rule.
  const [a, b, c, d, e, f] = thereFromHere
  const determinant = a * e - b * d
  return gatherFrameOf(
    paintRaster(WIDTH, HEIGHT, (x, y, channel) => {
      const [px, py] = [x - c, y - f]
      const value = wavesAt((e * px - b * py) / determinant, (a * py - d * px) / determinant, channel, 8)
      return gain * value + offset + grain * (random() - 0.5)
    }),
  )
}

/** A ring of places, as around an area. */
const ring: (readonly [number, number])[] = []
for (let y = 20.5; y < HEIGHT - 20; y += 2) {
  for (let x = 30.5; x < WIDTH - 30; x += 2) {
    const away = Math.sqrt((x - 80) * (x - 80) + (y - 60) * (y - 60))
    if (away > 22 && away < 48) ring.push([x, y])
  }
}

const refined = (frame: GatherFrame, start: Matrix3, points = ring) =>
  withKernelMemory(ROOMY_BYTES, (scope) => {
    const anchors = anchorsAt(scope, points, (x, y, c) => wavesAt(x, y, c, 8))
    return refineMotion(anchors, openFrame(frame, scope), start, readingPlanes(scope, points.length, 3))
  })

describe('registering on the plate around an area', () => {
  const truth: Matrix3 = [1.004, -0.006, 2.3, 0.005, 0.998, -1.7, 0, 0, 1]

  test('finds shift, turn and scale from a start that is a pixel off, whatever the light', () => {
    const found = refined(otherFrame(truth, 0.8, 0.07, 0.02), compose(translationBy(0.8, -0.7), truth))!
    for (const [x, y] of [
      [50, 40],
      [80, 60],
      [110, 85],
    ] as const) {
      const [a, b] = [apply(found.thereFromHere, x, y), apply(truth, x, y)]
      expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(0.03)
    }
    expect(found.inside).toBe(1)
  })

  test('frames that lie pixel on pixel stay so', () => {
    expect(
      refined(otherFrame([1, 0, 3, 0, 1, -2, 0, 0, 1], 1, 0, 0.02), translationBy(3, -2))!.thereFromHere,
    ).toEqual(translationBy(3, -2))
  })

  test('gives up where too little can be read, or it would lead far away', () => {
    const frame = otherFrame([1, 0, 0, 0, 1, 0, 0, 0, 1], 1, 0)
    expect(refined(frame, translationBy(150, 0))).toBeNull()
    expect(refined(frame, translationBy(0, 0), ring.slice(0, 20))).toBeNull()
  })
})

test('anchors to one side, few and flat, do not bend what lies on the other: the scene’s motion is believed there', () => {
  const right = ring.filter(([x]) => x > 112)
  expect(right.length).toBeGreaterThan(60)
  const start = translationBy(3, -2)
  const found = refined(otherFrame(start, 1, 0, 0.08), start, right)
  const at = apply(found?.thereFromHere ?? start, 40, 60)
  expect(Math.hypot(at.x - 43, at.y - 58)).toBeLessThan(0.4)
})
