/**
 * `npm run bench`: one JSON line for each figure. Nothing else should run meanwhile.
 *
 *   preview-ms        Across on a 1200 px long, 12 px wide path, 1920 x 1080, median in Node, same core code
 *   telea-ms          opencv-js Telea on the same matte in the same run
 *   tracker-ms-per-point   30 points in one 1280 x 720 frame, beside opencv-js on the same points
 *   cling-ms-per-frame     a line of 900 px, 1920 x 1080, one more frame
 *   gather-ms, gather-peak-mb   a clean plate from 16 frames: see benchGather.ts
 *   survey-ms-per-frame, survey-peak-mb   looking through a clip of 1280 x 720: see benchSurvey.ts
 *   fill-ms, fill-kernel-ms   each fill on a disc of 200 px, 1920 x 1080, beside opencv-js: see benchFills.ts
 *   render-fps        1280 x 720, decode and encode included, through the command line's own code
 *   start-ms          `npm start` to healthy on a warm machine (only with --start; it needs a free port)
 */
import { documentOf } from '../tests/fixtures/sampleDocument'
import { execFileSync, spawn } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createPathCurve } from '../core/geometry/pathCurve'
import { warpProjective } from '../core/image/sample'
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import { createRaster } from '../core/image/raster'
import { cropSamples } from '../core/image/samples'
import { measurePathField } from '../core/matte/pathField'
import { outerPxOf } from '../core/matte/edge'
import { renderPathCoverage } from '../core/matte/pathMatte'
import { serialiseDocument } from '../core/document/document'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import type { Clip } from '../core/shot/clip'
import { planFrame } from '../core/plan/planFrame'
import { ALL_FRAMES } from '../tests/fixtures/sampleDocument'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { samplePath, sampleMend } from '../tests/fixtures/sampleMend'
import { DEFAULT_FINISH, type Mend } from '../core/document/mend'
import { createCache } from '../workers/cache'
import { mendFootage } from '../cli/mend'
import { encodeFrames } from '../server/media/encode.server'
import { translationBy } from '../core/geometry/transform'
import { ClingTracker } from '../core/motion/cling/clingTracker'
import { PointTracker } from '../core/motion/pointTracker'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import { openWindow, withResidentWindow } from '../core/motion/window'
import { benchFills } from './benchFills'
import { benchGather } from './benchGather'
import { benchSurvey } from './benchSurvey'
import { benchPicture, median, print, round, timed } from './benchTools'
import { renderScene } from '../tests/fixtures/movingWall'
import { inpaint, loadOpenCv, trackWithOpenCv } from './opencv'

const [width, height] = [1920, 1080]

const NO_TRACKS = new Map<string, never>()
const mendPieces = (source: Clip, mends: readonly Mend[], frame = 1001) =>
  evaluateFrame(planFrame(documentOf(mends, NO_TRACKS, ALL_FRAMES), frame), source, NEVER_STOPS)

async function benchPreview(): Promise<void> {
  const plate = benchPicture(width, height)
  // 1200 px long, leaning as wires do.
  const points = [
    { x: 400, y: 200, widthPx: 12 },
    { x: 400 + 1128, y: 200 + 409, widthPx: 12 },
  ]
  const mend = sampleMend({ areas: [samplePath({ keys: [{ frame: 1001, points }] })] })
  const source = sourceOfSamples(plate, { cache: createCache() })
  const ours = await timed(25, () => mendPieces(source, [mend]))

  const hole = new Uint8Array(width * height)
  const field = measurePathField(
    createPathCurve(points),
    { col: 0, row: 0, width, height },
    outerPxOf(DEFAULT_FINISH),
  )
  renderPathCoverage(field, DEFAULT_FINISH).forEach(
    (value, i) => (hole[field.pixels[i]!] = value > 0 ? 255 : 0),
  )
  const { cv } = await loadOpenCv()
  const telea = await timed(5, () => inpaint(cv, plate.data as Uint8Array, width, height, hole, 'telea'))
  print('preview-ms', ours, 'ms', { picture: `${width}x${height}`, path: '1200 x 12 px' })
  print('telea-ms', telea, 'ms', { reference: 'opencv-js', ratio: round(telea / ours) })
}

