import { documentOf } from '../../../tests/fixtures/sampleDocument'
import { fillOf, sampleEllipse, sampleMend } from '../../../tests/fixtures/sampleMend'
import { sceneSource, wavesAt } from '../../../tests/fixtures/sampleScene'
import { createRandom } from '../../../tests/random'
import { srgb } from '../../colour/transfer'
import type { Mend } from '../../document/mend'
import { evaluateFrame } from '../../evaluate/evaluateFrame'
import { layPatches } from '../../evaluate/finished'
import { planFrame } from '../../plan/planFrame'
import { sceneSchema } from '../../scene/scene'

const SIZE = { width: 240, height: 150 }
const FRAMES = 25
const RANGE = { firstFrame: 1001, lastFrame: 1000 + FRAMES }
const ON = 1013
const MISSING = [0.6, 0.52, 0.42] as const
const random = createRandom(8)
const noise = Float32Array.from(
  { length: 1 << 16 },
  () => 1.2 * (random() + random() + random() + random() - 2),
)

/** A round soft shadow that goes over resting ground, or rests on it. */
const middleX = (frame: number, pxAFrame: number) => 120 + pxAFrame * (frame - ON)
function strengthAt(x: number, y: number, frame: number, pxAFrame: number): number {
  const t = Math.min(1, Math.max(0, (40 - Math.hypot(x - middleX(frame, pxAFrame), y - 75)) / 14))
  return t * t * (3 - 2 * t)
}

/** Specks of 2 px that shine by themselves, every so many px. */
const isSpeck = (x: number, y: number, every: number) => every > 0 && x % every < 2 && y % every < 2

const clip = (pxAFrame: number, depth = 1, specksEvery = 0) =>
  sceneSource(
    SIZE,
    (frame) => ({
      background: (x, y, c) => {
        if (isSpeck(x, y, specksEvery)) return 0.85
        const lit = 0.2 + 0.55 * wavesAt(x, y, c, 3)
        const share = 1 - depth * MISSING[c]! * strengthAt(x, y, frame, pxAFrame)
        return share === 1 ? lit : srgb.encode(srgb.decode(lit) * share)
      },
      isHidden: () => false,
    }),
    (frame, i) => noise[(i * 5 + frame * 7919) & 0xffff]!,
  )

const scene = sceneSchema.parse({
  format: 'fillagrant-scene',
  version: 1,
  plate: { ...SIZE, firstFrame: 1001, frameCount: FRAMES },
  layers: [
    {
      motions: Array.from({ length: FRAMES }, () => [1, 0, 0, 0, 1, 0, 0, 0, 1]),
      sure: new Array(FRAMES).fill(1),
      points: 50,
      hiddenBy: [],
    },
  ],
  exposureStops: new Array(FRAMES).fill(0),
  cells: null,
})

const shadow = (pxAFrame: number, params: Record<string, unknown> = {}): Mend =>
  sampleMend({
    kind: 'shadow',
    areas: [
      sampleEllipse({
        interpolation: 'linear',
        keys: [1001, 1025].map((frame) => ({
          frame,
          x: middleX(frame, pxAFrame),
          y: 75,
          radiusXPx: 46,
          radiusYPx: 46,
          turnDeg: 0,
        })),
      }),
    ],
    fill: { ...fillOf('lift-shadow'), params: { ...fillOf('lift-shadow').params, ...params } },
    span: { ...RANGE, rampInFrames: 0, rampOutFrames: 0 },
  })

async function lifted(pxAFrame: number, params: Record<string, unknown> = {}, depth = 1, specksEvery = 0) {
  const whole = { col: 0, row: 0, ...SIZE }
  const [source, clean] = [clip(pxAFrame, depth, specksEvery), clip(pxAFrame, 0, specksEvery)]
  const { patches, notes, measures } = await evaluateFrame(
    planFrame(documentOf([shadow(pxAFrame, params)], new Map(), RANGE, scene), ON),
    source,
    { shouldStop: () => false },
  )
  expect(notes).toEqual([])
  const [plate, truth] = [await source.readRect(ON, whole), await clean.readRect(ON, whole)]
  const finished = layPatches(plate, patches, 3)
  const sums = [0, 0, 0]
  let [squares, count, core, outside] = [0, 0, 0, 0]
  for (let i = 0; i < finished.data.length; i++) {
    const [x, y] = [(Math.floor(i / 3) % SIZE.width) + 0.5, Math.floor(i / 3 / SIZE.width) + 0.5]
    if (Math.hypot(x - 120, y - 75) > 52 && finished.data[i] !== plate.data[i]) outside++
    const strength = strengthAt(x, y, ON, 0)
    if (strength === 0) continue
    squares += (finished.data[i]! - truth.data[i]!) ** 2
    count++
    if (strength < 1) continue
    sums[i % 3]! += finished.data[i]!
    core += 1 / 3
  }
  expect(outside).toBe(0)
  const { gathered, shade } = measures[0]!
  return {
    db: 10 * Math.log10((255 * 255 * count) / squares),
    means: sums.map((sum) => sum / core),
    finished,
    plate,
    gathered,
    shade,
  }
}

