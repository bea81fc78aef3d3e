import { documentOf } from '../../../tests/fixtures/sampleDocument'
import { createRandom } from '../../../tests/random'
import { evaluateFrame } from '../../evaluate/evaluateFrame'
import { gainsNothing, worthALook } from '../../snags/gains'
import { planFrame } from '../../plan/planFrame'
import { fillOf, sampleEllipse, sampleMend, samplePath } from '../../../tests/fixtures/sampleMend'
import { layPatches } from '../../evaluate/finished'
import type { Mend } from '../../document/mend'
import { snagsOfMeasures } from '../../snags/snags'
import { sceneSource, wavesAt, type SceneFrame } from '../../../tests/fixtures/sampleScene'
import { worstDifference } from '../../../tests/fixtures/sampleSource'
import { sceneSchema, type Scene } from '../../scene/scene'
import { IDENTITY } from '../../geometry/transform'

const SIZE = { width: 220, height: 150 }
const RANGE = { firstFrame: 1001, lastFrame: 1021 }
const context = { shouldStop: () => false }
const middleAt = (frame: number) => 60 + 5 * (frame - 1001)

const frameOf = (frame: number): SceneFrame => ({
  background: (x, y, c) => wavesAt(x, y, c, 4),
  isHidden: (x, y) => ((x - middleAt(frame)) / 14) ** 2 + ((y - 75) / 20) ** 2 < 1,
})

/** An ellipse that goes along, so much larger than the thing. */
const mendOf = (params: Record<string, unknown>, largerPx = 2, keyEvery = 1): Mend =>
  sampleMend({
    kind: 'object',
    areas: [
      sampleEllipse({
        interpolation: 'linear',
        keys: Array.from({ length: 21 }, (_, i) => 1001 + i)
          .filter((frame) => (frame - 1001) % keyEvery === 0)
          .map((frame) => ({
            frame,
            x: middleAt(frame),
            y: 75,
            radiusXPx: 14 + largerPx,
            radiusYPx: 20 + largerPx,
            turnDeg: 0,
          })),
      }),
    ],
    fill: { ...fillOf('clean-plate'), params: { ...fillOf('clean-plate').params, ...params } },
    finish: { ...sampleMend().finish, featherOutPx: 1, growPx: 0, grain: 0 },
    span: { firstFrame: 1001, lastFrame: 1021 },
  })

/** Grain of deviation 1.2, the same every time; both plates are painted once. */
const random = createRandom(5)
const noise = Float32Array.from(
  { length: 1 << 16 },
  () => 1.2 * (random() + random() + random() + random() - 2) * Math.sqrt(3),
)
const grainy = sceneSource(SIZE, frameOf, (frame, i) => noise[(i * 5 + frame * 7919) & 0xffff]!)
const clean = sceneSource(SIZE, frameOf)
const bare = sceneSource(SIZE, (at) => ({ ...frameOf(at), isHidden: () => false }))

async function mended(
  mend: Mend,
  {
    frame = 1011,
    scene = null,
    source = clean,
  }: { frame?: number; scene?: Scene | null; source?: typeof clean } = {},
) {
  const done = await evaluateFrame(planFrame(documentOf([mend], new Map(), RANGE, scene), frame), source, {
    ...context,
    showsSeen: true,
  })
  const whole = { col: 0, row: 0, ...SIZE }
  const plate = await source.readRect(frame, whole)
  const truth = await bare.readRect(frame, whole)
  return { ...done, plate, truth, finished: layPatches(plate, done.patches, 3) }
}

test('shows what was really behind, within rounding, and says that all of it was seen', async () => {
  const { finished, truth, measures, seenMaps } = await mended(mendOf({}))
  expect(worstDifference(finished, truth)).toBeLessThanOrEqual(2)
  expect(measures[0]!.gathered).toMatchObject({ seenShare: 1, ghostShare: 0 })
  expect(seenMaps[0]!.seen.some((frames) => frames > 3)).toBe(true)
  expect(snagsOfMeasures(measures, 1011).map(({ reason }) => reason)).not.toContain('never-seen')
})

test('one frame for each place shows the same', async () => {
  const { finished, truth } = await mended(mendOf({ combine: 'single' }))
  expect(worstDifference(finished, truth)).toBeLessThanOrEqual(2)
})

