/** A mark over a wall that goes by: its picture comes back from the footage alone. */
import { movingWall } from '../../tests/fixtures/movingWall'
import { placeBetween } from '../../tests/fixtures/stops'
import { levelAt } from '../curveKeys'
import type { KeyedArea } from '../document/areas'
import { spanSchema } from '../document/span'
import { translationBy } from '../geometry/transform'
import { wholePicture, type Rect } from '../image/rect'
import { cropSamples, type Samples } from '../image/samples'
import { SCENE_FORMAT, type Scene } from '../scene/scene'
import type { Clip } from '../shot/clip'
import { createCache } from '../../workers/cache'
import { findMark } from './findMark'

const plate = { width: 150, height: 110, firstFrame: 1, lastFrame: 18 }
const motion = (i: number) => translationBy(-5.2 * i, 1.3 * i)
const wall = movingWall({ motion }, plate)
const MARK = { width: 34, height: 20, opacity: 0.4 }

/** Two bars of white: what is between them shows what is under others. */
const opacityAt = (x: number, y: number): number =>
  y > 3 && y < 17 && ((x > 4 && x < 12) || (x > 20 && x < 29)) ? MARK.opacity : 0

function clipWith(
  placeAt: (frame: number) => { x: number; y: number },
  strengthAt: (frame: number) => number = () => 1,
  size = plate,
  { moves, law } = { moves: motion, law: opacityAt },
): Clip {
  const ground = size === plate ? wall : movingWall({ motion: moves }, size)
  const kept = new Map<number, Promise<Samples>>()
  const paint = async (frame: number): Promise<Samples> => {
    const samples = await ground.readRect(frame, wholePicture(size))
    const { x, y } = placeAt(frame)
    const strength = strengthAt(frame)
    for (let at = 0; at < size.width * size.height; at++) {
      const share = strength * law((at % size.width) + 0.5 - x, Math.floor(at / size.width) + 0.5 - y)
      for (let c = 0; share > 0 && c < 3; c++)
        samples.data[3 * at + c] = Math.round((1 - share) * samples.data[3 * at + c]! + share * 255)
    }
    return samples
  }
  return {
    plate: { ...size, channels: 3, bitDepth: 8 },
    readRect: async (frame: number, rect: Rect) => {
      let whole = kept.get(frame)
      if (!whole) kept.set(frame, (whole = paint(frame)))
      return cropSamples(await whole, rect)
    },
    readMatte: async () => null,
    readStill: async () => null,
    readMark: async () => null,
    cache: createCache(),
  }
}

const scene: Scene = {
  format: SCENE_FORMAT,
  version: 1,
  plate: { width: plate.width, height: plate.height, firstFrame: 1, frameCount: 18 },
  layers: [
    {
      motions: Array.from({ length: 18 }, (_, i) => motion(i) as never),
      sure: new Array<number>(18).fill(1),
      points: 100,
      hiddenBy: [],
    },
  ],
  exposureStops: new Array<number>(18).fill(0),
  cells: null,
}

const areaAt = (places: readonly { frame: number; x: number; y: number }[]): KeyedArea => ({
  id: 'a',
  role: 'cover',
  shape: 'box',
  interpolation: 'linear',
  follow: null,
  keys: places.map(({ frame, x, y }) => ({
    frame,
    x: x + MARK.width / 2,
    y: y + MARK.height / 2,
    widthPx: MARK.width + 4,
    heightPx: MARK.height + 4,
    turnDeg: 0,
    cornerPx: 0,
  })),
})

const span = spanSchema.parse({ firstFrame: 1, lastFrame: 18, rampInFrames: 0, rampOutFrames: 0 })
const shot = { mends: [], tracks: new Map(), plate, scene }
const never = { shouldStop: () => false }
const find = (areas: readonly [KeyedArea, ...KeyedArea[]], clip: Clip, context = never) =>
  findMark(shot, { span, areas: [...areas] }, areas[0], clip, context)

test('a mark at rest: opacity within 0.03 on the mean, nothing beside it', async () => {
  const found = await find(
    [areaAt([{ frame: 1, x: 58, y: 44 }])],
    clipWith(() => ({ x: 58, y: 44 })),
  )
  const { picture, col, row, legs, fades, denseShare } = found!
  expect(fades).toEqual([{ frame: 0, level: 1 }])
  expect(legs).toEqual([])
  expect(denseShare).toBeLessThan(0.02)
  let [on, marked, off] = [0, 0, 0]
  for (let at = 0; at < picture.opacity.length; at++) {
    const [x, y] = [(at % picture.width) + 0.5 + col - 58, Math.floor(at / picture.width) + 0.5 + row - 44]
    const truth = opacityAt(x, y)
    if (truth > 0) {
      on += Math.abs(picture.opacity[at]! - truth)
      marked++
    } else off = Math.max(off, picture.opacity[at]!)
  }
  expect(on / marked).toBeLessThan(0.03)
  expect(off).toBeLessThan(0.12)
})

test('drawn round in two parts it is one mark, with nothing between them', async () => {
  const place = { x: 58, y: 44 }
  const part = (id: string, left: number): KeyedArea => {
    const whole = areaAt([{ frame: 1, ...place }])
    const [key] = whole.keys as unknown as [Record<string, number>]
    return { ...whole, id, keys: [{ ...key, x: place.x + left, widthPx: 14 }] } as unknown as KeyedArea
  }
  const found = await find(
    [part('a', 8), part('b', 24.5)],
    clipWith(() => place),
  )
  const { picture, col, row } = found!
  const opacityOn = (x: number, y: number) =>
    picture.opacity[Math.round(place.y + y - row) * picture.width + Math.round(place.x + x - col)]!
  for (const x of [8, 24]) expect(Math.abs(opacityOn(x, 10) - MARK.opacity)).toBeLessThan(0.08)
  expect(opacityOn(16, 10)).toBe(0)
})

