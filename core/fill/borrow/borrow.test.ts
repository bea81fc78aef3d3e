import { documentOf } from '../../../tests/fixtures/sampleDocument'
import { evaluateFrame } from '../../evaluate/evaluateFrame'
import { frameKey } from '../../plan/keys'
import { planFrame } from '../../plan/planFrame'
import { layPatches } from '../../evaluate/finished'
import { fillOf, sampleEllipse, sampleMend } from '../../../tests/fixtures/sampleMend'
import { sceneSource, wavesAt } from '../../../tests/fixtures/sampleScene'
import { worstDifference } from '../../../tests/fixtures/sampleSource'
import type { Mend } from '../../document/mend'
import { sceneSchema } from '../../scene/scene'
import { borrowedFrame } from './borrow'

const SIZE = { width: 200, height: 120 }
const RANGE = { firstFrame: 1001, lastFrame: 1020 }
const whole = { col: 0, row: 0, ...SIZE }
/** The camera goes 2.5 px a frame; a dark thing rests in the picture except on the first six frames; a lamp flickers. */
const cameraAt = (frame: number) => 2.5 * (frame - 1001)
const lampAt = (frame: number) => 1 + 0.1 * Math.sin(frame)
const hides = (x: number, y: number) => Math.hypot((x - 100) / 12, (y - 60) / 16) < 1
const plate = (isBare: boolean, isFlickering = true) =>
  sceneSource(SIZE, (frame) => ({
    background: (x, y, c) => (isFlickering ? lampAt(frame) : 1) * wavesAt(x + cameraAt(frame), y, c, 3),
    isHidden: (x, y) => !isBare && frame > 1006 && hides(x, y),
  }))
const [source, bare] = [plate(false), plate(true)]

const scene = sceneSchema.parse({
  format: 'fillagrant-scene',
  version: 1,
  plate: { ...SIZE, firstFrame: 1001, frameCount: 20 },
  layers: [
    {
      motions: Array.from({ length: 20 }, (_, i) => [1, 0, -2.5 * i, 0, 1, 0, 0, 0, 1]),
      sure: new Array(20).fill(1),
      points: 50,
      hiddenBy: [],
    },
  ],
  exposureStops: new Array(20).fill(0),
  cells: null,
})

const mendOf = (params: Record<string, unknown>): Mend =>
  sampleMend({
    kind: 'object',
    areas: [
      sampleEllipse({ keys: [{ frame: 1001, x: 100, y: 60, radiusXPx: 14, radiusYPx: 18, turnDeg: 0 }] }),
    ],
    fill: { ...fillOf('borrow'), params: { ...fillOf('borrow').params, ...params } },
    finish: { ...sampleMend().finish, featherOutPx: 1, growPx: 0, grain: 0 },
    span: { firstFrame: 1007, lastFrame: 1020, rampInFrames: 0, rampOutFrames: 0 },
  })

async function mended(params: Record<string, unknown>, frame = 1009, from = source, truth = bare) {
  const done = await evaluateFrame(
    planFrame(documentOf([mendOf(params)], new Map(), RANGE, scene), frame),
    from,
    {
      shouldStop: () => false,
      showsSeen: true,
    },
  )
  const samples = await from.readRect(frame, whole)
  return {
    ...done,
    finished: layPatches(samples, done.patches, 3),
    truth: await truth.readRect(frame, whole),
  }
}
const away = (value: number) => [{ frame: 0, value }]

test('the frame away is the one asked for; at the ends of the plate as far the other way', () => {
  expect([1010, 1003, 1020].map((frame) => borrowedFrame(-5, frame, RANGE))).toEqual([1005, 1008, 1015])
  expect(borrowedFrame(4, 1018, RANGE)).toBe(1014)
  expect(borrowedFrame(0, 1010, RANGE)).toBeNull()
  expect(borrowedFrame(30, 1010, RANGE)).toBeNull()
})

test('compensated, it shows what is behind in the light of this frame, all of it from that frame', async () => {
  const { finished, truth, seenMaps, measures } = await mended({ away: away(-5) })
  expect(worstDifference(finished, truth)).toBeLessThanOrEqual(3)
  expect(measures[0]!.gathered).toMatchObject({ seenShare: 1, frames: 1 })
  expect(new Set(seenMaps[0]!.from)).toEqual(new Set([-1, 1004]))
})

test('left in its own light it differs by the lamp', async () => {
  const { finished, truth } = await mended({ away: away(-5), light: 'own' })
  const at = (60 * SIZE.width + 100) * 3
  expect(finished.data[at]! / truth.data[at]!).toBeCloseTo(lampAt(1004) / lampAt(1009), 1)
})

test('not compensated and in its own light it is that frame to the bit, inside the area', async () => {
  const { finished } = await mended({ away: away(-5), compensate: 'off', light: 'own' })
  const other = await source.readRect(1004, whole)
  let different = 0
  for (let y = 50; y < 70; y++)
    for (let x = 92; x < 108; x++)
      different += finished.data[(y * 200 + x) * 3] === other.data[(y * 200 + x) * 3] ? 0 : 1
  expect(different).toBe(0)
})

test('what the thing hides there too is never taken when compensated: it is filled from nearby, and said', async () => {
  const { finished, measures } = await mended({ away: away(2), unseen: 'membrane' })
  expect(measures[0]!.gathered!.seenShare).toBeLessThan(0.6)
  expect(finished.data[(60 * SIZE.width + 100) * 3]).toBeGreaterThan(50)
})

test('keys of the distance hold until the next; other frames do not notice a key that is changed', async () => {
  const keys = [
    { frame: 1007, value: -5 },
    { frame: 1012, value: -8 },
  ]
  const asked = (frame: number, all = keys) =>
    planFrame(documentOf([mendOf({ away: all })], new Map(), RANGE, scene), frame)
  const framesOf = (frame: number) =>
    asked(frame).placements[0]!.requests.flatMap((one) => (one.purpose === 'gather' ? [one.frame] : []))
  expect([1009, 1011, 1012, 1014].map((frame) => framesOf(frame)[0])).toEqual([1004, 1006, 1004, 1006])
  const changed = [keys[0]!, { frame: 1012, value: -7 }]
  expect(frameKey(asked(1010, changed))).toBe(frameKey(asked(1010)))
  expect(frameKey(asked(1013, changed))).not.toBe(frameKey(asked(1013)))
})

test('where there is no such frame, nothing is changed and the reason is said', async () => {
  const { finished, notes } = await mended({ away: away(30) })
  expect(notes).toMatchObject([
    { reason: 'no-source', detail: expect.stringContaining('no frame so far away') },
  ])
  expect(finished.data).toEqual((await source.readRect(1009, whole)).data)
})
