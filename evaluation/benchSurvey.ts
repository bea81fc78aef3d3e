/**
 * What a survey costs: frames of 1280 x 720 that pan by 8 px, all detectors, on one thread; reading and decoding not included.
 *
 *   survey-ms-per-frame   mean over the clip; with its end too
 *   survey-peak-mb        resident memory that the survey adds, for 24 and for 96 frames
 */
import { createSurvey } from '../core/survey/survey'
import { clipFrame, noiseOf, paintDiscs } from '../tests/fixtures/sampleClip'
import { createRandom } from '../tests/random'
import { print, round } from './benchTools'

const SHAPE = { width: 1280, height: 720, channels: 3 }
/** A frame at 24 a second. */
const REAL_TIME_MS = 1000 / 24

export function benchSurvey(): void {
  const random = createRandom(3)
  const painting = paintDiscs(SHAPE.width + 420, SHAPE.height + 20, 5000, random)
  const noise = noiseOf(random)
  // Few frames are kept: the clip goes over them to and fro.
  const frames = Array.from({ length: 24 }, (_, i) =>
    clipFrame(painting, noise, {
      width: SHAPE.width,
      height: SHAPE.height,
      x: 4 + 8 * i,
      row: 8,
      grain: 1.7,
      noiseFrom: 7919 * i,
    }),
  )
  for (const count of [24, 96]) {
    const before = process.memoryUsage().rss
    const begun = performance.now()
    const survey = createSurvey(SHAPE, 1001)
    let busyMs = 0
    let peak = before
    for (let i = 0; i < count; i++) {
      const at = i % 46
      const frameBegun = performance.now()
      survey.add(frames[at < 24 ? at : 46 - at]!)
      busyMs += performance.now() - frameBegun
      peak = Math.max(peak, process.memoryUsage().rss)
    }
    survey.finish()
    const withEnd = round((performance.now() - begun) / count)
    print('survey-ms-per-frame', round(busyMs / count), 'ms', {
      frames: count,
      withEnd,
      realTime: round(REAL_TIME_MS),
    })
    print('survey-peak-mb', Math.round((peak - before) / 2 ** 20), 'MB', { frames: count })
  }
}
