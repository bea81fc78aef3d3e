/**
 * What a clean plate costs: one frame of 1920 x 1080, an ellipse of 200 x 300 px, 16 frames to gather from, each drifted by a
 * fraction of a pixel. And the most memory that a process takes for the same on a clip of 100 and of 1000 frames.
 *
 *   gather-ms        everything included: reading, registering, relighting, joining, tidy outline off, finish, measures
 *   gather-peak-mb   resident memory of a process of its own at its highest
 */
import { documentOf } from '../tests/fixtures/sampleDocument'
import { execFileSync } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { planFrame } from '../core/plan/planFrame'
import { fillOf, sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { SCENE_FORMAT, SCENE_VERSION, type Scene } from '../core/scene/scene'
import { benchPicture, median, print } from './benchTools'

const [width, height] = [1920, 1080]
const FIRST = 1001

/** A background that drifts by 1.3 px a frame; what the plate shows does not have to, for what it costs. */
const driftingScene = (frameCount: number): Scene => ({
  format: SCENE_FORMAT,
  version: SCENE_VERSION,
  plate: { width, height, firstFrame: FIRST, frameCount },
  layers: [
    {
      motions: Array.from({ length: frameCount }, (_, i) => [1, 0, 1.3 * i, 0, 1, 0.4 * i, 0, 0, 1]),
      sure: new Array<number>(frameCount).fill(1),
      points: 100,
      hiddenBy: [],
    },
  ],
  exposureStops: new Array<number>(frameCount).fill(0),
  cells: null,
})

const passing = (frameCount: number) => {
  const fill = fillOf('clean-plate')
  const span = { firstFrame: FIRST, lastFrame: FIRST + frameCount - 1 }
  return sampleMend({
    areas: [
      sampleEllipse({
        interpolation: 'linear',
        keys: [0, frameCount - 1].map((i) => ({
          frame: FIRST + i,
          x: 900 + 14 * (i - frameCount / 2),
          y: 520,
          radiusXPx: 100,
          radiusYPx: 150,
          turnDeg: 0,
        })),
      }),
    ],
    fill: { ...fill, params: { ...fill.params, before: 16, after: 16, every: 2 } },
    span,
  })
}

async function gatherFrames(frameCount: number, frames: number): Promise<number[]> {
  const plates = [7, 19, 31].map((seed) => benchPicture(width, height, seed))
  const source = sourceOfSamples((frame) => plates[frame % plates.length]!)
  const [mend, scene] = [passing(frameCount), driftingScene(frameCount)]
  const plate = { firstFrame: FIRST, lastFrame: FIRST + frameCount - 1 }
  const times: number[] = []
  for (let i = 0; i < frames; i++) {
    const begun = performance.now()
    await evaluateFrame(
      planFrame(documentOf([mend], new Map(), plate, scene), FIRST + (frameCount >> 1) + (i % 3)),
      source,
      NEVER_STOPS,
    )
    times.push(performance.now() - begun)
  }
  return times
}

export async function benchGather(): Promise<void> {
  const times = await gatherFrames(100, 8)
  print('gather-ms', median(times.slice(3)), 'ms', {
    picture: `${width}x${height}`,
    area: '200x300 px',
    frames: 16,
  })
  for (const frameCount of [100, 1000]) {
    const out = execFileSync(
      process.execPath,
      ['--import', 'tsx', fileURLToPath(import.meta.url), String(frameCount)],
      { encoding: 'utf8' },
    )
    print('gather-peak-mb', Number(out), 'MB', { clipFrames: frameCount })
  }
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  await gatherFrames(Number(process.argv[2]), 12)
  console.log(process.resourceUsage().maxRSS / 1024)
}