test.each(['texture', 'membrane', 'near', 'median'])(
  'what no frame shows is filled by %s, and said',
  async (unseen) => {
    // Two frames on either side: the thing still hides its own middle there.
    const { finished, plate, measures, seenMaps } = await mended(
      mendOf({ before: 2, after: 2, every: 1, unseen }),
    )
    const { gathered } = measures[0]!
    expect(gathered!.seenShare).toBeGreaterThan(0.2)
    expect(gathered!.seenShare).toBeLessThan(0.9)
    expect(snagsOfMeasures(measures, 1011).map(({ reason }) => reason)).toContain('never-seen')
    const { rect, seen, from } = seenMaps[0]!
    const at = (75 - rect.row) * rect.width + Math.round(middleAt(1011)) - rect.col
    expect([seen[at], from[at]]).toEqual([0, -1])
    // The thing is nearly black: nothing of it is left in its middle.
    const middle = (75 * SIZE.width + Math.round(middleAt(1011))) * 3
    expect(plate.data[middle]).toBeLessThan(30)
    expect(finished.data[middle]).toBeGreaterThan(60)
  },
)

test('every k-th frame counts from the first of the plate, so that neighbouring frames ask the same ones', () => {
  const asked = (frame: number) =>
    planFrame(documentOf([mendOf({ every: 3 })], new Map(), RANGE), frame).placements[0]!.requests.flatMap(
      (one) => (one.purpose === 'gather' ? [one.frame] : []),
    )
  expect(asked(1010)).toEqual([1001, 1004, 1007, 1013, 1016, 1019])
  expect(asked(1011)).toEqual([1001, 1004, 1007, 1010, 1013, 1016, 1019])
})

test('a tidy outline replaces the thing and leaves what a rough outline covers beside it to the bit', async () => {
  // 24 px too large and keyed every ten frames; the thing goes in a line, so the outline stays right.
  const rough = await mended(mendOf({ tidyPx: 4 }, 24, 10), { source: grainy })
  const plain = await mended(mendOf({}, 24, 10), { source: grainy })
  const touched = ({ finished, plate }: typeof rough) =>
    Array.from(finished.data).filter((value, i) => value !== plate.data[i]).length
  expect(worstDifference(rough.finished, rough.truth)).toBeLessThanOrEqual(8)
  expect(touched(rough)).toBeLessThan(0.7 * touched(plain))
  const ofThing = Math.PI * 14 * 20
  let changedOutside = 0
  for (let i = 0; i < rough.plate.data.length; i += 3) {
    const [x, y] = [((i / 3) % SIZE.width) + 0.5, Math.floor(i / 3 / SIZE.width) + 0.5]
    const isFar = ((x - middleAt(1011)) / 30) ** 2 + ((y - 75) / 36) ** 2 > 1
    if (isFar && [0, 1, 2].some((c) => rough.finished.data[i + c] !== rough.plate.data[i + c]))
      changedOutside++
  }
  expect(changedOutside).toBeLessThan(0.02 * ofThing)
})

test('a thing that is drawn too small is found beyond its outline', async () => {
  const { finished, truth } = await mended(mendOf({ tidyPx: 12 }, -5))
  expect(worstDifference(finished, truth)).toBeLessThanOrEqual(3)
})

test('without any other frame everything is left to the near fill', async () => {
  const { measures, finished } = await mended(mendOf({ before: 0, after: 0, unseen: 'membrane' }))
  expect(measures[0]!.gathered).toMatchObject({ seenShare: 0, frames: 0 })
  expect(finished.data[(75 * SIZE.width + Math.round(middleAt(1011))) * 3]).toBeGreaterThan(60)
})

test('nothing is gained where camera and thing both rest, and only there', () => {
  const scene = sceneSchema.parse({
    format: 'fillagrant-scene',
    version: 1,
    plate: { ...SIZE, firstFrame: 1001, frameCount: 21 },
    layers: [
      {
        motions: Array.from({ length: 21 }, () => [...IDENTITY]),
        sure: new Array(21).fill(1),
        points: 50,
        hiddenBy: [],
      },
    ],
    exposureStops: new Array(21).fill(0),
    cells: null,
  })
  const resting = sampleMend({ areas: [sampleEllipse()], span: { firstFrame: 1001, lastFrame: 1021 } })
  expect(gainsNothing(resting, new Map(), scene)).toBe(true)
  expect(gainsNothing({ ...resting, span: { ...resting.span, firstFrame: 1005 } }, new Map(), scene)).toBe(
    false,
  )
  expect(gainsNothing(mendOf({}), new Map(), scene)).toBe(false)
  const moving = {
    ...scene,
    layers: [
      {
        ...scene.layers[0]!,
        motions: scene.layers[0]!.motions.map((_, i) => [1, 0, i, 0, 1, 0, 0, 0, 1] as never),
      },
    ],
  }
  expect(gainsNothing(resting, new Map(), moving)).toBe(false)
  const snags = (['never-seen', 'ghost'] as const).map((reason) => ({
    mendId: resting.id,
    frame: 1003,
    reason,
    x: 0,
    y: 0,
    words: '',
    weight: 1,
  }))
  expect(worthALook(snags, [resting], new Map(), scene).map(({ reason }) => reason)).toEqual(['ghost'])
  expect(worthALook(snags, [resting], new Map(), moving)).toEqual(snags)
  expect(worthALook(snags, [resting], new Map(), null)).toEqual(snags)
})

