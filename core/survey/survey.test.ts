import { createRandom } from '../../tests/random'
import { createSamples, type Samples } from '../image/samples'
import { createCutDetector } from './cuts'
import { cropOf, findSchema, placeOn, surveySchema, type Find } from './finds'
import { CELL_PX, quarterStops } from './quarter'
import { clipFrame, noiseOf, paintDiscs } from '../../tests/fixtures/sampleClip'
import { levelsOf, shiftBetween } from './shift'
import { createSurvey, joinParts } from './survey'
import { surveyPart, surveyPlate } from './surveyPlate'

const [WIDTH, HEIGHT] = [320, 192]
const SHAPE = { width: WIDTH, height: HEIGHT, channels: 3 }
const random = createRandom(31)
const NOISE = noiseOf(random)
const [first, second] = [
  paintDiscs(WIDTH + 200, HEIGHT + 20, 400, random),
  paintDiscs(WIDTH + 200, HEIGHT + 20, 400, random),
]
const frameOf = (painting: typeof first, x: number, spotted = true): Samples =>
  clipFrame(
    painting,
    NOISE,
    { width: WIDTH, height: HEIGHT, x, row: 8, grain: 1.5, noiseFrom: Math.floor(x * 7919) },
    null,
    (values) => {
      if (spotted) for (let c = 0; c < 3; c++) values[(60 * WIDTH + 100) * 3 + c] = 255
    },
  )

test('a step of the picture is told to a tenth of a cell, whatever its light', () => {
  const at = (x: number) => levelsOf(quarterStops(frameOf(first, x, false)))
  for (const [from, to] of [
    [10, 21.3],
    [40, 17.5],
    [5, 61],
  ] as const) {
    const { x, y, left } = shiftBetween(at(from), at(to))
    expect(Math.abs(x * CELL_PX - (from - to))).toBeLessThan(0.1 * CELL_PX + 0.2)
    expect(Math.abs(y)).toBeLessThan(0.15)
    expect(left).toBeLessThan(0.15)
  }
})

test('a quarter holds stops of light: twice the light is one more', () => {
  // IEC 61966-2-1: codes 188 and 137 are a stop apart.
  const grey = (code: number) =>
    quarterStops({ ...createSamples(8, 8, 3, 8), data: new Uint8Array(192).fill(code) }).data[0]!
  expect(grey(188) - grey(137)).toBeCloseTo(1, 1)
  expect(
    quarterStops({ ...createSamples(8, 8, 3, 16), data: new Uint16Array(192).fill(188 * 257) }).data[0],
  ).toBeCloseTo(grey(188), 2)
})

test('a cut is where the picture is another one, and only there', () => {
  const survey = createSurvey(SHAPE, 1001)
  for (let i = 0; i < 24; i++) survey.add(i < 13 ? frameOf(first, 4 + 5 * i) : frameOf(second, 4 + 5 * i))
  const { survey: found } = survey.finish()
  expect(found.cuts).toEqual([1014])
  expect(surveySchema.parse(JSON.parse(JSON.stringify(found)))).toEqual(found)
  // The bad pixel belongs to the camera, not to either picture.
  expect(found.finds).toMatchObject([
    {
      kind: 'pixel',
      class: 'hot',
      id: 'px-100-60',
      firstFrame: 1001,
      lastFrame: 1024,
      crop: { col: 93, row: 53, width: 16, height: 16 },
    },
  ])
  expect(found.rest).toBe('moves')
})

test('what differs no more than before is no cut, however much that is', () => {
  const detector = createCutDetector()
  expect([0.2, 0.22, 0.19, 0.21, 0.25, 0.2].map((left) => detector.isCut(left))).toEqual(
    new Array(6).fill(false),
  )
  expect(detector.isCut(0.8)).toBe(true)
  expect(detector.isCut(0.2)).toBe(false)
})

