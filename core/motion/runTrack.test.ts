import { movingWall, turnedAbout } from '../../tests/fixtures/movingWall'
import { apply, similarity, translationBy, type Matrix3 } from '../geometry/transform'
import { readAhead, runTrack, type TrackRequest } from './runTrack'
import { DEFAULT_TRACK_SETTINGS, type TrackSettings } from './settings'

const FRAMES = Array.from({ length: 16 }, (_, i) => i + 2)
const square = (x: number, y: number, half: number) => [
  x - half,
  y - half,
  x + half,
  y - half,
  x + half,
  y + half,
  x - half,
  y + half,
]
const request = (over: Partial<TrackRequest>, settings: Partial<TrackSettings> = {}): TrackRequest => ({
  kind: 'point',
  seed: [100.3, 80.6],
  settings: { ...DEFAULT_TRACK_SETTINGS, ...settings },
  startFrame: 1,
  frames: FRAMES,
  ...over,
})
const going = { shouldStop: () => false }

/** Distances of every tracked x, y pair from the truth. */
function errorsOf(
  frames: readonly { frame: number; values: readonly number[] }[],
  seed: readonly number[],
  truth: (i: number) => Matrix3,
): number[] {
  return frames.flatMap(({ frame, values }) =>
    Array.from({ length: seed.length / 2 }, (_, k) => {
      const at = apply(truth(frame - 1), seed[2 * k]!, seed[2 * k + 1]!)
      return Math.hypot(values[2 * k]! - at.x, values[2 * k + 1]! - at.y)
    }),
  )
}
const mean = (values: number[]) => values.reduce((a, b) => a + b, 0) / values.length

const turning = (i: number) => turnedAbout(100, 80, similarity(1 + 0.01 * i, 0.014 * i, 0.9 * i, -0.4 * i))
const POINT_MEAN_PX = 0.08 // a film-like grain of 1.5 codes over a 21 px patch

test.each([
  ['a shift', { motion: (i: number) => translationBy(1.3 * i, Math.sin(i)) }],
  ['turn and scale', { motion: turning }],
  [
    'one stop of exposure',
    { motion: (i: number) => translationBy(0.7 * i, 0), gain: (i: number) => 2 ** (-i / 16) },
  ],
  ['a focus pull', { motion: (i: number) => translationBy(0.7 * i, 0), blurPx: (i: number) => i / 8 }],
])('a point is followed through %s', async (_name, wall) => {
  const { frames, end } = await runTrack(request({}), movingWall(wall), going)
  expect(end.reason).toBe('finished')
  const errors = errorsOf(frames, [100.3, 80.6], wall.motion)
  expect(errors).toHaveLength(17)
  expect(mean(errors)).toBeLessThan(POINT_MEAN_PX)
  expect(Math.max(...errors)).toBeLessThan(0.25)
  for (const { sure } of frames) expect(sure).toBeGreaterThan(0.6)
})

test('refreshed reference holds what changes its look, and does not drift where it does not', async () => {
  const wall = { motion: turning }
  const { frames } = await runTrack(request({}, { reference: 'refreshed' }), movingWall(wall), going)
  expect(Math.max(...errorsOf(frames, [100.3, 80.6], turning))).toBeLessThan(0.25)
})

test('a cover-up of five frames is bridged, and its frames are unsure', async () => {
  const motion = (i: number) => translationBy(1.1 * i, 0.4 * i)
  const cover = (i: number) =>
    i >= 5 && i < 10 ? (x: number) => (x > 70 && x < 150 ? 0.2 + 0.002 * x : null) : undefined
  const { frames, end } = await runTrack(request({}), movingWall({ motion, cover }), going)
  expect(end.reason).toBe('finished')
  expect(frames.map(({ frame }) => frame)).toEqual([1, ...FRAMES])
  for (const { frame, sure } of frames) {
    if (frame >= 6 && frame <= 10) expect(sure).toBeLessThanOrEqual(0.2)
    else expect(sure).toBeGreaterThan(0.6)
  }
  expect(Math.max(...errorsOf(frames, [100.3, 80.6], motion))).toBeLessThan(0.25)
})

test('a point that stays covered is lost from the first frame it was missing, and never sure after', async () => {
  const cover = (i: number) =>
    i >= 6 ? (x: number, y: number) => 0.5 + 0.3 * Math.sin(x / 3 + y / 5) : undefined
  const { frames, end } = await runTrack(
    request({}, { bridgeFrames: 4 }),
    movingWall({ motion: () => translationBy(0, 0), cover }),
    going,
  )
  expect(end).toEqual({ reason: 'lost', frame: 7 })
  expect(frames.at(-1)!.frame).toBe(6)
})

