import { paintRaster } from '../../tests/fixtures/sampleInput'
import {
  anchorsAt,
  floatsAt,
  gatherFrameOf,
  placesAt,
  planesWith,
  readingPlanes,
  ROOMY_BYTES,
} from '../../tests/fixtures/samplePlaces'
import { createRandom } from '../../tests/random'
import { IDENTITY } from '../geometry/transform'
import { withKernelMemory } from '../kernels/memory'
import { openFrame } from './places'
import { fitToneField, toneBytes } from './toneField'

const random = createRandom(9)
type GainAt = (x: number, y: number, c: number) => number
type Point = readonly [x: number, y: number]

interface Lit {
  readonly points: readonly Point[]
  readonly there: number[][]
  readonly here: number[][]
}

/** Places of a 200 px square, values there, and what this frame makes of them: a light that differs from place to place. */
function lit(isSeen: (x: number, y: number) => boolean, gainAt: GainAt, grain = 0.006): Lit {
  const points: Point[] = []
  for (let y = 2; y < 200; y += 5) for (let x = 2; x < 200; x += 5) if (isSeen(x, y)) points.push([x, y])
  const there = points.map(() => [0, 1, 2].map(() => 0.2 + 0.5 * random()))
  const here = points.map(([x, y], k) =>
    there[k]!.map((value, c) => value * gainAt(x, y, c) + grain * (random() - 0.5) * 3.4),
  )
  return { points, there, here }
}

const LEVEL = 0.5
const SQUARE = { x: 100, y: 100, unit: 100 }

/** The largest error of relighting a flat frame, anywhere in the square; null where no light could be told. */
function worstError({ points, there, here }: Lit, gainAt: GainAt, kept = points.map(() => 1)): number | null {
  return withKernelMemory(ROOMY_BYTES, (scope) => {
    const anchors = anchorsAt(scope, points, (_x, _y, c, k) => here[k]![c]!, SQUARE)
    const field = fitToneField(anchors, planesWith(scope, there, kept), scope.reserve(toneBytes(3)))
    if (!field) return null
    const everywhere = Array.from({ length: 400 }, (_, i): Point => [
      10 * (i % 20) + 5.5,
      10 * Math.floor(i / 20) + 5.5,
    ])
    const planes = readingPlanes(scope, everywhere.length, 3)
    const flat = gatherFrameOf(paintRaster(200, 200, () => LEVEL))
    openFrame(flat, scope).readInto(planes, placesAt(scope, everywhere), IDENTITY, field.tone)
    const values = floatsAt(planes.values, 3 * planes.stride)
    let worst = 0
    everywhere.forEach(([x, y], k) => {
      for (let c = 0; c < 3; c++)
        worst = Math.max(worst, Math.abs(values[c * planes.stride + k]! - LEVEL * gainAt(x, y, c)))
    })
    return worst
  })
}

const isRing = (x: number, y: number) => Math.max(Math.abs(x - 100), Math.abs(y - 100)) > 70
/** A lamp above the middle: brighter towards it, in each channel a little differently. */
const lamp: GainAt = (x, y, c) => 1.1 + 0.1 * (1 - ((x - 100) / 100) ** 2) * (1 - y / 400) - 0.03 * c
const even: GainAt = () => 1.2

test('seen all round, a light that bends over the place is followed inside, to a hundredth', () => {
  expect(worstError(lit(isRing, lamp), lamp)).toBeLessThan(0.012)
})

test('seen on one side only, it does not run away on the other', () => {
  // Only the right edge is seen; and some of it shows what has come before it.
  const edge = lit((x) => x > 165, lamp)
  edge.points.forEach(([, y], k) => {
    if (y > 150) edge.here[k] = edge.here[k]!.map((value) => 0.9 * value)
  })
  expect(worstError(edge, lamp)).toBeLessThan(0.09)
})

test('what shows something else has no say, and too little plate gives nothing', () => {
  const some = lit(isRing, even)
  some.here.forEach((_, k) => {
    if (k % 4 === 0) some.here[k] = [random(), random(), random()]
  })
  expect(worstError(some, even)).toBeLessThan(0.012)
  const few = {
    points: some.points.slice(0, 20),
    here: some.here.slice(0, 20),
    there: some.there.slice(0, 20),
  }
  expect(worstError(few, even)).toBeNull()
  expect(
    worstError(
      some,
      even,
      some.points.map(() => -1),
    ),
  ).toBeNull()
})
