/** Fills through the evaluator: what a whole frame gets, holdouts, other mends and neighbouring frames included. */
import { defaultsOf, findFill } from '../fill/registry'
import { grainAt } from '../finish/grain'
import { createSamples, cropSamples, type Samples } from '../image/samples'
import type { Area } from '../document/areas'
import { handOver } from '../document/commands'
import { mendSamples, sourceOfSamples } from '../../tests/fixtures/sampleSource'
import { sampleEllipse, sampleMend, samplePath, sampleRecord } from '../../tests/fixtures/sampleMend'
import { DEFAULT_FINISH, type Finish, type Mend } from '../document/mend'
import { restingSource } from '../document/sourceKeys'
import type { Clip, Cache } from '../shot/clip'

const [WIDTH, HEIGHT] = [220, 150]
const span = { firstFrame: 1001, lastFrame: 1010, rampInFrames: 0, rampOutFrames: 0 }
const THING = { x: 120, y: 80, radiusXPx: 14, radiusYPx: 12, turnDeg: 0 }
const fillOf = (id: string, params: Record<string, unknown> = {}) => ({ methodId: id, methodVersion: findFill(id)!.version, params: { ...defaultsOf(findFill(id)!), ...params } }) // prettier-ignore
const finish = (over: Partial<Finish> = {}): Finish => ({
  ...DEFAULT_FINISH,
  featherOutPx: 3,
  growPx: 1,
  ...over,
})

/** A banner, far brighter than anything else, that passes in front from the right; 20 px a frame. */
const bannerX = (frame: number) => 250 - 20 * (frame - 1001)
const isBanner = (frame: number, x: number, y: number) =>
  Math.abs(x - bannerX(frame)) < 30 && Math.abs(y - 75) < 40
const wall = (x: number, y: number) => 0.35 + 0.08 * Math.sin(x / 3.1) * Math.cos(y / 2.7) + x / 1400
const isThing = (x: number, y: number) => Math.hypot((x - THING.x) / 13, (y - THING.y) / 11) < 1

const painted = new Map<string, Samples>()

/** Painted once: to be read only. */
function paint(frame: number, hasThing = true, hasBanner = true): Samples {
  const key = [frame, hasThing, hasBanner].join()
  const samples = painted.get(key) ?? paintAnew(frame, hasThing, hasBanner)
  painted.set(key, samples)
  return samples
}

function paintAnew(frame: number, hasThing: boolean, hasBanner: boolean): Samples {
  const samples = createSamples(WIDTH, HEIGHT, 3, 8)
  for (let row = 0, i = 0; row < HEIGHT; row++) {
    for (let col = 0; col < WIDTH; col++) {
      const [x, y] = [col + 0.5, row + 0.5]
      const value = hasBanner && isBanner(frame, x, y) ? 0.97 : hasThing && isThing(x, y) ? 0.05 : wall(x, y)
      const tint = value === 0.97 || value === 0.05 ? 0 : 0.03
      for (let c = 0; c < 3; c++, i++)
        samples.data[i] = Math.round(255 * (value + tint * c) + 1.5 * grainAt(5, frame, col, row, c))
    }
  }
  return samples
}

const banner: Area = {
  shape: 'box',
  id: 'banner',
  role: 'holdout',
  interpolation: 'linear',
  follow: null,
  keys: [1001, 1010].map((frame) => ({
    frame,
    x: bannerX(frame),
    y: 75,
    widthPx: 60,
    heightPx: 80,
    turnDeg: 0,
    cornerPx: 0,
  })),
}
const thing = sampleEllipse({ id: 'thing', keys: [{ frame: 1001, ...THING }] })
const patch = (id: string, over: Partial<Mend> = {}): Mend =>
  sampleMend({ id: 'patch', areas: [thing, banner], fill: fillOf(id), finish: finish(), source: restingSource(span, { dx: -44, dy: 2, turnDeg: 0, scale: 1 }), span, ...over }) // prettier-ignore

/** Mean of a channel, or of all of them. */
function meanOf({ data }: Samples, channel: number | null = null): number {
  const values = [...data].filter((_, i) => channel === null || i % 3 === channel)
  return values.reduce((a, b) => a + b, 0) / values.length
}

const createCache = (): Cache => {
  const kept = new Map<string, object>()
  return { get: (key) => kept.get(key), set: (key, value) => void kept.set(key, value) }
}
const sourceWith = (over: Partial<Clip> = {}) =>
  sourceOfSamples((frame) => paint(frame), { cache: createCache(), ...over })

