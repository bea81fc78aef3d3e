import { documentOf } from '../../../tests/fixtures/sampleDocument'
import { cropSamples, createSamples, type Samples } from '../../image/samples'
import { evaluateFrame } from '../../evaluate/evaluateFrame'
import { layPatches } from '../../evaluate/finished'
import { planFrame } from '../../plan/planFrame'
import { fillOf, sampleEllipse, sampleMend } from '../../../tests/fixtures/sampleMend'
import { sceneSource, wavesAt } from '../../../tests/fixtures/sampleScene'
import { worstDifference } from '../../../tests/fixtures/sampleSource'
import type { Mend } from '../../document/mend'
import { sceneSchema, type Scene } from '../../scene/scene'
import { defaultsOf } from '../registry'
import { still } from './still'

const SIZE = { width: 200, height: 120 }
const RANGE = { firstFrame: 1001, lastFrame: 1012 }
const whole = { col: 0, row: 0, ...SIZE }
const hides = (x: number, y: number) => Math.hypot((x - 100) / 12, (y - 60) / 16) < 1

/** A camera that goes so many px a frame; a thing that rests in the picture from the second frame on. */
function shotWith(pxPerFrame: number) {
  const frameOf = (isBare: boolean) => (frame: number) => ({
    background: (x: number, y: number, c: number) => wavesAt(x + pxPerFrame * (frame - 1001), y, c, 6),
    isHidden: (x: number, y: number) => !isBare && frame > 1001 && hides(x, y),
  })
  const scene: Scene = sceneSchema.parse({
    format: 'fillagrant-scene',
    version: 1,
    plate: { ...SIZE, firstFrame: 1001, frameCount: 12 },
    layers: [
      {
        motions: Array.from({ length: 12 }, (_, i) => [1, 0, -pxPerFrame * i, 0, 1, 0, 0, 0, 1]),
        sure: new Array(12).fill(1),
        points: 50,
        hiddenBy: [],
      },
    ],
    exposureStops: new Array(12).fill(0),
    cells: null,
  })
  return { source: sceneSource(SIZE, frameOf(false)), bare: sceneSource(SIZE, frameOf(true)), scene }
}
const [locked, panned] = [shotWith(0), shotWith(1.5)]

const mendOf = (params: Record<string, unknown>): Mend =>
  sampleMend({
    areas: [
      sampleEllipse({ keys: [{ frame: 1001, x: 100, y: 60, radiusXPx: 14, radiusYPx: 18, turnDeg: 0 }] }),
    ],
    fill: { ...fillOf('still'), params: { ...fillOf('still').params, ...params } },
    finish: { ...sampleMend().finish, featherOutPx: 1, growPx: 0, grain: 0 },
    span: { firstFrame: 1002, lastFrame: 1012, rampInFrames: 0, rampOutFrames: 0 },
  })

async function mended(
  { source, bare, scene }: typeof locked,
  params: Record<string, unknown>,
  over = {},
  frame = 1007,
) {
  const from = { ...source, ...over }
  const done = await evaluateFrame(
    planFrame(documentOf([mendOf(params)], new Map(), RANGE, scene), frame),
    from,
    {
      shouldStop: () => false,
      showsSeen: true,
    },
  )
  const plate = await source.readRect(frame, whole)
  return {
    ...done,
    plate,
    finished: layPatches(plate, done.patches, 3),
    truth: await bare.readRect(frame, whole),
  }
}

test('a frame at rest in front of a locked camera shows what is behind to the bit', async () => {
  const { finished, truth } = await mended(locked, { frame: 1001, placed: 'rests', light: 'own' })
  expect(worstDifference(finished, truth)).toBe(0)
})

test('a frame on the ground goes with it', async () => {
  const { finished, truth, measures } = await mended(panned, { frame: 1001, placed: 'rides' })
  expect(worstDifference(finished, truth)).toBeLessThanOrEqual(3)
  expect(measures[0]!.gathered).toMatchObject({ seenShare: 1, frames: 1 })
  const resting = await mended(panned, { frame: 1001, placed: 'rests' })
  expect(worstDifference(resting.finished, truth)).toBeGreaterThan(15)
})

describe('a picture that is brought in', () => {
  /** The bare ground of the first frame, two stops down in two channels, as another camera would have it. */
  const picture = async (shot: typeof locked): Promise<Samples> => {
    const ground = await shot.bare.readRect(1001, whole)
    return { ...ground, data: ground.data.map((value, i) => (i % 3 === 0 ? value : Math.round(value * 0.6))) }
  }
  const withPicture = (samples: Samples) => ({
    readStill: async (name: string, rect: Parameters<typeof cropSamples>[1]) =>
      name === 'ground.png' ? cropSamples(samples, rect) : null,
  })

  test('rides on the ground from the frame on which it lies so, in the light of each frame', async () => {
    const samples = await picture(panned)
    const { finished, truth } = await mended(
      panned,
      { shows: 'picture', still: 'ground.png', on: 1001, placed: 'rides' },
      withPicture(samples),
    )
    expect(worstDifference(finished, truth)).toBeLessThanOrEqual(5)
  })

  test('by its corners: a picture of twice the size lies where its corners are put', async () => {
    // Every pixel twice as wide and as high, cut to the upper left quarter: it covers the left upper quarter of the plate.
    const ground = await locked.bare.readRect(1001, whole)
    const samples = createSamples(SIZE.width, SIZE.height, 3, 8)
    for (let y = 0; y < SIZE.height; y++) {
      for (let x = 0; x < SIZE.width; x++) {
        for (let c = 0; c < 3; c++)
          samples.data[(y * SIZE.width + x) * 3 + c] =
            ground.data[((30 + (y >> 1)) * SIZE.width + 50 + (x >> 1)) * 3 + c]!
      }
    }
    const corners = [50, 30, 150, 30, 150, 90, 50, 90]
    const { finished, truth, seenMaps } = await mended(
      locked,
      { shows: 'picture', still: 'ground.png', on: 1001, placed: 'corners', corners, light: 'own' },
      withPicture(samples),
    )
    // Each pixel was doubled, not interpolated: half a pixel of the plate at most.
    expect(worstDifference(finished, truth)).toBeLessThanOrEqual(24)
    expect(seenMaps[0]!.seen.some((count) => count === 1)).toBe(true)
  })

  test('one that is missing changes nothing and says so', async () => {
    const { finished, plate, notes } = await mended(locked, {
      shows: 'picture',
      still: 'none.png',
      placed: 'rests',
    })
    expect(notes).toMatchObject([{ reason: 'no-source', detail: expect.stringContaining('missing') }])
    expect(finished.data).toEqual(plate.data)
  })
})

test('a frame that the plate does not have is said; one is chosen with the fill', async () => {
  const { notes } = await mended(locked, { frame: 1300 })
  expect(notes).toMatchObject([{ reason: 'no-source', detail: expect.stringContaining('no frame 1300') }])
  expect(defaultsOf(still, 1005)).toMatchObject({ frame: 1005, on: 1005, shows: 'frame' })
  expect((await mended(locked, { frame: 1300, placed: 'corners' })).notes).toHaveLength(1)
})