test('slivers that no frame shows are told in the card; only a wide place is a snag', async () => {
  // A thread that rests where it is: nothing behind it is ever seen. It is as narrow as threads are, or as wide as a rod.
  const thread = (widthPx: number): Mend =>
    sampleMend({
      areas: [samplePath({ keys: [{ frame: 1001, points: [{ x: 180, y: -4, widthPx }, { x: 180, y: 154, widthPx }] }] })], // prettier-ignore
      fill: { ...fillOf('clean-plate'), params: { ...fillOf('clean-plate').params, unseen: 'across' } },
      span: { firstFrame: 1001, lastFrame: 1021 },
    })
  const [narrow, wide] = [await mended(thread(9)), await mended(thread(30))]
  for (const { measures } of [narrow, wide]) expect(measures[0]!.gathered!.seenShare).toBe(0)
  expect(narrow.measures[0]!.gathered!.unseenWidePx).toBeLessThan(16)
  expect(wide.measures[0]!.gathered!.unseenWidePx).toBeGreaterThan(28)
  expect(snagsOfMeasures(narrow.measures, 1011).map(({ reason }) => reason)).not.toContain('never-seen')
  expect(snagsOfMeasures(wide.measures, 1011).map(({ reason }) => reason)).toContain('never-seen')
})

describe('a thread that ends on a wing, which swings: what lies on the wing is wing, what lies beside it is wall', () => {
  // The wing's upper edge goes up and down by 9 px; the thread comes from above and goes 4 px into it.
  const edgeAt = (frame: number) => 80 + 9 * Math.sin(0.9 * (frame - 1001))
  const threadAt = (frame: number) => 70 + 3.5 * (frame - 1001)
  const frameAt =
    (hasThread: boolean) =>
    (frame: number): SceneFrame => ({
      background: (x, y, c) =>
        y > edgeAt(frame)
          ? 0.85 - 0.1 * wavesAt(3 * x, 3 * (y - edgeAt(frame)), c, 8)
          : 0.6 * wavesAt(x, y, c, 4),
      isHidden: (x, y) => hasThread && Math.abs(x - threadAt(frame)) < 3 && y < edgeAt(frame) + 4,
    })
  const [swinging, bareWing] = [sceneSource(SIZE, frameAt(true)), sceneSource(SIZE, frameAt(false))]
  const thread = sampleMend({
    areas: [
      samplePath({
        interpolation: 'linear',
        keys: Array.from({ length: 21 }, (_, i) => 1001 + i).map((frame) => ({
          frame,
          points: [
            { x: threadAt(frame), y: -4, widthPx: 8 },
            { x: threadAt(frame), y: edgeAt(frame) + 4, widthPx: 8 },
          ],
        })),
      }),
    ],
    fill: {
      ...fillOf('clean-plate'),
      params: { ...fillOf('clean-plate').params, unseen: 'across', every: 1 },
    },
    finish: { ...sampleMend().finish, featherOutPx: 1, growPx: 0, grain: 0 },
    span: { firstFrame: 1001, lastFrame: 1021 },
  })

  test.each([1005, 1009, 1013])('on frame %i', async (frame) => {
    const whole = { col: 0, row: 0, ...SIZE }
    const done = await evaluateFrame(
      planFrame(documentOf([thread], new Map(), RANGE), frame),
      swinging,
      context,
    )
    const finished = layPatches(await swinging.readRect(frame, whole), done.patches, 3)
    const truth = await bareWing.readRect(frame, whole)
    const [edge, middle] = [edgeAt(frame), threadAt(frame)]
    let [wrong, asked] = [0, 0]
    for (let y = 4; y < edge + 4; y++) {
      for (let x = Math.ceil(middle - 3); x < middle + 3; x++) {
        // The edge itself and a pixel to either side may be soft.
        if (Math.abs(y + 0.5 - edge) < 2) continue
        const at = (y * SIZE.width + x) * 3
        asked++
        // Wing and wall are more than fifty apart.
        if (Math.abs(finished.data[at]! - truth.data[at]!) > 25) wrong++
      }
    }
    expect(asked).toBeGreaterThan(300)
    expect(wrong).toBeLessThanOrEqual(0.02 * asked)
  })
})

