import { createPathCurve, nearestOnPath, pathPointAt } from '../../geometry/pathCurve'
import { createSamples } from '../../image/samples'
import { grainAt } from '../../finish/grain'
import type { PictureSource } from '../runTrack'
import { runCling } from './runCling'
import { smoothOverTime } from './smoothOverTime'

const SIZE = { width: 200, height: 260 }

interface LineScene {
  /** x of the line at y, on the frame of index i. */
  readonly x: (y: number, i: number) => number
  readonly widthPx: number
  readonly value: number
  /** The line ends here; a bright subject lies below. */
  readonly endY: (i: number) => number
  readonly isGone?: (i: number) => boolean
}

/** A line before striped ground, over a bright subject that carries its end. */
function sceneOf({ x, widthPx, value, endY, isGone }: LineScene): PictureSource {
  return {
    plate: SIZE,
    readRect: async (frame, rect) => {
      const i = frame - 1
      const samples = createSamples(rect.width, rect.height, 3, 8)
      let at = 0
      for (let row = rect.row; row < rect.row + rect.height; row++) {
        const end = endY(i)
        const middle = x(row + 0.5, i)
        const below = row + 0.5 - end
        for (let col = rect.col; col < rect.col + rect.width; col++) {
          const ground = 120 + (Math.floor((row + 2 * i) / 9) % 2) * 25 + (Math.floor(col / 13) % 2) * 14
          const subject =
            below > 0 && Math.abs(col + 0.5 - x(end, i)) < 40
              ? 220 + ((Math.floor(col - x(end, i) + 400) * 7 + Math.floor(below) * 5) % 23)
              : ground
          const off = Math.abs(col + 0.5 - middle)
          const cover = below < 0 && !isGone?.(i) ? Math.min(1, Math.max(0, widthPx / 2 + 0.5 - off)) : 0
          for (let c = 0; c < 3; c++)
            samples.data[at++] = Math.round(
              subject + cover * (value - subject) + 1.5 * grainAt(7, frame, col, row, c),
            )
        }
      }
      return samples
    },
  }
}

const swinging: LineScene = {
  x: (y, i) => 90 + 12 * Math.sin(i / 4) * (y / 180) + 0.0012 * (y - 90) * (y - 90),
  widthPx: 5,
  value: 40,
  endY: (i) => 190 + 6 * Math.sin(i / 5),
}
const rough = (scene: LineScene, i: number) => [
  { x: scene.x(0, i) - 4, y: -8, widthPx: 10 },
  { x: scene.x(90, i) + 5, y: 90, widthPx: 10 },
  { x: scene.x(190, i) + 4, y: scene.endY(i) - 6, widthPx: 10 },
]
const request = (scene: LineScene, over = {}) => ({
  points: rough(scene, 8),
  settings: { searchPx: 8, bridgeFrames: 3 },
  startFrame: 9,
  ways: [[10, 11, 12, 13, 14, 15, 16]],
  ...over,
})
const going = { shouldStop: () => false }

/** Errors of what was found, inside the picture and before the end. */
function errorsOf(scene: LineScene, frame: number, values: readonly number[]) {
  const i = frame - 1
  const exact = createPathCurve(
    Array.from({ length: 24 }, (_, k) => ({
      x: scene.x((k * scene.endY(i)) / 23, i),
      y: (k * scene.endY(i)) / 23,
      widthPx: scene.widthPx,
    })),
  )
  const found = createPathCurve(
    Array.from({ length: values.length / 3 }, (_, k) => ({
      x: values[3 * k]!,
      y: values[3 * k + 1]!,
      widthPx: values[3 * k + 2]!,
    })),
  )
  const off: number[] = []
  const widths: number[] = []
  for (let arc = 0; arc <= found.lengthPx; arc += 5) {
    const at = pathPointAt(found, arc)
    const near = nearestOnPath(exact, at.x, at.y)
    if (near.arcPx <= 0 || near.arcPx >= exact.lengthPx) continue
    off.push(near.distancePx)
    widths.push(Math.abs(at.widthPx / scene.widthPx - 1))
  }
  const [endX, endY] = values.slice(-3) as [number, number]
  return {
    mean: off.reduce((a, b) => a + b, 0) / off.length,
    max: Math.max(...off),
    width: Math.max(...widths),
    end: Math.hypot(endX - scene.x(scene.endY(i), i), endY - scene.endY(i)),
  }
}