async function benchKernels(): Promise<void> {
  const raster = createRaster(width, height, 3)
  raster.data.forEach((_, i) => (raster.data[i] = (i % 251) / 250))
  const taps = gaussianTaps(2)
  const megapixels = (width * height) / 1e6
  print(
    'convolve-13-taps',
    megapixels / ((await timed(5, () => convolveSeparable(raster, taps, taps))) / 1000),
    'Mpx/s',
    { channels: 3 },
  )
  for (const interpolation of ['bilinear', 'bicubic'] as const) {
    const ms = await timed(5, () =>
      warpProjective(raster, [1, 0.01, 0.3, -0.01, 1, 0.4, 0, 0, 1], raster, interpolation),
    )
    print(`warp-${interpolation}`, megapixels / (ms / 1000), 'Mpx/s', { channels: 3 })
  }
}

/** Thirty points of a textured wall that drifts, 1280 x 720, all in one window; the library gets the same points and frames. */
async function benchTracker(): Promise<void> {
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
async function benchCling(): Promise<void> {
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

async function benchRender(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'bench-'))
  try {
    const [w, h, frames] = [1280, 720, 48]
    const sink = encodeFrames({
      format: 'ffv1',
      path: join(folder, 'plate.mkv'),
      startNumber: 0,
      width: w,
      height: h,
      channels: 3,
      bitDepth: 8,
      frameRate: { num: 24, den: 1 },
    })
    const plate = benchPicture(w, h)
    for (let i = 0; i < frames; i++) await sink.write(plate)
    await sink.finish()
    const wire = (id: string, x: number) =>
      sampleMend({ id, areas: [samplePath({ keys: [{ frame: 1001, points: [{ x, y: -10, widthPx: 6 }, { x: x - 60, y: 400, widthPx: 6 }] }] })] }) // prettier-ignore
    const document = {
      format: 'fillagrant-mends' as const,
      version: 4 as const,
      plate: {
        name: 'bench',
        width: w,
        height: h,
        firstFrame: 1001,
        frameCount: frames,
        frameRate: { num: 24, den: 1 },
      },
      mends: [wire('a', 500), wire('b', 760)],
      tracks: [],
    }
    writeFileSync(join(folder, 'mends.json'), serialiseDocument(document))
    for (const out of ['out.%04d.png', 'out.mkv']) {
      const { framesPerSecond } = await mendFootage(
        {
          plate: join(folder, 'plate.mkv'),
          mends: join(folder, 'mends.json'),
          out: join(folder, out),
          rate: '',
        },
        () => undefined,
        new AbortController().signal,
      )
      print('render-fps', framesPerSecond, 'fps', {
        picture: '1280x720',
        mends: 2,
        out: out.endsWith('png') ? 'PNG' : 'FFV1',
      })
    }
  } finally {
    rmSync(folder, { recursive: true })
  }
}

/** From `npm start` to its word that it is healthy. The machine is warm: a first start has gone before. */
async function benchStart(): Promise<void> {
  const env = { ...process.env, FILLAGRANT_PORT: '4397' }
  const child = spawn('npm', ['start'], { env, detached: true, stdio: ['ignore', 'pipe', 'ignore'] })
  const begun = performance.now()
  for await (const chunk of child.stdout) if (String(chunk).includes('http://')) break
  print('start-ms', performance.now() - begun, 'ms')
  process.kill(-child.pid!, 'SIGINT')
  await new Promise((resolve) => child.once('exit', resolve))
}

await benchPreview()
await benchFills()
await benchGather()
benchSurvey()
await benchKernels()
await benchTracker()
await benchCling()
await benchRender()
if (process.argv.includes('--start')) await benchStart()
print('node', Number(process.versions.node.split('.')[0]), 'major', {
  cores: execFileSync('nproc', { encoding: 'utf8' }).trim(),
})
