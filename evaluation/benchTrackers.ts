/**
 *   tracker-ms-per-point   30 points in one 1280 x 720 frame, beside opencv-js on the same points
 *   cling-ms-per-frame     a line of 900 px, 1920 x 1080, one more frame
 */
import { translationBy } from '../core/geometry/transform'
import { cropSamples } from '../core/image/samples'
import { ClingTracker } from '../core/motion/cling/clingTracker'
import { PointTracker } from '../core/motion/pointTracker'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import { openWindow, withResidentWindow } from '../core/motion/window'
import { renderScene } from '../tests/fixtures/movingWall'
import { benchPicture, median, print, round } from './benchTools'
import { loadOpenCv, trackWithOpenCv } from './opencv'

const [width, height] = [1920, 1080]

/** Thirty points of a textured wall that drifts, 1280 x 720, all in one window; the library gets the same points and frames. */
export async function benchTracker(): Promise<void> {
  const size = { width: 1280, height: 720 }
  const frames = [0, 1, 2, 3, 4, 5].map((i) =>
    renderScene({ col: 0, row: 0, ...size }, { frameFromWall: translationBy(1.3 * i, 0.7 * i), seed: i + 1 }),
  )
  const places = Array.from(
    { length: 30 },
    (_, k) => [150.3 + (k % 6) * 180, 100.6 + Math.floor(k / 6) * 120] as const,
  )
  const whole = { col: 0, row: 0, ...size }
  const open = (i: number) => openWindow(frames[i]!, whole, size, DEFAULT_TRACK_SETTINGS, 3)
  const runs: number[] = []
  for (let run = 0; run < 4; run++) {
    const trackers = places.map(([x, y]) => new PointTracker(x, y, DEFAULT_TRACK_SETTINGS))
    const first = open(0)
    for (const tracker of trackers) tracker.begin([first])
    const begun = performance.now()
    for (let i = 1; i < frames.length; i++)
      withResidentWindow(open(i), (window) => trackers.forEach((tracker) => tracker.advance([window])))
    if (run > 0) runs.push((performance.now() - begun) / (places.length * (frames.length - 1)))
  }
  const { cv } = await loadOpenCv()
  const theirs = [0, 1, 2].map(
    () => trackWithOpenCv(cv, frames, places).ms / (places.length * (frames.length - 1)),
  )
  const ours = median(runs)
  print('tracker-ms-per-point', ours, 'ms', {
    points: 30,
    picture: '1280x720',
    with: 'turn, scale, exposure, blur',
  })
  print('opencv-lk-ms-per-point', median(theirs), 'ms', {
    reference: 'opencv-js calcOpticalFlowPyrLK',
    ratio: round(median(theirs) / ours),
  })
}

/** A line of 900 px that sways, 1920 x 1080: what one more frame costs, reading left out. */
export function benchCling(): void {
  const size = { width, height }
  const frameOf = (i: number) => {
    const samples = benchPicture(width, height)
    for (let row = 60; row < 960; row++) {
      const middle = 900 + 0.2 * row + 3 * i
      for (let col = Math.floor(middle - 4); col < middle + 4; col++)
        samples.data.fill(25, (row * width + col) * 3, (row * width + col) * 3 + 3)
    }
    return samples
  }
  const frames = Array.from({ length: 12 }, (_, i) => frameOf(i))
  const tracker = new ClingTracker([{ x: 910, y: 60, widthPx: 10 }, { x: 1090, y: 958, widthPx: 10 }], { searchPx: 8 }) // prettier-ignore
  const times: number[] = []
  frames.forEach((frame, i) => {
    const rect = tracker.window(size)!
    const samples = cropSamples(frame, rect)
    const begun = performance.now()
    if (i === 0) tracker.begin(samples, rect, size)
    else tracker.advance(samples, rect, size)
    if (i > 2) times.push(performance.now() - begun)
  })
  print('cling-ms-per-frame', median(times), 'ms', { picture: `${width}x${height}`, line: '900 px' })
}