describe.each(['heal', 'clone', 'texture', 'membrane', 'median'])(
  '%s, with a banner held out that passes in front',
  (id) => {
    const source = sourceWith()
    test.each([1003, 1005, 1007, 1009])(
      'on frame %i: the banner keeps every bit, none of it enters the patch, nothing else changes',
      async (frame) => {
        const { finished, notes } = await mendSamples(source, [patch(id)], frame)
        const plate = paint(frame)
        expect(notes).toEqual([])
        let [hidden, changedElsewhere, darkest, brightest] = [0, 0, 255, 0]
        for (let i = 0; i < plate.data.length; i++) {
          const [x, y] = [(Math.floor(i / 3) % WIDTH) + 0.5, Math.floor(i / 3 / WIDTH) + 0.5]
          const distance = Math.hypot((x - THING.x) / THING.radiusXPx, (y - THING.y) / THING.radiusYPx)
          const after = finished.data[i]!
          if (isBanner(frame, x, y) || distance > 1.5) changedElsewhere += after === plate.data[i] ? 0 : 1
          else if (distance < 0.85) {
            hidden++
            darkest = Math.min(darkest, after)
            brightest = Math.max(brightest, after)
          }
        }
        expect(changedElsewhere).toBe(0)
        // The banner would be 247, the thing 13; the wall lies between.
        if (hidden > 0) expect([darkest > 40, brightest < 170]).toEqual([true, true])
        if (frame === 1003 || frame === 1009) expect(hidden).toBeGreaterThan(500)
      },
    )
  },
)

test('what is kept between frames changes no byte: with it and without it, in any order', async () => {
  const kept = sourceWith()
  const stackIndex = [1009, 1005]
  for (const id of ['heal', 'texture']) {
    for (const frame of stackIndex) {
      const [once, again] = await Promise.all([
        mendSamples(kept, [patch(id)], frame),
        mendSamples(sourceWith({ cache: undefined }), [patch(id)], frame),
      ])
      expect(again.finished.data).toEqual(once.finished.data)
    }
  }
})

test('a copy agrees with its new place in brightness; exposure and saturation are trimmed on top', async () => {
  // The source lies where the wall is a good deal darker.
  const shaded = (frame: number): Samples => {
    const samples = paint(frame, true, false)
    const data = samples.data.map((value, i) =>
      Math.round(value * (Math.floor(i / 3) % WIDTH < 95 ? 0.6 : 1)),
    )
    return { ...samples, data }
  }
  const source = sourceOfSamples(shaded)
  const plain = (over: Partial<Finish>) => patch('clone', { areas: [thing], source: restingSource(span, { dx: -60, dy: 0, turnDeg: 0, scale: 1 }), finish: finish(over) }) // prettier-ignore
  const mean = async (over: Partial<Finish>, channel = 0) => {
    const { finished } = await mendSamples(source, [plain(over)], 1003)
    const part = cropSamples(finished, { col: 112, row: 74, width: 16, height: 12 })
    return meanOf(part, channel)
  }
  const clean = cropSamples(paint(1003, false, false), { col: 112, row: 74, width: 16, height: 12 })
  const wanted = meanOf(clean, 0)
  expect(Math.abs((await mean({ agree: 1 })) - wanted)).toBeLessThan(6)
  expect((await mean({ agree: 0 })) / wanted).toBeLessThan(0.7)
  expect((await mean({ agree: 1, exposureStops: 1 })) / (await mean({ agree: 1 }))).toBeGreaterThan(1.25)
  const grey = await Promise.all(
    [0, 1, 2].map((channel) => mean({ agree: 1, saturation: 0, grain: 0 }, channel)),
  )
  expect(Math.max(...grey) - Math.min(...grey)).toBeLessThan(1.5)
})

test('no fill ever samples another mend’s place: a wire next to a wire', async () => {
  // Two dark wires, 12 px apart: nearer than Across looks out.
  const lines = (x: number) => Math.abs(x - 60) < 3 || Math.abs(x - 72) < 3
  const source = sourceOfSamples(() => {
    const samples = createSamples(160, 120, 3, 8)
    samples.data.forEach((_, i) => (samples.data[i] = lines((Math.floor(i / 3) % 160) + 0.5) ? 10 : 140))
    return samples
  })
  const wire = (id: string, x: number) =>
    sampleMend({ id, areas: [samplePath({ keys: [{ frame: 1001, points: [{ x, y: -5, widthPx: 6 }, { x, y: 125, widthPx: 6 }] }] })], fill: fillOf('across', { reachPx: 16 }), finish: { ...DEFAULT_FINISH, grain: 0 } }) // prettier-ignore
  const { finished } = await mendSamples(source, [wire('a', 60), wire('b', 72)])
  for (let row = 10; row < 110; row++)
    for (let col = 50; col < 82; col++)
      expect(Math.abs(finished.data[(row * 160 + col) * 3]! - 140)).toBeLessThanOrEqual(1)
})

