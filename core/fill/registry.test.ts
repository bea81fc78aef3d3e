import { samplesFromRaster } from '../image/samples'
/** What every fill on the list must do, whatever its method. */
import { completed } from './method'
import fc from 'fast-check'
import type { Raster } from '../image/raster'
import { IDENTITY } from '../geometry/transform'
import type { FillInput, FillMethod, FillResult, Prepared } from './method'
import { NEVER } from './method'
import { defaultsOf, fillMethods, findFill } from './registry'
import { paintRaster, pathInput, shiftedSource, stillAt } from '../../tests/fixtures/sampleInput'

const never = { shouldStop: () => false }
const [WIDTH, HEIGHT] = [96, 72]
const SHIFT = { dx: -28, dy: 3 }

function inputFor(picture: Raster, ends: readonly number[], over: Partial<FillInput> = {}): FillInput {
  const [x0, y0, x1, y1] = ends as [number, number, number, number]
  const points = [
    { x: x0, y: y0, widthPx: 6 },
    { x: x1, y: y1, widthPx: 6 },
  ]
  return pathInput(picture, points, undefined, {
    source: shiftedSource(picture, SHIFT.dx, SHIFT.dy),
    still: stillAt(picture),
    mark: OPAQUE_MARK,
    ...over,
  })
}

/** Covers all: nothing of it can be undone. */
const OPAQUE_MARK = {
  picture: {
    width: WIDTH,
    height: HEIGHT,
    channels: 3,
    added: new Float32Array(WIDTH * HEIGHT * 3).fill(1),
    opacity: new Float32Array(WIDTH * HEIGHT).fill(1),
  },
  x: 0,
  y: 0,
}

const pictureOf = (value: (x: number, y: number, channel: number) => number, channels = 3) =>
  paintRaster(WIDTH, HEIGHT, value, channels)
const places = fc.tuple(
  ...[0, 1, 2, 3].map((i) => fc.double({ min: i % 2 ? -10 : 30, max: i % 2 ? 80 : 90, noNaN: true })),
)

/** Small enough to be quick; everything else as it starts. */
const settingsOf = (method: FillMethod) => ({
  ...defaultsOf(method),
  ...(method.id === 'texture' ? { patchPx: 7, searchPx: 40 } : {}),
})

/** For fills that gather: one other frame, that shows the same; nothing of the thing or of what is held out may be taken there either. */
function otherFrames(method: FillMethod, { picture, rect, field, rimPx, taboo }: FillInput): Prepared[] {
  if (!method.steady?.gathers) return []
  const masked = taboo ? taboo.slice() : new Uint8Array(picture.width * picture.height)
  for (let i = 0; i < field.count; i++) if (field.edges[i]! < rimPx) masked[field.pixels[i]!] = NEVER
  return [
    {
      frame: 1002,
      purpose: 'gather',
      groundFromHere: IDENTITY,
      areaFromHere: IDENTITY,
      value: { samples: samplesFromRaster(picture, 16), rect, masked },
    },
  ]
}

function must(result: FillResult): Extract<FillResult, { ok: true }> {
  if (!result.ok) throw new Error(result.detail)
  return result
}

test('ids are unique, and an unknown one is not found', () => {
  expect(new Set(fillMethods.map((method) => method.id)).size).toBe(fillMethods.length)
  for (const method of fillMethods) expect(findFill(method.id)).toBe(method)
  expect(findFill('nothing')).toBeUndefined()
})

