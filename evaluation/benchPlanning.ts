/**
 * Planning of one 4K frame, nothing read: what the interface asks for every frame after every edit.
 *
 *   plan-ms       100 mends of an ellipse each, every one with a clean plate from 48 frames; with its name
 *   pixels-ms     1000 bad pixels in one mend, filled from nearby, planned and mended
 */
import type { Area } from '../core/document/areas'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { frameKey } from '../core/plan/keys'
import { planFrame } from '../core/plan/planFrame'
import type { ShotDocument } from '../core/plan/shotDocument'
import { readyDigests } from '../core/shot/digest'
import { fillOf, sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { benchPicture, print, timed } from './benchTools'

const SIZE = { width: 3840, height: 2160 }
const RANGE = { firstFrame: 1001, lastFrame: 1048 }

const shotOf = (mends: readonly Mend[]): ShotDocument => ({
  mends,
  tracks: new Map(),
  plate: { ...RANGE, ...SIZE },
  scene: null,
})

function manyMends(count: number): Mend[] {
  return Array.from({ length: count }, (_, i) => {
    const [x, y] = [200 + (i % 10) * 360, 150 + Math.floor(i / 10) * 200]
    const keys = [RANGE.firstFrame, RANGE.lastFrame].map((frame) => ({
      frame,
      x: x + (frame - RANGE.firstFrame),
      y,
      radiusXPx: 40,
      radiusYPx: 30,
      turnDeg: 0,
    }))
    const [fill, finish] = [startingFill('object'), startingFinish('object')]
    return sampleMend({ id: `m${i}`, areas: [sampleEllipse({ keys })], fill, finish })
  })
}

function badPixels(count: number): Mend {
  const areas = Array.from({ length: count }, (_, i): Area => {
    const place = Math.imul(i + 1, 2654435761) >>> 0
    return {
      shape: 'box',
      id: `p${i}`,
      role: 'cover',
      interpolation: 'smooth',
      follow: null,
      keys: [
        {
          frame: RANGE.firstFrame,
          x: 10.5 + (place % (SIZE.width - 20)),
          y: 10.5 + ((place >>> 12) % (SIZE.height - 20)),
          widthPx: 3,
          heightPx: 3,
          turnDeg: 0,
          cornerPx: 0,
        },
      ],
    }
  })
  return sampleMend({
    id: 'pixels',
    kind: 'pixel',
    areas,
    fill: fillOf('near'),
    finish: startingFinish('pixel'),
  })
}

export async function benchPlanning(): Promise<void> {
  await readyDigests()
  const mends = manyMends(100)
  let frame = RANGE.firstFrame
  const what = { mends: 100, picture: '3840x2160', gathers: '47 frames each' }
  // After an edit: the first frame of a shot that has changed.
  print('plan-ms', await timed(15, () => frameKey(planFrame(shotOf(mends), ++frame))), 'ms', {
    ...what,
    case: 'after an edit',
  })
  const shot = shotOf(mends)
  frame = RANGE.firstFrame
  print('plan-ms', await timed(25, () => frameKey(planFrame(shot, ++frame))), 'ms', {
    ...what,
    case: 'next frame',
  })
  const plate = sourceOfSamples(benchPicture(SIZE.width, SIZE.height))
  const pixels = badPixels(1000)
  frame = RANGE.firstFrame
  const mending = await timed(5, () =>
    evaluateFrame(planFrame(shotOf([pixels]), ++frame), plate, NEVER_STOPS),
  )
  print('pixels-ms', mending, 'ms', { pixels: 1000, picture: '3840x2160' })
}
