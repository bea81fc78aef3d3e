import { ALL_FRAMES, documentOf } from '../../tests/fixtures/sampleDocument'
import fc from 'fast-check'
import { grainAt } from '../finish/grain'
import { createSamples, pasteSamplesInto, type BitDepth, type Samples } from '../image/samples'
import type { Rect } from '../image/rect'
import { evaluateFrame } from './evaluateFrame'
import type { Clip } from '../shot/clip'
import { isActiveAt } from '../plan/placedArea'
import { planFrame } from '../plan/planFrame'
import { mendSamples, NEVER_STOPS as context, sourceOfSamples } from '../../tests/fixtures/sampleSource'
import { LINE_SHOWS_FROM } from '../measure/lineResidue'
import { drawnArea } from '../document/areaCommands'
import { outlineThrough } from '../document/keys'
import { fillOf, sampleEllipse, sampleMend, samplePath } from '../../tests/fixtures/sampleMend'
import { DEFAULT_FINISH, type Mend } from '../document/mend'

const NO_TRACKS = new Map<string, never>()

function plateOf(
  width: number,
  height: number,
  channels: number,
  bitDepth: BitDepth,
  value: (x: number, y: number, c: number) => number,
): Samples {
  const samples = createSamples(width, height, channels, bitDepth)
  const maximum = bitDepth === 8 ? 255 : 65535
  for (let i = 0; i < samples.data.length; i++) {
    const pixel = Math.floor(i / channels)
    const shade = value((pixel % width) + 0.5, Math.floor(pixel / width) + 0.5, i % channels)
    samples.data[i] = Math.min(maximum, Math.max(0, Math.round(shade * maximum)))
  }
  return samples
}

const sourceOf = (samples: Samples, reads: Rect[] = []) => sourceOfSamples(samples, {}, reads)
const mended = async (samples: Samples, mends: Mend[], frame = 1001) =>
  (await mendSamples(sourceOfSamples(samples), mends, frame)).finished

type Over = Parameters<typeof sampleMend>[0]
const wire = (x0: number, y0: number, x1: number, y1: number, over: Over = {}): Mend =>
  sampleMend({
    areas: [
      samplePath({
        keys: [
          {
            frame: 1001,
            points: [
              { x: x0, y: y0, widthPx: 6 },
              { x: x1, y: y1, widthPx: 6 },
            ],
          },
        ],
      }),
    ],
    ...over,
  })

const noGrain = { ...DEFAULT_FINISH, grain: 0 }

test.each([
  [3, 8],
  [4, 8],
  [3, 16],
  [4, 16],
] as const)(
  'outside the mend every sample keeps every bit (%i channels, %i bit)',
  async (channels, bitDepth) => {
    const plate = plateOf(
      100,
      70,
      channels,
      bitDepth,
      (x, y, c) => ((x * 7919 + y * 104729 + c * 31) % 997) / 997,
    )
    const before = plate.data.slice()
    const mend = wire(40, -5, 60, 70)
    const result = await mended(plate, [mend])
    expect(plate.data).toEqual(before)
    let [inside, changedOutside] = [0, 0]
    for (let i = 0; i < plate.data.length; i++) {
      const pixel = Math.floor(i / channels)
      const [x, y] = [(pixel % 100) + 0.5, Math.floor(pixel / 100) + 0.5]
      const distance = Math.abs((x - 40) * 75 - (y + 5) * 20) / Math.hypot(75, 20)
      if (distance > 3 + 0.5 + 1.5 + 0.01) changedOutside += result.data[i] === plate.data[i] ? 0 : 1
      else if (distance < 3 && result.data[i] !== plate.data[i]) inside++
    }
    expect(changedOutside).toBe(0)
    expect(inside).toBeGreaterThan(500)
  },
)

test('a constant picture stays constant, whatever is drawn on it', async () => {
  const plate = plateOf(64, 48, 3, 8, () => 0.4)
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.double({ min: -40, max: 100, noNaN: true }), { minLength: 4, maxLength: 4 }),
      async ([x0, y0, x1, y1]) => {
        expect((await mended(plate, [wire(x0!, y0!, x1!, y1!)])).data).toEqual(plate.data)
      },
    ),
    { seed: 4, numRuns: 60 },
  )
})

test('a dark thread over a ramp is gone', async () => {
  const ramp = (x: number, y: number) => 0.2 + x / 300 + y / 400
  const plate = plateOf(100, 70, 3, 16, (x, y) => (Math.abs(x - 50) < 3 ? 0.02 : ramp(x, y)))
  const result = await mended(plate, [wire(50, -5, 50, 75, { finish: noGrain })])
  for (let row = 2; row < 68; row++)
    for (let col = 40; col < 60; col++)
      expect(result.data[(row * 100 + col) * 3]! / 65535).toBeCloseTo(ramp(col + 0.5, row + 0.5), 2)
})

