import { createRandom } from '../../tests/random'
import { fitToneField, relight } from './toneField'

const CHANNELS = 3
const BOX = { x: 100, y: 100, halfPx: 100 }
const random = createRandom(9)

/** Places of a 200 px square, values there, and what this frame makes of them: a light that differs from place to place. */
function lit(
  isSeen: (x: number, y: number) => boolean,
  gainAt: (x: number, y: number, c: number) => number,
  grain = 0.006,
) {
  const places: number[] = []
  for (let y = 2; y < 200; y += 5) for (let x = 2; x < 200; x += 5) if (isSeen(x, y)) places.push(x, y)
  const there = Float32Array.from({ length: (places.length / 2) * CHANNELS }, () => 0.2 + 0.5 * random())
  const here = there.map((value, i) => {
    const place = 2 * Math.floor(i / CHANNELS)
    return value * gainAt(places[place]!, places[place + 1]!, i % CHANNELS) + grain * (random() - 0.5) * 3.4
  })
  return { places: Float32Array.from(places), there, here, kept: new Float32Array(places.length / 2).fill(1) }
}

/** The largest error of relighting, anywhere in the square. */
function worstError(
  { places, there, here, kept }: ReturnType<typeof lit>,
  gainAt: (x: number, y: number, c: number) => number,
): number {
  const field = fitToneField(places, here, there, kept, CHANNELS, BOX)!
  const everywhere = Float32Array.from({ length: 400 * 2 }, (_, i) =>
    i % 2 === 0 ? 10 * ((i >> 1) % 20) + 5 : 10 * Math.floor(i / 40) + 5,
  )
  const values = new Float32Array(400 * CHANNELS).fill(0.5)
  relight(field, everywhere, values, CHANNELS)
  let worst = 0
  values.forEach((value, i) => {
    const place = 2 * Math.floor(i / CHANNELS)
    worst = Math.max(
      worst,
      Math.abs(value - 0.5 * gainAt(everywhere[place]!, everywhere[place + 1]!, i % CHANNELS)),
    )
  })
  return worst
}

const isRing = (x: number, y: number) => Math.max(Math.abs(x - 100), Math.abs(y - 100)) > 70
/** A lamp above the middle: brighter towards it, in each channel a little differently. */
const lamp = (x: number, y: number, c: number) =>
  1.1 + 0.1 * (1 - ((x - 100) / 100) ** 2) * (1 - y / 400) - 0.03 * c

test('seen all round, a light that bends over the place is followed inside, to a hundredth', () => {
  expect(worstError(lit(isRing, lamp), lamp)).toBeLessThan(0.012)
})

test('seen on one side only, it does not run away on the other', () => {
  // Only the right edge is seen; and some of it shows what has come before it.
  const edge = lit((x) => x > 165, lamp)
  edge.here.forEach((_, i) => {
    if (edge.places[2 * Math.floor(i / CHANNELS) + 1]! > 150) edge.here[i]! *= 0.9
  })
  const worst = worstError(edge, lamp)
  expect(worst).toBeLessThan(0.09)
})

test('what shows something else has no say, and too little plate gives nothing', () => {
  const some = lit(isRing, () => 1.2)
  some.here.forEach((_, i) => {
    if (Math.floor(i / CHANNELS) % 4 === 0) some.here[i] = random()
  })
  expect(worstError(some, () => 1.2)).toBeLessThan(0.012)
  const { places, here, there } = some
  expect(
    fitToneField(
      places.subarray(0, 40),
      here.subarray(0, 60),
      there.subarray(0, 60),
      new Float32Array(20).fill(1),
      CHANNELS,
      BOX,
    ),
  ).toBeNull()
})
