/**
 * Trackers against exact truth, beside opencv-js on the same points: `node --import tsx evaluation/trackers.ts`.
 * One JSON line for each motion.
 */
import { apply, compose, similarity, translationBy, type Matrix3 } from '../core/geometry/transform'
import { renderScene, type SceneFrame } from '../tests/fixtures/movingWall'
import { PointTracker } from '../core/motion/pointTracker'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import { openWindow } from '../core/motion/window'
import { cropSamples, type Samples } from '../core/image/samples'
import { loadOpenCv, trackWithOpenCv } from './opencv'

const [WIDTH, HEIGHT, FRAMES] = [320, 240, 30]
const about = (m: Matrix3) =>
  compose(translationBy(WIDTH / 2, HEIGHT / 2), compose(m, translationBy(-WIDTH / 2, -HEIGHT / 2)))
const motions: Readonly<Record<string, (i: number) => SceneFrame>> = {
  translation: (i) => ({ frameFromWall: translationBy(1.37 * i, 8 * Math.sin(i / 6)) }),
  'rotation and scale': (i) => ({ frameFromWall: about(similarity(1 + 0.008 * i, 0.012 * i, 0.5 * i, 0)) }),
  perspective: (i) => ({
    frameFromWall: about([
      1 + 0.003 * i,
      0.002 * i,
      0.6 * i,
      -0.001 * i,
      1 - 0.002 * i,
      0.3 * i,
      0.000012 * i,
      -0.000008 * i,
      1,
    ]),
  }),
  'exposure, one stop': (i) => ({
    frameFromWall: translationBy(0.8 * i, 0.3 * i),
    gain: Math.pow(2, -i / 29),
  }),
  blur: (i) => ({
    frameFromWall: translationBy(0.8 * i, -0.3 * i),
    blurPx: 2.5 * Math.sin((Math.PI * i) / 29),
  }),
}
const places: [number, number][] = []
for (let y = 50; y <= 190; y += 35) for (let x = 60; x <= 220; x += 32) places.push([x + 0.3, y + 0.6])

const { cv } = await loadOpenCv()
const measure = (errors: number[]) => {
  const sorted = [...errors].sort((a, b) => a - b)
  const round = (value: number) => Math.round(value * 1000) / 1000
  return {
    mean: round(errors.reduce((a, b) => a + b, 0) / errors.length),
    p95: round(sorted[Math.floor(sorted.length * 0.95)]!),
    worst: round(sorted.at(-1)!),
    count: errors.length,
  }
}
for (const [name, at] of Object.entries(motions)) {
  const frames: Samples[] = Array.from({ length: FRAMES }, (_, i) =>
    renderScene({ col: 0, row: 0, width: WIDTH, height: HEIGHT }, { ...at(i), seed: i + 1 }),
  )
  const errors: number[] = []
  let lost = 0
  let [begun, steps] = [0, 0]
  for (const [x, y] of places) {
    const tracker = new PointTracker(x, y, DEFAULT_TRACK_SETTINGS)
    const open = (i: number) =>
      tracker
        .windows({ width: WIDTH, height: HEIGHT })
        .map((rect) =>
          openWindow(
            cropSamples(frames[i]!, rect),
            rect,
            { width: WIDTH, height: HEIGHT },
            DEFAULT_TRACK_SETTINGS,
            tracker.levels,
          ),
        )
    const start = performance.now()
    if (!tracker.begin(open(0))) continue
    for (let i = 1; i < FRAMES; i++) {
      const seen = tracker.advance(open(i))
      steps++
      const truth = apply(at(i).frameFromWall, x, y)
      if (seen.state !== 'held') {
        if (truth.x > 12 && truth.y > 12 && truth.x < WIDTH - 12 && truth.y < HEIGHT - 12) lost++
        if (seen.state !== 'covered') break
        continue
      }
      errors.push(Math.hypot(seen.values[0]! - truth.x, seen.values[1]! - truth.y))
    }
    begun += performance.now() - start
  }
  const reference = trackWithOpenCv(cv, frames, places)
  const theirs: number[] = []
  for (let i = 1; i < FRAMES; i++)
    places.forEach(([x, y], k) => {
      const truth = apply(at(i).frameFromWall, x, y)
      const got = reference.positions[i]![k]!
      if (got && truth.x > 12 && truth.y > 12 && truth.x < WIDTH - 12 && truth.y < HEIGHT - 12)
        theirs.push(Math.hypot(got[0] - truth.x, got[1] - truth.y))
    })
  console.log(
    JSON.stringify({
      figure: 'point-error-px',
      motion: name,
      ours: measure(errors),
      lost,
      opencv: measure(theirs),
      oursMs: +(begun / steps).toFixed(3),
      opencvMs: +(reference.ms / (places.length * (FRAMES - 1))).toFixed(3),
    }),
  )
}