test.each([
  ['square', 0],
  ['level', 0],
  ['upright', 90],
  ['own', 20],
])('direction %s continues stripes that run along it', async (direction, stripeDeg) => {
  const [c, s] = [Math.cos((stripeDeg * Math.PI) / 180), Math.sin((stripeDeg * Math.PI) / 180)]
  const stripe = (x: number, y: number) => 0.5 + 0.3 * Math.sin((y * c - x * s) / 2)
  const isUpright = direction === 'upright'
  const [ends, onWire] = isUpright
    ? ([[-5, 35, 105, 35], (_x: number, y: number) => Math.abs(y - 35) < 3] as const)
    : ([[50, -5, 50, 75], (x: number) => Math.abs(x - 50) < 3] as const)
  const plate = plateOf(100, 70, 1, 16, (x, y) => (onWire(x, y) ? 0 : stripe(x, y)))
  const params = { ...sampleMend().fill.params, direction, angleDeg: 20, lean: 'own', echo: 0 }
  const [x0, y0, x1, y1] = ends
  const mend = wire(x0, y0, x1, y1, {
    finish: noGrain,
    fill: { methodId: 'across', methodVersion: 2, params },
  })
  const result = await mended(plate, [mend])
  for (let row = 12; row < 58; row++)
    for (let col = 12; col < 88; col++) {
      // A strip is read between its columns, linearly: stripes 12.6 px long lose up to 2.5 %.
      expect(Math.abs(result.data[row * 100 + col]! / 65535 - stripe(col + 0.5, row + 0.5))).toBeLessThan(
        0.02,
      )
    }
})

test('auto lean joins edges that cross at an angle; a fixed square direction does not', async () => {
  const stripe = (x: number, y: number) => 0.5 + 0.3 * Math.sin((y - 0.45 * (x - 50)) / 3)
  const plate = plateOf(100, 140, 1, 16, (x, y) => (Math.abs(x - 50) < 3 ? 0 : stripe(x, y)))
  const error = async (lean: string) => {
    const params = { ...sampleMend().fill.params, lean, echo: 0 }
    const result = await mended(plate, [
      wire(50, -5, 50, 145, { finish: noGrain, fill: { methodId: 'across', methodVersion: 2, params } }),
    ])
    let sum = 0
    for (let row = 20; row < 120; row++)
      for (let col = 47; col < 53; col++)
        sum += (result.data[row * 100 + col]! / 65535 - stripe(col + 0.5, row + 0.5)) ** 2
    return Math.sqrt(sum / 600)
  }
  expect(await error('auto')).toBeLessThan((await error('own')) / 3)
})

test('where one side lies outside the picture the other side is used', async () => {
  const plate = plateOf(60, 40, 1, 8, (x) => (x < 6 ? 0 : 0.6))
  const result = await mended(plate, [wire(2, -5, 2, 45, { finish: noGrain })])
  expect(result.data[20 * 60 + 2]).toBe(153)
})

test('grain returns at the level of the surroundings', async () => {
  const LEVEL = 0.02
  const plate = plateOf(
    200,
    200,
    1,
    16,
    (x, y) => 0.4 + LEVEL * grainAt(77, 1, Math.floor(x), Math.floor(y), 0),
  )
  const deviation = (samples: Samples) => {
    let [n, sum, squares] = [0, 0, 0]
    for (let row = 10; row < 190; row++)
      for (let col = 98; col < 102; col++) {
        const value = samples.data[row * 200 + col]! / 65535
        n++
        sum += value
        squares += value * value
      }
    return Math.sqrt(squares / n - (sum / n) ** 2)
  }
  const withGrain = deviation(await mended(plate, [wire(100, -5, 100, 205)]))
  const without = deviation(await mended(plate, [wire(100, -5, 100, 205, { finish: noGrain })]))
  expect(Math.abs(withGrain / LEVEL - 1)).toBeLessThan(0.12)
  expect(without / LEVEL).toBeLessThan(0.75)
})

test('frames get their own grain, the same frame always the same', async () => {
  const plate = plateOf(
    80,
    60,
    3,
    8,
    (x, y, c) => 0.5 + 0.03 * grainAt(3, 1, Math.floor(x), Math.floor(y), c),
  )
  const mend = wire(40, -5, 40, 65)
  const first = await mended(plate, [mend], 1001)
  expect((await mended(plate, [mend], 1001)).data).toEqual(first.data)
  expect((await mended(plate, [mend], 1002)).data).not.toEqual(first.data)
})

