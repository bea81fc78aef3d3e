import { createSamples, type Samples } from '../../image/samples'
import type { Area } from '../../document/areas'
import { fillOf, sampleEllipse, sampleMend } from '../../../tests/fixtures/sampleMend'
import { documentOf } from '../../../tests/fixtures/sampleDocument'
import { NEVER_STOPS, sourceOfSamples } from '../../../tests/fixtures/sampleSource'
import { suggestedResults } from './suggestedResults'
import { suggestSources } from './suggestSources'

const [WIDTH, HEIGHT] = [320, 200]
const AREA = { x: 160, y: 100, radiusXPx: 18, radiusYPx: 14, turnDeg: 0 }
const area: Area = sampleEllipse({ keys: [{ frame: 1001, ...AREA }] })
const mend = sampleMend({ id: 'p', areas: [area] })

/** Boards with joints every 40 px, lit from the left, and a band below that is unlike everything else. */
const boards = (x: number, y: number) =>
  (x % 40 < 3 ? 40 : 120) + x / 8 + (y > 150 ? 70 : 0) + 6 * Math.sin(x * 1.3 + y * 0.4)
const frameOf = (value = boards): Samples => {
  const samples = createSamples(WIDTH, HEIGHT, 3, 8)
  for (let i = 0; i < samples.data.length; i++) {
    const pixel = Math.floor(i / 3)
    const [x, y] = [(pixel % WIDTH) + 0.5, Math.floor(pixel / WIDTH) + 0.5]
    samples.data[i] = Math.round(Math.hypot((x - AREA.x) / 18, (y - AREA.y) / 14) < 1 ? 5 : value(x, y))
  }
  return samples
}
const suggest = (mends = [mend], one = mend) =>
  suggestSources(
    documentOf(mends),
    { mendId: one.id, areaId: one.areas[0]!.id, frame: 1010 },
    sourceOfSamples(frameOf()),
    NEVER_STOPS,
  )

test('the best place joins the boards: a whole number of boards aside, the band avoided, the area itself never', async () => {
  const found = await suggest()
  expect(found.length).toBeGreaterThan(2)
  const [best] = found
  expect(Math.abs(Math.round(best!.dx / 40) * 40 - best!.dx)).toBeLessThanOrEqual(1)
  for (const { dx, dy } of found) {
    // Clear of the area, with its soft edge.
    expect(Math.abs(dx) > 2 * 18 || Math.abs(dy) > 2 * 14).toBe(true)
    expect(AREA.x + dx - 20).toBeGreaterThanOrEqual(0)
    expect(AREA.x + dx + 20).toBeLessThanOrEqual(WIDTH)
  }
  for (let i = 1; i < found.length; i++)
    expect(found[i]!.difference).toBeGreaterThanOrEqual(found[i - 1]!.difference)
})

test('another mend there is avoided on every frame of the span; a holdout only counts against a place', async () => {
  const [best] = await suggest()
  const there = { x: AREA.x + best!.dx, y: AREA.y + best!.dy, radiusXPx: 10, radiusYPx: 10, turnDeg: 0 }
  const late = sampleMend({
    id: 'late',
    areas: [sampleEllipse({ keys: [{ frame: 1001, ...there }] })],
    span: { firstFrame: 1040, lastFrame: 1048 },
  })
  const aside = await suggest([mend, late])
  for (const { dx, dy } of aside)
    expect(Math.hypot(AREA.x + dx - there.x, AREA.y + dy - there.y)).toBeGreaterThan(20)
  const heldOutViews = {
    ...mend,
    areas: [
      area,
      sampleEllipse({
        id: 'h',
        role: 'holdout',
        keys: [{ frame: 1001, x: 160, y: 100, radiusXPx: 150, radiusYPx: 90, turnDeg: 0 }],
      }),
    ],
  }
  expect(await suggest([heldOutViews], heldOutViews)).toEqual([]) // hidden on every frame: nothing to compare
})

