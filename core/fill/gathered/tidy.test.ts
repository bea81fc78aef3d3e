import { createRandom } from '../../../tests/random'
import { closedInput, paintRaster } from '../../../tests/fixtures/sampleInput'
import { tidied } from './tidy'

const [WIDTH, HEIGHT] = [120, 100]
const GRAIN = 0.01
const random = createRandom(17)
const grain = () => GRAIN * (random() + random() + random() + random() - 2) * Math.sqrt(3)
const EDGE = { featherOutPx: 1, featherInPx: 0, growPx: 12 }
/** From 30 to 80 and 25 to 70 as drawn; looked at 12 px further out. */
const DRAWN = [30, 25, 80, 25, 80, 70, 30, 70]

/** A background of 0.5; what is there differs by so much. */
function lookAt(
  offAt: (x: number, y: number) => number,
  {
    isSeen = (): boolean => true,
    isEvery = true,
    holdoutDistances = null as ((x: number, y: number) => number) | null,
  } = {},
) {
  const picture = paintRaster(WIDTH, HEIGHT, (x, y) => 0.5 + offAt(x, y) + grain())
  const input = closedInput(picture, DRAWN, EDGE)
  const { field } = input
  const placeOf = (entry: number) =>
    [(field.pixels[entry]! % WIDTH) + 0.5, Math.floor(field.pixels[entry]! / WIDTH) + 0.5] as const
  const asked = (entry: number) => {
    const [x, y] = placeOf(entry)
    return isEvery || (Math.floor(x) + Math.floor(y)) % 2 === 0
  }
  const needed = tidied({
    input: {
      ...input,
      holdoutDistances:
        holdoutDistances &&
        Float32Array.from({ length: field.count }, (_, i) => holdoutDistances(...placeOf(i))),
    },
    values: Float32Array.from({ length: field.count * 3 }, () => 0.5),
    grainKept: new Float32Array(field.count).fill(0.05),
    isSeen: Uint8Array.from({ length: field.count }, (_, i) =>
      !asked(i) ? 0 : isSeen() ? 1 : placeOf(i)[0] > 60 ? 1 : 0,
    ),
    isAsked: isEvery ? null : Uint8Array.from({ length: field.count }, (_, i) => (asked(i) ? 1 : 0)),
    grainDeviations: [GRAIN, GRAIN, GRAIN],
    drawnPx: 0,
    growPx: 3,
    featherPx: 2,
  })
  const at = new Map<number, number>()
  needed.forEach((share, i) => input.wanted[i]! > 0 && at.set(field.pixels[i]!, share))
  const shareAt = (x: number, y: number) => at.get(Math.floor(y) * WIDTH + Math.floor(x))!
  return { shareAt, needed: needed.filter((_, i) => input.wanted[i]! > 0) }
}

const disc = (x: number, y: number, radius: number) => (px: number, py: number) =>
  Math.hypot(px - x, py - y) < radius ? 1 : 0

test('grain alone is no thing: nothing is needed', () => {
  const { needed } = lookAt(() => 0)
  expect(needed.filter((share) => share > 0).length).toBeLessThan(0.005 * needed.length)
})

test('the thing is needed, its rim with it, and nothing beyond', () => {
  const thing = disc(55, 48, 14)
  const { shareAt } = lookAt((x, y) => 0.1 * thing(x, y))
  for (let angle = 0; angle < 6.2; angle += 0.3) {
    const along = (radius: number) => shareAt(55 + radius * Math.cos(angle), 48 + radius * Math.sin(angle))
    expect([along(0), along(10), along(13)]).toEqual([1, 1, 1])
    expect(along(15)).toBeGreaterThan(0.9)
    expect(along(28)).toBe(0)
  }
})

test('a thing that is faint is told from grain by its neighbourhood: a shadow of two deviations', () => {
  const shadow = disc(55, 48, 14)
  const { shareAt } = lookAt((x, y) => -2 * GRAIN * shadow(x, y))
  expect([shareAt(55, 48), shareAt(48, 44), shareAt(60, 54)]).toEqual([1, 1, 1])
})

test('small gaps are closed, single specks are left', () => {
  const thing = disc(55, 48, 16)
  const gap = disc(55, 48, 3)
  const speck = disc(28.5, 20.5, 0.6)
  const { shareAt } = lookAt((x, y) => 0.1 * (thing(x, y) - gap(x, y)) + 0.04 * speck(x, y))
  expect(shareAt(55, 48)).toBe(1)
  expect(shareAt(28, 20)).toBe(0)
})

test('what no frame saw is the thing inside the outline as drawn, and is not outside it', () => {
  const { shareAt } = lookAt(() => 0, { isSeen: () => false })
  expect([shareAt(40, 45), shareAt(55, 60)]).toEqual([1, 1])
  expect([shareAt(75, 45), shareAt(20, 45)]).toEqual([0, 0])
})

test('what hangs together with a holdout is held out with its rim, up to the outline as drawn', () => {
  const thing = disc(55, 48, 12)
  const passing = (x: number, y: number) => (y < 24 && y > 16 && x > 34 && x < 78 ? 1 : 0)
  const off = (x: number, y: number) => 0.1 * Math.max(thing(x, y), passing(x, y))
  const free = lookAt(off)
  expect([free.shareAt(40, 20), free.shareAt(70, 20)]).toEqual([1, 1])
  const holdoutDistances = lookAt(off, { holdoutDistances: (x, y) => Math.hypot(x - 40, y - 20) - 3 })
  expect([
    holdoutDistances.shareAt(46, 20),
    holdoutDistances.shareAt(70, 20),
    holdoutDistances.shareAt(60, 22),
  ]).toEqual([0, 0, 0])
  expect(holdoutDistances.shareAt(55, 48)).toBe(1)
})

test('at the border of the picture a thing is needed as much as inside: fewer pixels lie around, not less of it', () => {
  const picture = paintRaster(WIDTH, HEIGHT, (x, y) => (x < 40 && y > 60 ? 0.8 : 0.5) + grain())
  const input = closedInput(picture, [-30, 50, 60, 50, 60, 130, -30, 130], EDGE)
  const { field } = input
  const needed = tidied({
    input,
    values: Float32Array.from({ length: field.count * 3 }, () => 0.5),
    grainKept: new Float32Array(field.count).fill(0.05),
    isSeen: new Uint8Array(field.count).fill(1),
    grainDeviations: [GRAIN, GRAIN, GRAIN],
    drawnPx: 0,
    growPx: 3,
    featherPx: 2,
  })
  for (let i = 0; i < field.count; i++) {
    const [col, row] = [field.pixels[i]! % WIDTH, Math.floor(field.pixels[i]! / WIDTH)]
    if (col < 38 && row > 62) expect(needed[i]).toBe(1)
  }
})

test('every second pixel is enough to tell a thing by', () => {
  const thing = disc(55, 48, 14)
  const { shareAt } = lookAt((x, y) => 0.1 * thing(x, y), { isEvery: false })
  expect([shareAt(55, 48), shareAt(56, 48), shareAt(55, 40)]).toEqual([1, 1, 1])
  expect([shareAt(55, 78), shareAt(24, 48), shareAt(25, 48)]).toEqual([0, 0, 0])
})
