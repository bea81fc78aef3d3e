import { documentOf } from '../../../tests/fixtures/sampleDocument'
import { createRandom } from '../../../tests/random'
import { srgb } from '../../colour/transfer'
import { evaluateFrame } from '../../evaluate/evaluateFrame'
import { layPatches } from '../../evaluate/finished'
import { planFrame } from '../../plan/planFrame'
import { fillOf, sampleEllipse, sampleMend } from '../../../tests/fixtures/sampleMend'
import { sceneSource, wavesAt } from '../../../tests/fixtures/sampleScene'
import type { Mend } from '../../document/mend'
import { sceneSchema, type Scene } from '../../scene/scene'

const SIZE = { width: 200, height: 120 }
const FRAMES = 31
const RANGE = { firstFrame: 1001, lastFrame: 1000 + FRAMES }
const MOTE = { x: 100.3, y: 60.6, radiusPx: 20 }
const random = createRandom(8)
const noise = Float32Array.from(
  { length: 1 << 16 },
  () => 1.5 * (random() + random() + random() + random() - 2) * Math.sqrt(3),
)

const through = (x: number, y: number, depth: number) => {
  const inside = 1 - ((x - MOTE.x) / MOTE.radiusPx) ** 2 - ((y - MOTE.y) / MOTE.radiusPx) ** 2
  return inside <= 0 ? 1 : 1 - depth * inside * inside
}

/** A camera over waves; dust takes a share of the light. @param hasBird  A small bright thing flies past behind it, on its own. */
function clip(pxAFrame: number, depth: number, hasBird = false) {
  return sceneSource(
    SIZE,
    (frame) => {
      const [birdX, birdY] = [100 + 6 * (frame - 1016), 60 + (frame - 1016)]
      return {
        background: (x, y, c) => {
          const isBird = hasBird && Math.hypot(x - birdX, y - birdY) < 4
          const clear = isBird ? 0.85 : 0.7 * wavesAt(x + pxAFrame * (frame - 1001), y, c, 3)
          const share = through(x, y, depth)
          return share === 1 ? clear : srgb.encode(srgb.decode(clear) * share)
        },
        isHidden: () => false,
      }
    },
    (frame, i) => noise[(i * 5 + frame * 7919) & 0xffff]!,
  )
}

const sceneOf = (pxAFrame: number): Scene =>
  sceneSchema.parse({
    format: 'fillagrant-scene',
    version: 1,
    plate: { ...SIZE, firstFrame: 1001, frameCount: FRAMES },
    layers: [
      {
        motions: Array.from({ length: FRAMES }, (_, i) => [1, 0, -pxAFrame * i, 0, 1, 0, 0, 0, 1]),
        sure: new Array(FRAMES).fill(1),
        points: 50,
        hiddenBy: [],
      },
    ],
    exposureStops: new Array(FRAMES).fill(0),
    cells: null,
  })

const dust = (params: Record<string, unknown> = {}): Mend =>
  sampleMend({
    kind: 'dust',
    areas: [
      sampleEllipse({
        keys: [
          {
            frame: 1001,
            x: MOTE.x,
            y: MOTE.y,
            radiusXPx: MOTE.radiusPx,
            radiusYPx: MOTE.radiusPx,
            turnDeg: 0,
          },
        ],
      }),
    ],
    fill: { ...fillOf('lift'), params: { ...fillOf('lift').params, ...params } },
    finish: { ...sampleMend().finish, featherOutPx: 2, growPx: 0 },
    span: RANGE,
  })

/** Signal to noise inside the mote against the plate without dust, grain and all, and the share of it that other frames showed. */
async function lifted(pxAFrame: number, depth: number, scene: Scene | null, params = {}, hasBird = false) {
  const frame = 1016
  const whole = { col: 0, row: 0, ...SIZE }
  const [source, clean] = [clip(pxAFrame, depth, hasBird), clip(pxAFrame, 0, hasBird)]
  const { patches, notes, measures } = await evaluateFrame(
    planFrame(documentOf([dust(params)], new Map(), RANGE, scene), frame),
    source,
    {
      shouldStop: () => false,
    },
  )
  const [plate, truth] = [await source.readRect(frame, whole), await clean.readRect(frame, whole)]
  const finished = layPatches(plate, patches, 3)
  let [sum, count, outside] = [0, 0, 0]
  for (let i = 0; i < finished.data.length; i++) {
    const [x, y] = [(Math.floor(i / 3) % SIZE.width) + 0.5, Math.floor(i / 3 / SIZE.width) + 0.5]
    if (through(x, y, depth || 0.5) === 1) {
      if (Math.hypot(x - MOTE.x, y - MOTE.y) > MOTE.radiusPx + 4 && finished.data[i] !== plate.data[i])
        outside++
      continue
    }
    sum += (finished.data[i]! - truth.data[i]!) ** 2
    count++
  }
  expect([notes, outside]).toEqual([[], 0])
  return { db: 10 * Math.log10((255 * 255 * count) / sum), seenShare: measures[0]!.gathered!.seenShare }
}

test('detail and grain come out from under dust as they are', async () => {
  const { db, seenShare } = await lifted(3, 0.45, sceneOf(3))
  expect(db).toBeGreaterThan(42)
  expect(seenShare).toBe(1)
  expect((await lifted(3, 0.2, sceneOf(3))).db).toBeGreaterThan(44)
})

test('a thing that flies past behind it by itself is kept, though no other frame shows it there', async () => {
  expect((await lifted(3, 0.45, sceneOf(3), {}, true)).db).toBeGreaterThan(38)
})

test('dust that lets next to nothing through is filled from what other frames show', async () => {
  const opaque = await lifted(3, 0.97, sceneOf(3))
  expect(opaque.db).toBeGreaterThan(33)
  // The same with everything lifted: what little comes through is driven up, grain and all.
  expect((await lifted(3, 0.97, sceneOf(3), { least: 0.02 })).db).toBeLessThan(opaque.db)
})

test.each([
  ['before a locked camera', 0, sceneOf(0)],
  ['without the scene’s motion', 3, null],
])(
  '%s there is nothing to compare with: nothing is lifted, the place is filled as the setting says',
  async (_, pxAFrame, scene) => {
    const [membrane, median] = [
      await lifted(pxAFrame, 0.45, scene, { unseen: 'membrane' }),
      await lifted(pxAFrame, 0.45, scene, { unseen: 'median' }),
    ]
    for (const filled of [membrane, median]) expect(filled.seenShare).toBe(0)
    expect(membrane.db).not.toBe(median.db)
  },
)