test('a plate is read frame by frame, each once, with progress; stopped, it says nothing', async () => {
  const read: number[] = []
  const source = {
    plate: SHAPE,
    readRect: (frame: number) => {
      read.push(frame)
      return Promise.resolve(frameOf(first, 4 + 6 * (frame - 1001)))
    },
  }
  const told: string[] = []
  const range = { firstFrame: 1001, lastFrame: 1012 }
  const surveyed = await surveyPlate(source, range, {
    shouldStop: () => false,
    onProgress: (done, total) => told.push(`${done}/${total}`),
  })
  expect(read).toEqual(Array.from({ length: 12 }, (_, i) => 1001 + i))
  expect(told.at(-1)).toBe('12/12')
  expect(surveyed!.survey.finds).toHaveLength(1)
  // The bad pixel is white in the mean, and black in what changes.
  const at = (60 * WIDTH + 100) * 4
  expect([...surveyed!.meanPicture.slice(at, at + 4)]).toEqual([255, 255, 255, 255])
  expect([...surveyed!.spreadPicture.slice(at, at + 3)]).toEqual([0, 0, 0])
  expect(await surveyPlate(source, range, { shouldStop: () => read.length > 15 })).toBeNull()
})

test('parts that are made apart join into the same survey; one that is stopped says nothing', async () => {
  const source = {
    plate: SHAPE,
    readRect: (frame: number) =>
      Promise.resolve(frameOf(frame < 1010 ? first : second, 4 + 6 * (frame - 1001))),
  }
  const range = { firstFrame: 1001, lastFrame: 1018 }
  const going = { shouldStop: () => false }
  const whole = await surveyPlate(source, range, going)
  const [still, moving, carrier] = [
    await surveyPart('still', source, range, going),
    await surveyPart('moving', source, range, going),
    await surveyPart('carrier', source, range, going),
  ]
  if (still?.part !== 'still' || moving?.part !== 'moving' || carrier?.part !== 'carrier')
    throw new Error('a part is missing')
  // As they go between threads.
  const apart = structuredClone({ still: still.still, moving: moving.moving, carrier: carrier.carrier })
  expect(joinParts(SHAPE, 1001, apart.still, apart.moving, apart.carrier)).toEqual(whole!.survey)
  expect(whole!.survey).toMatchObject({ cuts: [1010], finds: [{ kind: 'pixel' }] })
  expect([still.meanPicture, still.spreadPicture]).toEqual([whole!.meanPicture, whole!.spreadPicture])
  expect(await surveyPart('moving', source, range, { shouldStop: () => true })).toBeNull()
  expect(() => createSurvey(SHAPE, 1001).finish()).toThrow(RangeError)
})

test('the part of the picture around a find lies inside it', () => {
  const always = { firstFrame: 1, lastFrame: 9, sure: 1, why: '' }
  const pixel: Find = findSchema.parse({
    kind: 'pixel',
    id: 'px-1-1',
    x: 1.5,
    y: 1.5,
    widthPx: 3,
    heightPx: 3,
    class: 'hot',
    ...always,
  })
  expect(cropOf(pixel, SHAPE)).toEqual({ col: 0, row: 0, width: 16, height: 16 })
  const mote: Find = {
    kind: 'mote',
    id: 'mote-300-100',
    x: 310,
    y: 100,
    radiusXPx: 20,
    radiusYPx: 15,
    turnDeg: 0,
    depthStops: -0.5,
    ...always,
  }
  const crop = cropOf(mote, SHAPE)
  expect(crop).toMatchObject({ col: WIDTH - 60, width: 60, height: 60 })
  expect(findSchema.safeParse({ ...pixel, class: 'lazy' }).success).toBe(false)
})

test('a find that travels lies straight between its keys, and rests before and after them', () => {
  const mark: Find = {
    kind: 'mark',
    id: 'mark-1',
    x: 10,
    y: 20,
    widthPx: 40,
    heightPx: 12,
    opacity: 0.5,
    firstFrame: 1001,
    lastFrame: 1020,
    sure: 0.9,
    why: '',
    keys: [
      { frame: 1003, x: 10, y: 20 },
      { frame: 1007, x: 30, y: 28 },
      { frame: 1012, x: 30, y: 28 },
    ],
  }
  expect(findSchema.parse(mark)).toEqual(mark)
  for (const [frame, x, y] of [
    [1001, 10, 20],
    [1003, 10, 20],
    [1005, 20, 24],
    [1007, 30, 28],
    [1010, 30, 28],
    [1020, 30, 28],
  ] as const)
    expect(placeOn(mark, frame)).toMatchObject({ x, y })
  const { keys: _keys, ...still } = mark
  expect(placeOn(still, 1010)).toMatchObject({ x: 10, y: 20 })
})