test('a rough drawing snaps to the line and stays on it while it swings; its end stays on the subject', async () => {
  const told: number[] = []
  const { frames, ends } = await runCling(request(swinging), sceneOf(swinging), {
    ...going,
    onFrame: ({ frame }) => told.push(frame),
  })
  expect(ends).toMatchObject([{ reason: 'finished' }])
  expect(told).toEqual([9, 10, 11, 12, 13, 14, 15, 16])
  for (const { frame, values, sure } of frames) {
    const errors = errorsOf(swinging, frame, values)
    expect(errors.mean).toBeLessThan(0.3)
    expect(errors.max).toBeLessThan(1.5)
    expect(errors.width).toBeLessThan(0.15)
    expect(errors.end).toBeLessThan(2)
    expect(sure).toBeGreaterThan(0.6)
  }
})

test('a bright line is found as well as a dark one, and a thick bar as well as a thin line', async () => {
  for (const [widthPx, value] of [
    [4, 235],
    [16, 30],
  ] as const) {
    const scene = { ...swinging, widthPx, value }
    const { frames } = await runCling(request(scene, { ways: [[10]] }), sceneOf(scene), going)
    const errors = errorsOf(scene, 10, frames[1]!.values)
    expect(errors.mean).toBeLessThan(0.4)
    expect(errors.width).toBeLessThan(0.2)
  }
})

test('a line that is hidden for two frames is bridged unsure; one that stays away ends the cling', async () => {
  const blinking = { ...swinging, isGone: (i: number) => i === 11 || i === 12 }
  const bridged = await runCling(request(blinking), sceneOf(blinking), going)
  expect(bridged.ends).toMatchObject([{ reason: 'finished' }])
  expect(bridged.frames.filter(({ sure }) => sure <= 0.2).map(({ frame }) => frame)).toEqual([12, 13])
  const leaving = { ...swinging, isGone: (i: number) => i >= 11 }
  const lost = await runCling(request(leaving, { ways: [[10, 11, 12, 13, 14, 15]] }), sceneOf(leaving), going)
  expect(lost.ends).toEqual([{ reason: 'lost', frame: 12 }])
  expect(lost.frames.at(-1)!.frame).toBe(11)
})

test('where no line is near, nothing is claimed; it can be stopped', async () => {
  const empty = { ...swinging, isGone: () => true, endY: () => 400 }
  const plain: PictureSource = {
    ...sceneOf(empty),
    readRect: async (_frame, rect) => ({ ...createSamples(rect.width, rect.height, 3, 8) }),
  }
  expect(await runCling(request(empty), plain, going)).toMatchObject({
    frames: [],
    ends: [{ reason: 'no-line' }],
  })
  let count = 0
  const stopped = await runCling(request(swinging), sceneOf(swinging), { shouldStop: () => count++ >= 3 })
  expect(stopped.ends).toMatchObject([{ reason: 'stopped' }])
  expect(stopped.frames.map(({ frame }) => frame)).toEqual([9, 10, 11, 12])
})

test('too short a drawing says so', async () => {
  const short = [
    { x: 90, y: 90, widthPx: 10 },
    { x: 90, y: 100, widthPx: 10 },
  ]
  const { frames, ends } = await runCling(request(swinging, { points: short }), sceneOf(swinging), going)
  expect(frames).toEqual([])
  expect(ends).toEqual([{ reason: 'too-short', frame: 9 }])
})

test('beside every line the ground alone is none: the drawing is not bent to it', async () => {
  const ground: PictureSource = {
    plate: SIZE,
    readRect: async (_frame, rect) => {
      const samples = createSamples(rect.width, rect.height, 3, 8)
      let at = 0
      for (let row = rect.row; row < rect.row + rect.height; row++)
        for (let col = rect.col; col < rect.col + rect.width; col++, at += 3)
          samples.data.fill(120 + 25 * grainAt(5, 1, col >> 2, row >> 2, 0), at, at + 3)
      return samples
    },
  }
  expect((await runCling(request(swinging), ground, going)).ends).toMatchObject([{ reason: 'no-line' }])
})