test('only the rectangles around the mends are read, and mends apart are worked on apart', async () => {
  const plate = plateOf(400, 300, 3, 8, (x) => x / 400)
  const reads: Rect[] = []
  const mends = [wire(40, 20, 60, 60, { id: 'a' }), wire(300, 200, 330, 240, { id: 'b' })]
  const { patches } = await evaluateFrame(
    planFrame(documentOf(mends, NO_TRACKS, ALL_FRAMES), 1001),
    sourceOf(plate, reads),
    context,
  )
  expect(patches).toHaveLength(2)
  // Other frames' rectangles are rounded up to a grid.
  for (const rect of reads) expect(rect.width * rect.height).toBeLessThanOrEqual(128 * 128)
})

test('mends that overlap are applied in order, each to the result of the one before', async () => {
  const plate = plateOf(100, 80, 3, 8, (x, y) => (Math.abs(x - 50) < 3 || Math.abs(y - 40) < 3 ? 0 : 0.6))
  const both = [
    wire(50, -5, 50, 85, { id: 'a', finish: noGrain }),
    wire(-5, 40, 105, 40, { id: 'b', finish: noGrain }),
  ]
  const together = await mended(plate, both)
  for (let i = 0; i < together.data.length; i++)
    expect(Math.abs(together.data[i]! - 153)).toBeLessThanOrEqual(1)
})

test('cropping to the rectangles changes nothing: a larger picture around gives the same bytes', async () => {
  const shade = (x: number, y: number, c: number) => 0.5 + 0.4 * Math.sin(x / 5 + c) * Math.cos(y / 7)
  const mend = wire(300, 200, 350, 290)
  const small = await evaluateFrame(
    planFrame(documentOf([mend], NO_TRACKS, ALL_FRAMES), 1001),
    sourceOf(plateOf(640, 480, 3, 8, shade)),
    context,
  )
  const large = await evaluateFrame(
    planFrame(documentOf([mend], NO_TRACKS, ALL_FRAMES), 1001),
    sourceOf(plateOf(1000, 900, 3, 8, shade)),
    context,
  )
  expect(large).toEqual(small)
})

test('a mend is on only inside its span, and what cannot be done is said', async () => {
  const plate = plateOf(60, 40, 3, 8, () => 0.5)
  const mend = wire(30, 5, 30, 35, { span: { firstFrame: 1005, lastFrame: 1010 } })
  expect([1004, 1005, 1010, 1011].map((frame) => isActiveAt(mend, frame))).toEqual([false, true, true, false])
  expect(isActiveAt({ ...mend, isOn: false }, 1005)).toBe(false)
  const outside = await evaluateFrame(
    planFrame(documentOf([wire(500, 500, 600, 600)], NO_TRACKS, ALL_FRAMES), 1001),
    sourceOf(plate),
    context,
  )
  expect(outside).toMatchObject({ patches: [], notes: [{ reason: 'outside-picture' }] })
  const stopped = await evaluateFrame(
    planFrame(documentOf([wire(30, 5, 30, 35)], NO_TRACKS, ALL_FRAMES), 1001),
    sourceOf(plate),
    { shouldStop: () => true },
  )
  expect(stopped.patches).toEqual([])
})

const plain = (over: Over) =>
  sampleMend({ kind: 'dust', fill: fillOf('membrane'), finish: { ...noGrain, featherOutPx: 0 }, ...over })
const spot = (x: number, y: number) => Math.hypot(x - 50, y - 40) < 6

test.each([
  ['ellipse', { areas: [sampleEllipse()] }],
  [
    'outline',
    {
      areas: [
        drawnArea(
          'o',
          {
            shape: 'outline',
            points: outlineThrough(
              [
                { x: 38, y: 28 },
                { x: 62, y: 28 },
                { x: 62, y: 52 },
                { x: 38, y: 52 },
              ],
              'smooth',
            ),
          },
          1001,
        ),
      ],
    },
  ],
  [
    'box',
    {
      areas: [
        drawnArea(
          'b',
          { shape: 'box', x: 50, y: 40, widthPx: 22, heightPx: 22, turnDeg: 20, cornerPx: 3 },
          1001,
        ),
      ],
    },
  ],
] as const)('an %s takes a spot out of a plain wall and nothing else', async (_shape, over) => {
  const plate = plateOf(100, 80, 3, 8, (x, y) => (spot(x, y) ? 0.1 : 0.6))
  const result = await mended(plate, [plain({ areas: [...over.areas] })])
  const clean = plateOf(100, 80, 3, 8, () => 0.6)
  expect(result.data).toEqual(clean.data)
})