test('a point leaves the picture, and flat ground holds nothing', async () => {
  const leaving = await runTrack(
    request({ seed: [40, 80] }),
    movingWall({ motion: (i: number) => translationBy(-6 * i, 0) }),
    going,
  )
  expect(leaving.end.reason).toBe('left-picture')
  const flat = await runTrack(
    request({}),
    movingWall({ motion: () => translationBy(0, 0), cover: () => () => 0.5 }),
    going,
  )
  expect(flat.end).toEqual({ reason: 'nothing-to-hold', frame: 1 })
  expect(flat.frames).toEqual([])
})

test('tracking can be stopped: what is good is kept, and every frame was told', async () => {
  const told: number[] = []
  const { frames, end } = await runTrack(request({}), movingWall({ motion: () => translationBy(0, 0) }), {
    shouldStop: () => told.length >= 4,
    onFrame: ({ frame }) => told.push(frame),
  })
  expect(end.reason).toBe('stopped')
  expect(told).toEqual([2, 3, 4, 5])
  expect(frames).toHaveLength(5)
})

test('frames may run backwards', async () => {
  const motion = (i: number) => translationBy(1.2 * i, 0)
  const back = await runTrack(
    request({ startFrame: 17, frames: [...FRAMES].reverse().slice(1).concat(1), seed: [119.5, 80.6] }),
    movingWall({ motion }),
    going,
  )
  expect(back.frames[0]!.frame).toBe(1)
  expect(Math.abs(back.frames[0]!.values[0]! - (119.5 - 1.2 * 16))).toBeLessThan(0.1)
})

const perspective = (i: number) =>
  turnedAbout(110, 90, [
    1 + 0.003 * i,
    0.004 * i,
    0.9 * i,
    -0.002 * i,
    1 - 0.002 * i,
    0.5 * i,
    0.00008 * i,
    -0.00005 * i,
    1,
  ])
const CORNER_PX = 0.3

test.each([['planar'], ['spread']] as const)('%s motion follows perspective to its corners', async (kind) => {
  const seed = square(110, 90, 45)
  const outcome = await runTrack(request({ kind, seed }), movingWall({ motion: perspective }), going)
  expect(outcome.end.reason).toBe('finished')
  expect(outcome.corners).toEqual(seed)
  const errors = errorsOf(outcome.frames, seed, perspective)
  expect(Math.max(...errors)).toBeLessThan(CORNER_PX)
  expect(mean(errors)).toBeLessThan(0.1)
})

test.each([['planar'], ['spread']] as const)(
  '%s motion is not misled by what crosses a third of the area',
  async (kind) => {
    const seed = square(110, 90, 45)
    const motion = (i: number) => translationBy(0.8 * i, 0.3 * i)
    const cover = (i: number) =>
      i === 0
        ? undefined
        : (x: number, y: number) =>
            Math.abs(x - 70 - 4 * i) < 14 ? 0.35 + 0.2 * Math.sin((x - 4 * i) / 2) * Math.cos(y / 3) : null
    const outcome = await runTrack(
      request({ kind, seed }, { model: 'affine' }),
      movingWall({ motion, cover }),
      going,
    )
    expect(outcome.end.reason).toBe('finished')
    expect(Math.max(...errorsOf(outcome.frames, seed, motion))).toBeLessThan(0.5)
  },
)

test('two points give turn and scale', async () => {
  const seed = [70.4, 60.2, 140.7, 110.1]
  const outcome = await runTrack(request({ kind: 'pair', seed }), movingWall({ motion: turning }), going)
  expect(Math.max(...errorsOf(outcome.frames, seed, turning))).toBeLessThan(0.25)
})

test('a seed of the wrong size is a slip of the caller', async () => {
  await expect(
    runTrack(request({ seed: [1, 2, 3, 4] }), movingWall({ motion: turning }), going),
  ).rejects.toThrow('seed must hold 1 x, y pairs')
  await expect(
    runTrack(request({ kind: 'planar', seed: [1, 2] }), movingWall({ motion: turning }), going),
  ).rejects.toThrow('at least 3 points')
})

test('what comes next is asked for ahead, some frames at a time, and never twice in a row', () => {
  const asked: number[][] = []
  const rect = { col: 0, row: 0, width: 8, height: 8 }
  const ahead = { plate: rect, readRect: () => Promise.reject(new Error('not read')), prefetch: (wanted: readonly { frame: number }[]) => void asked.push(wanted.map(({ frame }) => frame)) } // prettier-ignore
  const frames = Array.from({ length: 20 }, (_, i) => 1001 + i)
  for (const at of frames.keys()) readAhead(ahead, frames, at, [rect])
  expect(asked.map((some) => [some[0], some.at(-1)])).toEqual([
    [1002, 1017],
    [1010, 1020],
    [1018, 1020],
  ])
})
