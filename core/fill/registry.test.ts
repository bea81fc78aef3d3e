/** What every fill on the list must do, whatever its method. */
import fc from 'fast-check'
import { createPathCurve } from '../geometry/pathCurve'
import { createRaster, type Raster } from '../image/raster'
import { measurePathField } from '../matte/pathField'
import { outerPxOf, rimPxOf } from '../matte/edge'
import { renderPathCoverage } from '../matte/pathMatte'
import type { FillInput } from './method'
import { defaultsOf, fillMethods, findFill } from './registry'

const edge = { featherOutPx: 1.5, featherInPx: 0, growPx: 0.5 }
const never = { shouldStop: () => false }

function inputFor(picture: Raster, ends: readonly [number, number, number, number], widthPx = 6): FillInput {
  const curve = createPathCurve([
    { x: ends[0], y: ends[1], widthPx },
    { x: ends[2], y: ends[3], widthPx },
  ])
  const rect = { col: 0, row: 0, width: picture.width, height: picture.height }
  const field = measurePathField(curve, rect, outerPxOf(edge) + 4)
  return {
    picture,
    rect,
    pictureSize: picture,
    path: { curve, field },
    field,
    coverage: renderPathCoverage(field, edge),
    rimPx: rimPxOf(edge),
    outerPx: outerPxOf(edge),
  }
}

function pictureOf(value: (x: number, y: number, channel: number) => number, channels = 3): Raster {
  const raster = createRaster(60, 44, channels)
  for (let i = 0; i < raster.data.length; i++) {
    const pixel = Math.floor(i / channels)
    raster.data[i] = value((pixel % 60) + 0.5, Math.floor(pixel / 60) + 0.5, i % channels)
  }
  return raster
}

const places = fc.tuple(
  ...([0, 1, 2, 3].map(() => fc.double({ min: -10, max: 70, noNaN: true })) as [
    fc.Arbitrary<number>,
    fc.Arbitrary<number>,
    fc.Arbitrary<number>,
    fc.Arbitrary<number>,
  ]),
)

test('ids are unique, and an unknown one is not found', () => {
  expect(new Set(fillMethods.map((method) => method.id)).size).toBe(fillMethods.length)
  for (const method of fillMethods) expect(findFill(method.id)).toBe(method)
  expect(findFill('nothing')).toBeUndefined()
})

describe.each(fillMethods.map((method) => [method.title, method] as const))('%s', (_title, method) => {
  const settings = defaultsOf(method)

  test('says what it is, where it comes from and how far it looks', () => {
    expect(method.summary).toMatch(/\.$/)
    expect(method.source).toMatch(/\.$/)
    expect(method.version).toBeGreaterThanOrEqual(1)
    expect(method.reach(settings, 10).marginPx).toBeGreaterThanOrEqual(0)
    expect(method.reach(settings, 40).marginPx).toBeGreaterThanOrEqual(method.reach(settings, 10).marginPx)
  })

  test('a constant picture stays constant, wherever the path lies', () => {
    const picture = pictureOf((_x, _y, channel) => 0.2 + 0.3 * channel)
    fc.assert(
      fc.property(places, (ends) => {
        const input = inputFor(picture, ends)
        const result = method.run(input, settings, never)
        if (!result.ok) throw new Error(result.detail)
        for (let i = 0; i < input.field.count; i++) {
          if (input.coverage[i] === 0) continue
          for (let channel = 0; channel < 3; channel++) expect(result.values[i * 3 + channel]).toBeCloseTo(0.2 + 0.3 * channel, 5)
        }
      }),
      { seed: 12, numRuns: 25 },
    )
  })

  test('results are finite, grain kept is a share, the input is untouched, the same again is the same', () => {
    const picture = pictureOf((x, y, channel) => 0.5 + 0.5 * Math.sin(x * 1.3 + y * 2.1 + channel), 4)
    const before = picture.data.slice()
    const input = inputFor(picture, [30, -4, 34, 48])
    const result = method.run(input, settings, never)
    if (!result.ok) throw new Error(result.detail)
    expect(result.values.every(Number.isFinite)).toBe(true)
    expect(result.grainKept.every((kept) => kept >= 0 && kept <= 1)).toBe(true)
    expect(picture.data).toEqual(before)
    const again = method.run(inputFor(picture, [30, -4, 34, 48]), settings, never)
    expect(again.ok && again.values).toEqual(result.values)
  })

  test('the thing itself is never taken for its surroundings', () => {
    // A wire far brighter than anything else: none of it may come back.
    const picture = pictureOf((x) => (Math.abs(x - 30) <= 3 ? 50 : 0.4))
    const input = inputFor(picture, [30, -4, 30, 48])
    const result = method.run(input, settings, never)
    if (!result.ok) throw new Error(result.detail)
    expect(Math.max(...result.values)).toBeLessThan(0.5)
  })

  test('stopping is prompt and is no failure', () => {
    const result = method.run(
      inputFor(
        pictureOf(() => 0.5),
        [30, 4, 30, 40],
      ),
      settings,
      { shouldStop: () => true },
    )
    expect(result).toMatchObject({ ok: false, reason: 'stopped' })
  })
})