test('many areas in one mend, and a holdout that is left alone to the bit', async () => {
  // Grain-like specks, so that a pixel that was filled would differ.
  const speck = (x: number, y: number) => (x > 56 && (Math.floor(x) + Math.floor(y)) % 2 === 0 ? 0.004 : 0)
  const plate = plateOf(100, 80, 3, 8, (x, y) =>
    spot(x, y) || Math.hypot(x - 20, y - 60) < 5 ? 0.1 : 0.6 + speck(x, y),
  )
  const second = sampleEllipse({
    id: 'e2',
    keys: [{ frame: 1001, x: 20, y: 60, radiusXPx: 9, radiusYPx: 9, turnDeg: 0 }],
  })
  const holdout = sampleEllipse({
    id: 'h',
    role: 'holdout',
    keys: [{ frame: 1001, x: 60, y: 40, radiusXPx: 3, radiusYPx: 20, turnDeg: 0 }],
  })
  const result = await mended(plate, [plain({ areas: [sampleEllipse(), second, holdout] })])
  const at = (samples: Samples, x: number, y: number) => samples.data[(y * 100 + x) * 3]
  expect([at(result, 20, 60), at(result, 46, 40)]).toEqual([153, 153])
  for (let y = 30; y < 50; y++) for (let x = 58; x < 62; x++) expect(at(result, x, y)).toBe(at(plate, x, y))
})

test('a matte made elsewhere is an area; its frames that are missing change nothing', async () => {
  const plate = plateOf(100, 80, 3, 8, (x, y) => (spot(x, y) ? 0.1 : 0.6))
  const coverage = new Float32Array(20 * 20).fill(1)
  const source: Clip = {
    ...sourceOf(plate),
    readMatte: async (pattern, frame) =>
      pattern === 'spot.####.png' && frame === 1001
        ? { rect: { col: 40, row: 30, width: 20, height: 20 }, coverage }
        : null,
  }
  const matte = {
    shape: 'matte' as const,
    id: 'm',
    role: 'cover' as const,
    interpolation: 'smooth' as const,
    follow: null,
    pattern: 'spot.####.png',
    keys: [] as never[],
  }
  const mend = plain({ areas: [matte] })
  const { patches } = await evaluateFrame(
    planFrame(documentOf([mend], NO_TRACKS, ALL_FRAMES), 1001),
    source,
    context,
  )
  const out = { ...plate, data: plate.data.slice() }
  for (const { rect, samples } of patches) pasteSamplesInto(out, samples, rect)
  expect(out.data).toEqual(plateOf(100, 80, 3, 8, () => 0.6).data)
  expect(
    (await evaluateFrame(planFrame(documentOf([mend], NO_TRACKS, ALL_FRAMES), 1002), source, context))
      .patches,
  ).toEqual([])
})

test('a narrowed area keeps its middle, and a fill that needs a path says so', async () => {
  const plate = plateOf(100, 80, 3, 8, (x, y) => (spot(x, y) ? 0.1 : 0.6))
  const narrow = await mended(plate, [
    plain({
      areas: [
        sampleEllipse({ keys: [{ frame: 1001, x: 50, y: 40, radiusXPx: 24, radiusYPx: 24, turnDeg: 0 }] }),
      ],
      finish: { ...noGrain, featherOutPx: 0, growPx: -14 },
    }),
  ])
  expect(narrow.data).toEqual(plateOf(100, 80, 3, 8, () => 0.6).data)
  const across = sampleMend({ areas: [sampleEllipse()] })
  expect(
    (
      await evaluateFrame(
        planFrame(documentOf([across], NO_TRACKS, ALL_FRAMES), 1001),
        sourceOf(plate),
        context,
      )
    ).notes,
  ).toMatchObject([{ reason: 'needs-path' }])
})

test('a line that was missed is measured, one that was taken out is not', async () => {
  const plate = plateOf(160, 200, 3, 8, (x, y) =>
    Math.abs(x - 80) < 3 ? 0.1 : 0.55 + 0.05 * Math.sin(x / 5) * Math.cos(y / 7),
  )
  const ratioOf = async (x: number) =>
    (
      await evaluateFrame(
        planFrame(documentOf([wire(x, -5, x, 205, { finish: noGrain })], NO_TRACKS, ALL_FRAMES), 1001),
        sourceOf(plate),
        context,
      )
    ).measures[0]!.line!.ratio
  expect(await ratioOf(80)).toBeLessThan(LINE_SHOWS_FROM)
  expect(await ratioOf(84.5)).toBeGreaterThan(LINE_SHOWS_FROM)
})