test('a bar that hides the same ground on almost every frame is told by what is known of the rest of the mark', async () => {
  const size = { width: 260, height: 90, firstFrame: 1, lastFrame: 18 }
  const along = (i: number) => translationBy(-3 * i, 0)
  // One long bar, open at a few places that tell: the picture goes along it.
  const law = (x: number, y: number) => (y > 8 && y < 14 && x > 6 && x < 164 && x % 52 > 7 ? MARK.opacity : 0)
  const place = { x: 40, y: 36 }
  const box = areaAt([{ frame: 1, ...place }])
  const [key] = box.keys as unknown as [Record<string, number>]
  const wide = { ...box, keys: [{ ...key, x: place.x + 85, widthPx: 176 }] } as unknown as KeyedArea
  const motions = Array.from({ length: 18 }, (_, i) => along(i) as never)
  const document = {
    ...shot,
    plate: size,
    scene: { ...scene, plate: { ...scene.plate, ...size }, layers: [{ ...scene.layers[0]!, motions }] },
  }
  const clip = clipWith(
    () => place,
    () => 1,
    size,
    { moves: along, law },
  )
  const { picture, col, row } = (await findMark(document, { span, areas: [wide] }, wide, clip, never))!
  let [off, count, worst] = [0, 0, 0]
  for (let at = 0; at < picture.opacity.length; at++) {
    const [x, y] = [
      (at % picture.width) + 0.5 + col - place.x,
      Math.floor(at / picture.width) + 0.5 + row - place.y,
    ]
    if (law(x, y) === 0) continue
    const error = Math.abs(picture.opacity[at]! - MARK.opacity)
    off += error
    worst = Math.max(worst, error)
    count++
  }
  // Without that .0064, .056 and 79 %.
  expect(off / count).toBeLessThan(0.005)
  expect(worst).toBeLessThan(0.03)
  expect(picture.seenShare).toBeGreaterThan(0.9)
})

test('a mark that fades in is one mark: its whole picture, and how much of it is there on each frame', async () => {
  const strength = (frame: number) => Math.min(1, frame / 9)
  const place = { x: 58, y: 44 }
  const found = await find(
    [areaAt([{ frame: 1, ...place }])],
    clipWith(() => place, strength),
  )
  const { picture, fades } = found!
  expect(fades.length).toBeGreaterThan(1)
  expect(fades.length).toBeLessThan(7)
  for (let frame = 1; frame <= 18; frame++)
    expect(Math.abs(levelAt(fades, frame) - strength(frame))).toBeLessThan(0.06)
  expect(Math.abs(Math.max(...picture.opacity) - MARK.opacity)).toBeLessThan(0.06)
})

test('placed so that some frames between are far off, it is looked for there, and its bends come out right', async () => {
  const large = { width: 320, height: 190, firstFrame: 1, lastFrame: 18 }
  const stops = [
    { frame: 1, x: 100, y: 60 },
    { frame: 10, x: 100, y: 60 },
    { frame: 12, x: 160, y: 80 },
    { frame: 18, x: 160, y: 80 },
  ]
  const clip = clipWith(
    (frame) => placeBetween(stops, frame),
    () => 1,
    large,
  )
  // Taken to set out two frames early: up to 30 px off.
  const early = areaAt(stops.map((stop) => (stop.frame === 10 ? { ...stop, frame: 8 } : stop)))
  const wide = {
    ...shot,
    plate: large,
    scene: { ...scene, plate: { ...scene.plate, ...large, frameCount: 18 } },
  }
  const found = await findMark(wide, { span, areas: [early] }, early, clip, never)
  const { legs, minSure } = found!
  expect(minSure).toBeGreaterThan(0.5)
  for (const stop of stops) {
    const leg = legs.find(({ frame }) => frame === stop.frame)!
    expect(Math.abs(leg.dx - (stop.x - 100))).toBeLessThan(0.5)
    expect(Math.abs(leg.dy - (stop.y - 60))).toBeLessThan(0.5)
  }
})

test('ground is not taken from where another mend lies', async () => {
  const place = { x: 58, y: 44 }
  const area = areaAt([{ frame: 1, ...place }])
  const clip = clipWith(() => place)
  const asked: number[] = []
  const seenWith = async (covers: (x: number) => boolean) => {
    const mask = Uint8Array.from({ length: plate.width * plate.height }, (_, at) =>
      covers(at % plate.width) ? 1 : 0,
    )
    const found = await findMark(shot, { span, areas: [area] }, area, clip, never, async (frame) => {
      asked.push(frame)
      return mask
    })
    return found!.picture.seenShare
  }
  const free = (await find([area], clip))!.picture.seenShare
  expect(free).toBeGreaterThan(0.8)
  // Ground comes from the right before it passes, and lies to the left after it has.
  expect(await seenWith((x) => x < 58)).toBeLessThan(free - 0.1)
  expect(await seenWith(() => true)).toBe(0)
  expect(new Set(asked).size).toBeGreaterThan(8)
})

test('stopped, there is none', async () => {
  const clip = clipWith(() => ({ x: 58, y: 44 }))
  expect(await find([areaAt([{ frame: 1, x: 58, y: 44 }])], clip, { shouldStop: () => true })).toBeNull()
})