test('with a tidy outline, a holdout that was drawn too small still keeps all of what passes beside the thing', async () => {
  // A bright ball comes the other way and passes above the thing, near enough to be looked at.
  const ballAt = (frame: number) => 150 - 6 * (frame - 1001)
  const isBall = (frame: number, x: number, y: number) => Math.hypot(x - ballAt(frame), y - 38) < 10
  const passing = sceneSource(SIZE, (frame) => ({
    ...frameOf(frame),
    background: (x, y, c) => (isBall(frame, x, y) ? 0.95 : wavesAt(x, y, c, 4)),
  }))
  const holdout = sampleEllipse({
    id: 'ball',
    role: 'holdout',
    interpolation: 'linear',
    keys: [1001, 1021].map((frame) => ({
      frame,
      x: ballAt(frame),
      y: 38,
      radiusXPx: 5,
      radiusYPx: 5,
      turnDeg: 0,
    })),
  })
  const object = mendOf({ tidyPx: 24 })
  const held = { ...object, areas: [...object.areas, holdout] }
  const frame = 1009
  const ballKept = async (mend: Mend) => {
    const { finished, plate } = await mended(mend, { frame, source: passing })
    let [kept, all] = [0, 0]
    for (let y = 28; y < 48; y++) {
      for (let x = ballAt(frame) - 10; x < ballAt(frame) + 10; x++) {
        if (!isBall(frame, x + 0.5, y + 0.5)) continue
        all++
        if (finished.data[(y * SIZE.width + x) * 3] === plate.data[(y * SIZE.width + x) * 3]) kept++
      }
    }
    return kept / all
  }
  expect(await ballKept(held)).toBeGreaterThan(0.97)
  expect(await ballKept(object)).toBeLessThan(0.6)
  // The thing itself is gone all the same.
  const { finished } = await mended(held, { frame, source: passing })
  expect(finished.data[(75 * SIZE.width + middleAt(frame)) * 3]).toBeGreaterThan(60)
})

test('what was gathered is kept by its content: changing the finish reads no frame again, a larger area does', async () => {
  const kept = new Map<string, object>()
  const source = {
    ...sceneSource(SIZE, frameOf),
    cache: {
      get: (key: string) => kept.get(key),
      set: (key: string, value: object) => void kept.set(key, value),
    },
  }
  const reads = async (mend: Mend) => {
    const before = source.reads
    const done = await evaluateFrame(planFrame(documentOf([mend], new Map(), RANGE), 1011), source, context)
    return {
      count: source.reads - before,
      finished: layPatches(await source.readRect(1011, { col: 0, row: 0, ...SIZE }), done.patches, 3),
    }
  }
  const mend = mendOf({})
  const first = await reads(mend)
  const again = await reads(mend)
  const brighter = await reads({ ...mend, finish: { ...mend.finish, exposureStops: 1 } })
  const wider = await reads(mendOf({}, 24))
  expect(first.count).toBeGreaterThan(10)
  expect(again.count).toBeLessThan(4)
  expect(again.finished.data).toEqual(first.finished.data)
  expect(brighter.count).toBeLessThan(4)
  expect(worstDifference(brighter.finished, first.finished)).toBeGreaterThan(20)
  expect(wider.count).toBeGreaterThan(6)
})

test('what one worker has stored, another takes from there; drafts are not stored', async () => {
  const stored = new Map<string, Uint8Array>()
  const results = {
    read: (key: string) => Promise.resolve(stored.get(key) ?? null),
    write: (key: string, bytes: Uint8Array) => Promise.resolve(void stored.set(key, bytes)),
  }
  const worker = async (isDraft = false) => {
    const source = { ...sceneSource(SIZE, frameOf), results }
    const done = await evaluateFrame(planFrame(documentOf([mendOf({})], new Map(), RANGE), 1011), source, {
      ...context,
      isDraft,
    })
    return {
      reads: source.reads,
      finished: layPatches(await source.readRect(1011, { col: 0, row: 0, ...SIZE }), done.patches, 3),
    }
  }
  await worker(true)
  expect(stored.size).toBe(0)
  const first = await worker()
  expect(stored.size).toBe(2) // what was gathered, and the finished rectangle
  const second = await worker()
  expect(first.reads).toBeGreaterThan(10)
  expect(second.reads).toBeLessThan(4)
  expect(second.finished.data).toEqual(first.finished.data)
  // Files that were cut off are worked out anew, and put right.
  for (const [key, bytes] of stored) stored.set(key, bytes.slice(0, 20))
  expect((await worker()).reads).toBe(first.reads)
  for (const bytes of stored.values()) expect(bytes.length).toBeGreaterThan(100)
})
