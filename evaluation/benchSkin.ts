/**
 * A face of 500 x 600 px in a picture of 1280 x 720, median in Node on one core.
 *
 *   even-skin-ms   one more frame of a skin mend, everything included, with the tone learnt before; beside it what opencv-js takes for
 *                  bilateralFilter, d = 9, on the face's bounding box
 */
import { documentOf } from '../tests/fixtures/sampleDocument'
import { sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { paintedFace, FACE } from '../tests/fixtures/paintedFace'
import { startingFill, startingFinish } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import type { Samples } from '../core/image/samples'
import { planFrame } from '../core/plan/planFrame'
import { createCache } from '../workers/cache'
import { median, print, round, timed } from './benchTools'
import { loadOpenCv } from './opencv'

const [WIDTH, HEIGHT] = [1280, 720]
const [FACE_WIDTH, FACE_HEIGHT] = [500, 600]
const FRAMES = 12

/** The made-up face, as large as the mend, over grey. */
function plate(seed: number): Samples {
  const face = paintedFace([62, 11, 18], [1, 1, 1], { blotches: 0.02 })
  const data = new Uint8Array(3 * WIDTH * HEIGHT).fill(120)
  const [left, top] = [(WIDTH - FACE_WIDTH) / 2, (HEIGHT - FACE_HEIGHT) / 2]
  for (let y = 0; y < FACE_HEIGHT; y++) {
    for (let x = 0; x < FACE_WIDTH; x++) {
      const col = Math.round(FACE.x + ((x / FACE_WIDTH - 0.5) * 2 * FACE.radiusX) / 0.9)
      const row = Math.round(FACE.y + ((y / FACE_HEIGHT - 0.5) * 2 * FACE.radiusY) / 0.9)
      for (let c = 0; c < 3; c++)
        data[3 * ((top + y) * WIDTH + left + x) + c] =
          255 * face.data[3 * (row * FACE.width + col) + c]! + ((x * 7 + y * 13 + c + seed) % 5)
    }
  }
  return { width: WIDTH, height: HEIGHT, channels: 3, data }
}

export async function benchSkin(): Promise<void> {
  const plates = [1, 2, 3, 4].map(plate)
  const mend = sampleMend({
    id: 'skin',
    areas: [
      sampleEllipse({
        keys: [{ frame: 1001, x: WIDTH / 2, y: HEIGHT / 2, radiusXPx: FACE_WIDTH / 2, radiusYPx: FACE_HEIGHT / 2, turnDeg: 0 }], // prettier-ignore
      }),
    ],
    fill: startingFill('skin'),
    finish: startingFinish('skin'),
  })
  const range = { firstFrame: 1001, lastFrame: 1001 + FRAMES, width: WIDTH, height: HEIGHT }
  const document = documentOf([mend], new Map(), range)
  const source = sourceOfSamples((frame) => plates[frame % plates.length]!, { cache: createCache() })
  const times: number[] = []
  for (let i = 0; i < FRAMES; i++) {
    const begun = performance.now()
    await evaluateFrame(planFrame(document, 1001 + i), source, NEVER_STOPS)
    times.push(performance.now() - begun)
  }
  const ms = median(times.slice(3))
  const { cv } = await loadOpenCv()
  const box = new Uint8Array(3 * FACE_WIDTH * FACE_HEIGHT)
  const { col, row } = { col: (WIDTH - FACE_WIDTH) / 2, row: (HEIGHT - FACE_HEIGHT) / 2 }
  for (let y = 0; y < FACE_HEIGHT; y++) {
    const begin = 3 * ((row + y) * WIDTH + col)
    box.set(plates[0]!.data.subarray(begin, begin + 3 * FACE_WIDTH), 3 * y * FACE_WIDTH)
  }
  const [from, to] = [cv.matFromArray(FACE_HEIGHT, FACE_WIDTH, cv.CV_8UC3, box), new cv.Mat()]
  const theirs = await timed(5, () => cv.bilateralFilter(from, to, 9, 40, 40))
  from.delete()
  to.delete()
  print('even-skin-ms', ms, 'ms', { bilateralMs: round(theirs), ratio: round(ms / theirs) })
}
