/**
 * What it costs to take a layer off: one frame of 1920 x 1080 whose ground drifts by 1.3 px a frame.
 *
 *   mark-ms, shadow-ms    a frame of a mark of 400x120 px with Unmix, of a shadow of 500x300 px with Lift shadow, everything included
 *   mark-estimate-ms      working out the mark's picture, for each frame that is looked at
 */
import { createSamples, type Samples } from '../core/image/samples'
import { estimateMark } from '../core/mark/estimateMark'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { planFrame } from '../core/plan/planFrame'
import { startingFill, startingFinish } from '../core/document/mend'
import type { MarkPicture } from '../core/image/markPicture'
import { SCENE_FORMAT, SCENE_VERSION, type Scene } from '../core/scene/scene'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { median, print } from './benchTools'

const [width, height] = [1920, 1080]
const [FIRST, COUNT] = [1001, 48]
const DRIFT = { x: 1.3, y: 0.4 }
const RUNS = 8

const scene: Scene = {
  format: SCENE_FORMAT,
  version: SCENE_VERSION,
  plate: { width, height, firstFrame: FIRST, frameCount: COUNT },
  layers: [
    {
      motions: Array.from({ length: COUNT }, (_, i) => [1, 0, DRIFT.x * i, 0, 1, DRIFT.y * i, 0, 0, 1]),
      sure: new Array<number>(COUNT).fill(1),
      points: 100,
      hiddenBy: [],
    },
  ],
  exposureStops: new Array<number>(COUNT).fill(0),
  cells: null,
}

const MARK = { x: 760, y: 480, width: 400, height: 120 }
const STROKE_PX = 9

/** How far the mark covers a place: bars, as letters are. */
const markAt = (col: number, row: number): number => {
  const [x, y] = [col - MARK.x, row - MARK.y]
  if (x < 0 || y < 0 || x >= MARK.width || y >= MARK.height) return 0
  return x % (3 * STROKE_PX) < STROKE_PX || y % 40 < STROKE_PX ? 0.5 : 0
}

const SHADOW = { x: 960, y: 540, radiusX: 250, radiusY: 150, speed: 30 }

/** How much of the light comes through a shadow that passes. */
function lightAt(col: number, row: number, frame: number): number {
  const x = (col - SHADOW.x - SHADOW.speed * (frame - FIRST - COUNT / 2)) / SHADOW.radiusX
  const y = (row - SHADOW.y) / SHADOW.radiusY
  const inside = 1 - Math.sqrt(x * x + y * y)
  return 1 - 0.5 * Math.min(1, Math.max(0, inside * 12))
}

/** Texture that drifts, with grain that does not. */
function groundOn(frame: number): Samples {
  const samples = createSamples(width, height, 3, 8)
  const [toX, toY] = [DRIFT.x * (frame - FIRST), DRIFT.y * (frame - FIRST)]
  let state = frame
  for (let pixel = 0; pixel < width * height; pixel++) {
    const [col, row] = [pixel % width, Math.floor(pixel / width)]
    const ground = 120 + 60 * Math.sin((col - toX) / 9) * Math.cos((row - toY) / 7)
    for (let c = 0; c < 3; c++) {
      state = (Math.imul(state, 1664525) + 1013904223) | 0
      samples.data[3 * pixel + c] = ground + ((state >>> 24) % 8)
    }
  }
  return samples
}

function clipOf(change: (value: number, col: number, row: number, frame: number) => number) {
  return sourceOfSamples((frame) => {
    const samples = groundOn(frame)
    for (let i = 0; i < samples.data.length; i++) {
      const pixel = Math.floor(i / 3)
      samples.data[i] = change(samples.data[i]!, pixel % width, Math.floor(pixel / width), frame)
    }
    return samples
  })
}