test('a shadow that goes over the ground is lifted by frames that show it lit; its depth is said in stops', async () => {
  const { db, shade, gathered } = await lifted(4)
  expect(db).toBeGreaterThan(41)
  expect(shade!.by).toBe('frames')
  shade!.depthStops.forEach((stops, c) => expect(stops).toBeCloseTo(-Math.log2(1 - MISSING[c]!), 0))
  expect(gathered!.seenShare).toBeGreaterThan(0.95)
})

test('what shines by itself in a shadow is not lifted: there the ground is shown as other frames have it', async () => {
  const { db, shade } = await lifted(4, {}, 1, 14)
  expect(shade!.glintShare).toBeGreaterThan(0.003)
  expect(shade!.glintShare).toBeLessThan(0.06)
  expect(db).toBeGreaterThan(38)
  expect((await lifted(4)).shade!.glintShare).toBe(0)
})

test('a shadow that rests on the ground is lifted by its own edge, and nothing is said to be made up', async () => {
  const { db, shade, gathered } = await lifted(0)
  expect(db).toBeGreaterThan(28)
  expect([shade!.by, gathered]).toEqual(['edge', null])
})

test('a shadow that rests is measured once: on all frames it is as deep, to the last digit', async () => {
  const source = clip(0)
  const document = documentOf([shadow(0)], new Map(), RANGE, scene)
  const depths = []
  for (const frame of [1003, 1022]) {
    const { measures } = await evaluateFrame(planFrame(document, frame), source, { shouldStop: () => false })
    depths.push(measures[0]!.shade!.depthStops)
  }
  expect(depths[0]).toEqual(depths[1])
})

test('what has no shadow stays as it is, to the bit', async () => {
  for (const pxAFrame of [4, 0]) {
    const { finished, plate, shade } = await lifted(pxAFrame, {}, 0)
    expect(shade).toMatchObject({ by: 'nothing', depthStops: [0, 0, 0], offStops: null })
    expect(finished.data).toEqual(plate.data)
  }
})

test('depth and colour are trimmed on top', async () => {
  const [whole, half, none, red] = [
    await lifted(4),
    await lifted(4, { depth: 0.5 }),
    await lifted(4, { depth: 0 }),
    await lifted(4, { red: 0.3 }),
  ]
  const green = ({ means }: { readonly means: readonly number[] }) => means[1]!
  expect(green(none)).toBeLessThan(green(half) - 5)
  expect(green(half)).toBeLessThan(green(whole) - 5)
  expect(red.means[0]! - whole.means[0]!).toBeGreaterThan(5)
  expect(Math.abs(green(red) - green(whole))).toBeLessThan(0.5)
})

test('grain and detail of the lifted ground are as strong as in the light', async () => {
  const { finished } = await lifted(4)
  const clean = clip(4, 0)
  const truth = await clean.readRect(ON, { col: 0, row: 0, ...SIZE })
  let [own, wanted] = [0, 0]
  const steps = (data: ArrayLike<number>, i: number) => data[i]! - 0.5 * (data[i - 3]! + data[i + 3]!)
  for (let i = 3; i < truth.data.length - 3; i++) {
    const [x, y] = [(Math.floor(i / 3) % SIZE.width) + 0.5, Math.floor(i / 3 / SIZE.width) + 0.5]
    if (strengthAt(x, y, ON, 0) < 1) continue
    own += steps(finished.data, i) ** 2
    wanted += steps(truth.data, i) ** 2
  }
  const ratio = Math.sqrt(own / wanted)
  expect(Math.abs(ratio - 1)).toBeLessThan(0.1)
})