test('a shaded rod is taken from edge to edge, not its highlight', async () => {
  const shaded: PictureSource = {
    plate: SIZE,
    readRect: async (frame, rect) => {
      const samples = createSamples(rect.width, rect.height, 3, 8)
      let at = 0
      for (let row = rect.row; row < rect.row + rect.height; row++)
        for (let col = rect.col; col < rect.col + rect.width; col++) {
          const off = (col + 0.5 - (100 + 3 * (frame - 9))) / 14
          const ground = 110 + 40 * grainAt(3, 1, Math.floor(col / 5), Math.floor(row / 5), 0)
          const rod = 60 + 150 * Math.max(0, 1 - 9 * (off + 0.3) * (off + 0.3))
          const value = (Math.abs(off) < 1 ? rod : ground) + 2 * grainAt(7, frame, col, row, 0)
          for (let c = 0; c < 3; c++) samples.data[at++] = Math.min(255, Math.max(0, Math.round(value)))
        }
      return samples
    },
  }
  const points = [-8, 90, 190].map((y, i) => ({ x: 100 + 3 * (1 - i), y, widthPx: 36 }))
  const { frames } = await runCling(request(swinging, { points, ways: [[10, 11, 12]] }), shaded, going)
  expect(frames).toHaveLength(4)
  for (const { frame, values } of frames) {
    expect(Math.abs(values[12]! - (100 + 3 * (frame - 9)))).toBeLessThan(1)
    expect(Math.abs(values[14]! - 28)).toBeLessThan(2)
  }
})

test('a wire that swings far between frames is found again, and stays itself beside another like it', async () => {
  const x = (i: number) => 60 + 45 * Math.sin(i / 2)
  const swing: LineScene = { ...swinging, x: (y, i) => x(i) + 0.05 * y, endY: () => 400 }
  const other: LineScene = { ...swing, x: (y, i) => swing.x(y, i) + 70 }
  const [one, two] = [sceneOf(swing), sceneOf(other)]
  const both: PictureSource = {
    plate: SIZE,
    readRect: async (frame, rect) => {
      const [a, b] = [await one.readRect(frame, rect), await two.readRect(frame, rect)]
      return { ...a, data: a.data.map((value, at) => Math.min(value, b.data[at]!)) }
    },
  }
  const points = [-8, 120, 268].map((y) => ({ x: swing.x(y, 8) + 3, y, widthPx: 7 }))
  const { frames, ends } = await runCling(request(swing, { points, ways: [[10, 11, 12, 13]] }), both, going)
  expect(ends).toMatchObject([{ reason: 'finished' }])
  for (const { frame, values } of frames)
    expect(Math.abs(values[12]! - swing.x(values[13]!, frame - 1))).toBeLessThan(1.5)
})

test('over time an outlier is pulled to the course of its neighbours, and a parabola stays', () => {
  const course = Array.from({ length: 9 }, (_, i) => ({ frame: i, sure: 1, values: [0.3 * i * i - i + 2] }))
  for (const [i, { values }] of smoothOverTime(course).entries())
    expect(values[0]).toBeCloseTo(course[i]!.values[0]!, 6)
  const bumped = course.map((one, i) => (i === 4 ? { ...one, values: [one.values[0]! + 3] } : one))
  expect(Math.abs(smoothOverTime(bumped)[4]!.values[0]! - course[4]!.values[0]!)).toBeLessThan(0.9)
})

test('followed anew from a frame that was set right, it ends where it comes to the same again', async () => {
  const whole = await runCling(
    request(swinging, {
      ways: [
        [10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20],
        [8, 7, 6],
      ],
    }),
    sceneOf(swinging),
    going,
  )
  // Frames 10 and 11 had strayed to a neighbour.
  const known = whole.frames.map((one) =>
    one.frame === 10 || one.frame === 11
      ? { ...one, values: one.values.map((value, i) => (i % 3 === 0 ? value + 15 : value)) }
      : one,
  )
  const again = await runCling(
    request(swinging, {
      ways: [
        [10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20],
        [8, 7, 6],
      ],
      known,
    }),
    sceneOf(swinging),
    going,
  )
  expect(again.ends).toEqual([
    { reason: 'same', frame: 15 },
    { reason: 'finished', frame: 6 },
  ])
  expect(again.frames.map(({ frame }) => frame)).toEqual([6, 7, 8, 9, 10, 11, 12, 13, 14, 15])
  for (const { frame, values } of again.frames)
    expect(errorsOf(swinging, frame, values).mean).toBeLessThan(0.3)
})