const markPicture: MarkPicture = {
  width: MARK.width,
  height: MARK.height,
  channels: 3,
  opacity: Float32Array.from({ length: MARK.width * MARK.height }, (_, at) =>
    markAt(MARK.x + (at % MARK.width), MARK.y + Math.floor(at / MARK.width)),
  ),
  added: Float32Array.from(
    { length: 3 * MARK.width * MARK.height },
    (_, i) =>
      0.9 * markAt(MARK.x + (Math.floor(i / 3) % MARK.width), MARK.y + Math.floor(i / 3 / MARK.width)),
  ),
}

const range = { firstFrame: FIRST, lastFrame: FIRST + COUNT - 1 }

const markMend = () =>
  sampleMend({
    kind: 'mark',
    areas: [
      {
        id: 'a',
        shape: 'box',
        role: 'cover',
        interpolation: 'linear',
        follow: null,
        keys: [
          {
            frame: FIRST,
            x: MARK.x + MARK.width / 2,
            y: MARK.y + MARK.height / 2,
            widthPx: MARK.width,
            heightPx: MARK.height,
            turnDeg: 0,
            cornerPx: 0,
          },
        ],
      },
    ],
    fill: {
      ...startingFill('mark'),
      methodId: 'unmix',
      methodVersion: 1,
      params: {
        mark: 'mark:bench',
        on: FIRST,
        leftPx: MARK.x,
        topPx: MARK.y,
        opacity: 1,
        dense: 0.9,
        fillFrom: 'near',
        unseen: 'near',
      },
    },
    finish: startingFinish('mark'),
    span: range,
  })

const shadowMend = () =>
  sampleMend({
    kind: 'shadow',
    areas: [
      sampleEllipse({
        interpolation: 'linear',
        keys: [0, COUNT - 1].map((i) => ({
          frame: FIRST + i,
          x: SHADOW.x + SHADOW.speed * (i - COUNT / 2),
          y: SHADOW.y,
          radiusXPx: SHADOW.radiusX,
          radiusYPx: SHADOW.radiusY,
          turnDeg: 0,
        })),
      }),
    ],
    fill: startingFill('shadow'),
    finish: startingFinish('shadow'),
    span: range,
  })

async function frameMs(
  clip: ReturnType<typeof clipOf>,
  mend: ReturnType<typeof sampleMend>,
): Promise<number> {
  const document = documentOf([mend], new Map(), range, scene)
  // Frames are painted when they are first read: not now.
  for (let i = 0; i < COUNT; i++) await clip.readRect(FIRST + i, { col: 0, row: 0, width: 1, height: 1 })
  const times: number[] = []
  for (let i = 0; i < RUNS; i++) {
    const plan = planFrame(document, FIRST + COUNT / 2 - 4 + i)
    const begun = performance.now()
    await evaluateFrame(plan, clip, NEVER_STOPS)
    times.push(performance.now() - begun)
  }
  return median(times.slice(3))
}

export async function benchMarks(): Promise<void> {
  const marked = clipOf((value, col, row) => {
    const opacity = markAt(col, row)
    return (1 - opacity) * value + opacity * 230
  })
  const markClip = { ...marked, readMark: async () => markPicture }
  print('mark-ms', await frameMs(markClip, markMend()), 'ms', {
    picture: `${width}x${height}`,
    area: '400x120 px',
  })
  let looks = 0
  const begun = performance.now()
  const { x, y, width: w, height: h } = MARK
  await estimateMark(
    {
      clip: marked,
      scene,
      frames: range,
      placeOn: (frame) => ({ frame, dx: 0, dy: 0 }),
      outlines: [[x, y, x + w, y, x + w, y + h, x, y + h]],
      places: Array.from({ length: COUNT }, (_, i) => ({ frame: FIRST + i, dx: 0, dy: 0 })),
    },
    { ...NEVER_STOPS, onProgress: () => looks++ },
  )
  print('mark-estimate-ms', (performance.now() - begun) / looks, 'ms', { area: '400x120 px', looks })
}

export async function benchShadows(): Promise<void> {
  const shaded = clipOf((value, col, row, frame) => value * lightAt(col, row, frame))
  print('shadow-ms', await frameMs(shaded, shadowMend()), 'ms', {
    picture: `${width}x${height}`,
    area: '500x300 px',
  })
}