test('where nothing is free, nothing is suggested; stopped, nothing either', async () => {
  const all = sampleMend({
    id: 'all',
    areas: [
      sampleEllipse({ keys: [{ frame: 1001, x: 160, y: 100, radiusXPx: 400, radiusYPx: 300, turnDeg: 0 }] }),
    ],
  })
  expect(await suggest([mend, all])).toEqual([])
  const request = { mendId: mend.id, areaId: area.id, frame: 1010 }
  expect(
    await suggestSources(documentOf([mend]), request, sourceOfSamples(frameOf()), { shouldStop: () => true }),
  ).toEqual([])
})

test('where only a turned place is like the rim, it is found and turned', async () => {
  const TURN = (8 * Math.PI) / 180
  // Stripes lie level on the left and turned on the right; the left is taken by another mend.
  const stripes = (x: number, y: number) => {
    const across = x < 125 ? y : Math.cos(TURN) * y - Math.sin(TURN) * x
    return 120 + 60 * Math.sin(across / 3)
  }
  const picture = createSamples(WIDTH, HEIGHT, 3, 8)
  for (let i = 0; i < picture.data.length; i++) {
    const pixel = Math.floor(i / 3)
    picture.data[i] = Math.round(stripes((pixel % WIDTH) + 0.5, Math.floor(pixel / WIDTH) + 0.5))
  }
  const small = sampleEllipse({
    keys: [{ frame: 1001, x: 100, y: 100, radiusXPx: 18, radiusYPx: 14, turnDeg: 0 }],
  })
  const own = sampleMend({ id: 'turned', areas: [small], span: { firstFrame: 1001, lastFrame: 1001 } })
  const aside = [40, 160].map((y, i) =>
    sampleMend({
      id: `taken${i}`,
      areas: [
        sampleEllipse({ keys: [{ frame: 1001, x: 80, y, radiusXPx: 130, radiusYPx: 44, turnDeg: 0 }] }),
      ],
    }),
  )
  const left = sampleMend({
    id: 'left',
    areas: [
      sampleEllipse({ keys: [{ frame: 1001, x: 30, y: 100, radiusXPx: 35, radiusYPx: 40, turnDeg: 0 }] }),
    ],
  })
  const [best] = await suggestSources(
    documentOf([own, ...aside, left]),
    { mendId: own.id, areaId: small.id, frame: 1001 },
    sourceOfSamples(picture),
    NEVER_STOPS,
  )
  expect(best!.turnDeg).toBeGreaterThan(5)
  expect(best!.turnDeg).toBeLessThan(11)
  expect(best!.dx).toBeGreaterThan(30) // beside, where the stripes are turned
})

test('each suggestion comes with a picture of the mend as it comes out; the places are those that were suggested', async () => {
  const request = { mendId: mend.id, areaId: area.id, frame: 1010 }
  const span = { ...mend.span, firstFrame: 1010, lastFrame: 1010 }
  const healed = { ...mend, span, fill: fillOf('heal') }
  const clip = sourceOfSamples(frameOf())
  const results = await suggestedResults(documentOf([healed]), request, clip, NEVER_STOPS)
  const suggested = await suggestSources(documentOf([healed]), request, clip, NEVER_STOPS)
  const places = (all: readonly { dx: number; dy: number }[]) => all.map(({ dx, dy }) => `${dx} ${dy}`).sort()
  expect(places(results)).toEqual(places(suggested))
  for (const { picture } of results) {
    const { width, height, data } = picture
    expect([data.length, Math.max(width, height) <= 192]).toEqual([4 * width * height, true])
    const middle = 4 * (Math.floor(height / 2) * width + Math.floor(width / 2))
    expect(data[middle]!).toBeGreaterThan(30) // the thing, 5, is gone
    expect(data[middle + 3]).toBe(255)
  }
  expect(results[0]!.difference).toBeLessThan(1.5 * suggested[0]!.difference + 0.01)
})