describe.each(fillMethods.map((method) => [method.title, method] as const))('%s', (_title, method) => {
  const settings = settingsOf(method)
  const isPlain = method.id !== 'cut'
  // A light and a colour of its own are what they are for.
  const isMade = method.id === 'light' || method.id === 'colour'
  const run = (input: FillInput) => completed(method.run(input, settings, never, otherFrames(method, input)))

  test('says what it is, where it comes from and how far it looks', () => {
    expect(method.summary).toMatch(/\.$/)
    expect(method.source).toMatch(/\.\)?$/)
    expect(method.version).toBeGreaterThanOrEqual(1)
    expect(method.reach(settings, 10).marginPx).toBeGreaterThanOrEqual(0)
    expect(method.reach(settings, 40).marginPx).toBeGreaterThanOrEqual(method.reach(settings, 10).marginPx)
  })

  if (!isMade) {
    test('a constant picture stays constant, wherever the path lies', () => {
      const picture = pictureOf((_x, _y, channel) => 0.2 + 0.3 * channel)
      fc.assert(
        fc.property(places, (ends) => {
          const input = inputFor(picture, ends)
          const result = run(input)
          if (!result.ok) return void expect(result.reason).toMatch(/no-source|nothing-known/)
          let most = 0
          for (let i = 0; i < input.field.count; i++) {
            if (input.wanted[i] === 0) continue
            for (let c = 0; c < 3; c++)
              most = Math.max(most, Math.abs(result.values[i * 3 + c]! - 0.2 - 0.3 * c))
          }
          // A median is ranked in 4080 steps, in half a step either way.
          expect(most).toBeLessThan(method.id === 'median' ? 2e-4 : 1e-5)
        }),
        { seed: 12, numRuns: method.id === 'texture' ? 6 : 25 },
      )
    })
  }

  test('results are finite, grain kept is a share, the input is untouched, the same again is the same', () => {
    const picture = pictureOf((x, y, channel) => 0.5 + 0.5 * Math.sin(x * 1.3 + y * 2.1 + channel), 4)
    const before = picture.data.slice()
    const ends = [50, -4, 54, 80]
    const result = must(run(inputFor(picture, ends)))
    expect(result.values.every(Number.isFinite)).toBe(true)
    expect(result.grainKept.every((kept) => kept >= 0 && (kept <= 1 || method.raisesGrain === true))).toBe(
      true,
    )
    expect(picture.data).toEqual(before)
    expect(must(run(inputFor(picture, ends))).values).toEqual(result.values)
  })

  if (!method.keepsThing && !method.corrects && isPlain) {
    test('the thing itself is never taken for its surroundings', () => {
      // A wire far brighter than anything else: none of it may come back.
      const picture = pictureOf((x) => (Math.abs(x - 50) <= 3 ? 50 : 0.4))
      const { values } = must(run(inputFor(picture, [50, -4, 50, 80])))
      expect(Math.max(...values)).toBeLessThanOrEqual(0.5)
    })
  }

  if (isPlain) {
    test('what is held out is never taken either', () => {
      // Something far brighter beside the wire and where a copy would come from.
      const isHeld = (x: number, y: number) => y > 20 && y < 50 && ((x > 55 && x < 70) || (x > 15 && x < 40))
      const picture = pictureOf((x, y) =>
        isHeld(x, y) ? 50 : Math.abs(x - 50) <= 3 ? (method.keepsThing || method.corrects ? 0.1 : 50) : 0.4,
      )
      const taboo = new Uint8Array(WIDTH * HEIGHT)
      for (let i = 0; i < taboo.length; i++)
        if (isHeld((i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5)) taboo[i] = NEVER
      const input = inputFor(picture, [50, -4, 50, 80], {
        taboo,
        source: shiftedSource(picture, SHIFT.dx, SHIFT.dy, taboo),
      })
      const { values } = must(run(input))
      for (let i = 0; i < input.field.count; i++) {
        if (input.wanted[i]! > 0 && taboo[input.field.pixels[i]!] === 0)
          expect(values[i * 3]).toBeLessThan(0.6)
      }
    })
  }

  test('stopping is prompt and is no failure', () => {
    const input = inputFor(
      pictureOf(() => 0.5),
      [50, 4, 50, 60],
    )
    expect(completed(method.run(input, settings, { shouldStop: () => true }))).toMatchObject({
      ok: false,
      reason: 'stopped',
    })
  })
})