test('a hole is cut into alpha, a colour or a still shows behind it, and a later mend covers a hole again', async () => {
  const still = createSamples(WIDTH, HEIGHT, 3, 8)
  still.data.fill(77)
  const source = sourceWith({
    readStill: async (name, rect) => (name === 'sky.png' ? cropSamples(still, rect) : null),
  })
  const at = async (params: Record<string, unknown>, more: Mend[] = []) => {
    const { finished, notes } = await mendSamples(
      source,
      [patch('cut', { areas: [thing], fill: fillOf('cut', params) }), ...more],
      1001,
    )
    const from = (THING.y * WIDTH + THING.x) * finished.channels
    return {
      pixel: [...finished.data.slice(from, from + finished.channels)],
      corner: finished.data[finished.channels - 1],
      notes,
    }
  }
  const hole = await at({ behind: 'nothing' })
  expect(hole.pixel[3]).toBe(0)
  expect(hole.corner).toBe(255)
  expect((await at({ behind: 'colour', colour: '#203040' })).pixel).toEqual([0x20, 0x30, 0x40])
  expect((await at({ behind: 'still', still: 'sky.png' })).pixel).toEqual([77, 77, 77])
  expect((await at({ behind: 'still', still: 'none.png' })).notes).toMatchObject([{ reason: 'no-source' }])
  expect(
    (await at({ behind: 'nothing' }, [patch('membrane', { id: 'cover', areas: [thing] })])).pixel[3],
  ).toBe(255)
})

test('strength and ramps mix with the plate; a handover never shows the plate', async () => {
  const source = sourceOfSamples((frame) => paint(frame, true, false))
  const record = sampleRecord({ ...patch('clone', { areas: [thing] }), stackIndex: 1 })
  const middle = async (mends: readonly Mend[], frame: number) => {
    const { finished } = await mendSamples(source, mends, frame)
    const part = cropSamples(finished, { col: 116, row: 76, width: 8, height: 8 })
    return meanOf(part)
  }
  const [bare, whole] = [await middle([], 1003), await middle([record], 1003)]
  const half = await middle([{ ...record, finish: finish({ strength: 0.5 }) }], 1003)
  expect(half).toBeCloseTo((bare + whole) / 2, 0)
  const edit = handOver(new Map([[record.id, record]]), record, 'second', 1004, 4)!
  const [first, second] = edit.changes.map(({ after }) => after!)
  expect(first!.span).toMatchObject({ firstFrame: 1001, lastFrame: 1007 })
  expect(second!.span).toMatchObject({ firstFrame: 1004, lastFrame: 1010, rampInFrames: 4 })
  const other = { ...second!, fill: fillOf('membrane') }
  for (let frame = 1003; frame <= 1009; frame++) {
    // The thing itself is nearly black: any of it showing through would darken the middle.
    expect(Math.abs((await middle([first!, other], frame)) - whole)).toBeLessThan(14)
  }
  expect(handOver(new Map([[record.id, record]]), record, 'x', 1001, 4)).toBeNull()
  expect(
    handOver(new Map([[record.id, record]]), record, 'x', 1010, 4)!.changes[0]!.after!.span.lastFrame,
  ).toBe(1009)
})

test('grain carried over from beside keeps fine texture; grain that is made does not', async () => {
  const rough = (frame: number): Samples => {
    const samples = paint(frame, true, false)
    const data = samples.data.map((value, i) => {
      const [x, y] = [(Math.floor(i / 3) % WIDTH) + 0.5, Math.floor(i / 3 / WIDTH) + 0.5]
      return value + (isThing(x, y) ? 0 : ((Math.floor(i / 3) * 7919) % 11) * 4)
    })
    return { ...samples, data }
  }
  const source = sourceOfSamples(rough)
  const spread = async (grainFrom: Finish['grainFrom']) => {
    const { finished } = await mendSamples(
      source,
      [patch('median', { areas: [thing], finish: finish({ grainFrom }) })],
      1004,
    )
    const part = cropSamples(finished, { col: 112, row: 74, width: 16, height: 12 })
    const green = [...part.data].filter((_, i) => i % 3 === 1)
    const mean = meanOf(part, 1)
    return Math.sqrt(green.reduce((sum, value) => sum + (value - mean) ** 2, 0) / green.length)
  }
  expect(await spread('carried')).toBeGreaterThan(1.5 * (await spread('made')))
})
