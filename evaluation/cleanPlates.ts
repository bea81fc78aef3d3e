/**
 * Clean plates on LM_070 and LM_080 against the truth without grain, as JSON lines: exact mattes, rough outlines, a plain
 * temporal median, and a median over one homography (fitted by an independent library).
 *
 *   node --import tsx evaluation/cleanPlates.ts [folder of the demo film] [every n-th frame]
 */
import type { OutlineKey } from '../core/document/areas'
import { fillOf } from '../tests/fixtures/sampleMend'
import { DEFAULT_FINISH, type Mend } from '../core/document/mend'
import { masksOf } from '../core/evaluate/masks'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { flickerBetween } from '../core/measure/areaMeasures'
import type { MendMeasure } from '../core/measure/mendMeasure'
import { analyseScene } from '../core/scene/analyseScene'
import type { Scene } from '../core/scene/scene'
import { momentAt as stagehandAt } from '../demo/lm070/scene'
import { momentAt as bollardAt } from '../demo/lm080/scene'
import { openShot, type OpenShot } from './film'
import { loadOpenCv } from './opencv'
import { homographyMedian, temporalMedian } from './plainMedians'

const GRAIN_DEVIATION = 2 // of both shots, in code values
const LIMIT_DB = Math.round(2000 * Math.log10(255 / GRAIN_DEVIATION)) / 100
const every = Number(process.argv[3] ?? 6)
const { cv } = await loadOpenCv()
const SHOTS = [
  ['LM_070', (frame: number) => stagehandAt(frame).figure.outline],
  ['LM_080', (frame: number) => bollardAt(frame).bollard.outline],
] as const

function objectMend(
  shot: OpenShot,
  area: { shape: 'matte' } | { shape: 'outline'; keys: OutlineKey[] },
  tidyPx = 0,
): Mend {
  const fill = fillOf('clean-plate')
  return {
    id: 'thing',
    kind: 'object',
    name: 'Thing',
    isOn: true,
    areas: [
      area.shape === 'matte'
        ? {
            id: 'a',
            role: 'cover',
            shape: 'matte',
            interpolation: 'linear',
            follow: null,
            pattern: 'exact',
            keys: [],
          }
        : {
            id: 'a',
            role: 'cover',
            shape: 'outline',
            interpolation: 'smooth',
            follow: null,
            keys: area.keys,
          },
    ],
    fill: { ...fill, params: { ...fill.params, tidyPx } },
    source: null,
    finish: { ...DEFAULT_FINISH, featherOutPx: tidyPx > 0 ? 3 : 1.5, growPx: 1 },
    span: shot.span,
  }
}

function roughKeys({ span }: OpenShot, outlineAt: (frame: number) => readonly number[]): OutlineKey[] {
  const frames: number[] = []
  for (let frame = span.firstFrame; frame < span.lastFrame; frame += 12) frames.push(frame)
  return [...frames, span.lastFrame].map((frame) => {
    const outline = outlineAt(frame)
    const count = outline.length / 2
    const middle = [0, 1].map(
      (axis) => outline.filter((_, i) => i % 2 === axis).reduce((sum, one) => sum + one, 0) / count,
    ) as [number, number]
    return {
      frame,
      points: Array.from({ length: count }, (_, i) => {
        const [dx, dy] = [outline[2 * i]! - middle[0], outline[2 * i + 1]! - middle[1]]
        const length = Math.hypot(dx, dy)
        return {
          x: outline[2 * i]! + (10 * dx) / length,
          y: outline[2 * i + 1]! + (10 * dy) / length,
          inX: 0,
          inY: 0,
          outX: 0,
          outY: 0,
        }
      }),
    }
  })
}

/** Squared errors inside the trouble: all of it, and where some frame was said to have seen it. */
class Errors {
  all = { sum: 0, count: 0 }
  seen = { sum: 0, count: 0 }

  async add(
    shot: OpenShot,
    frame: number,
    data: ArrayLike<number>,
    isSeen: (pixel: number) => boolean,
  ): Promise<void> {
    const [truth, matte] = [(await shot.read('truth-without-grain', frame)).data, await shot.readMatte(frame)]
    for (let pixel = 0; pixel < matte.length; pixel++) {
      if (matte[pixel] === 0) continue
      for (let at = 3 * pixel; at < 3 * pixel + 3; at++) {
        const squared = (data[at]! - truth[at]!) * (data[at]! - truth[at]!)
        for (const one of isSeen(pixel) ? [this.all, this.seen] : [this.all]) {
          one.sum += squared
          one.count++
        }
      }
    }
  }

  /** Of values without grain, where they are known; grain put back would add its variance. */
  async addSeen(shot: OpenShot, frame: number, values: Float32Array): Promise<void> {
    const truth = (await shot.read('truth-without-grain', frame)).data
    for (let at = 0; at < values.length; at++) {
      if (Number.isNaN(values[at]!)) continue
      this.seen.sum +=
        (values[at]! - truth[at]!) * (values[at]! - truth[at]!) + GRAIN_DEVIATION * GRAIN_DEVIATION
      this.seen.count++
    }
  }

  get psnr() {
    const db = ({ sum, count }: { sum: number; count: number }) =>
      Math.round(1000 * Math.log10((255 * 255 * count) / sum)) / 100
    return { allDb: db(this.all), seenDb: db(this.seen) }
  }
}

async function report(shotName: string, method: string, shot: OpenShot, mend: Mend): Promise<void> {
  const { firstFrame, lastFrame } = shot.span
  const maskAt = masksOf(documentOf([mend]), shot.source)
  const scene = (await analyseScene({ range: shot.span, maskAt }, shot.source, {
    shouldStop: () => false,
  })) as Scene
  const errors = new Errors()
  let [seenShare, ghostShare, count] = [0, 0, 0]
  const flickers: number[] = []
  for (let frame = firstFrame; frame <= lastFrame; frame += every) {
    const matte = await shot.readMatte(frame)
    if (!matte.some((one) => one > 0)) continue
    const { finished, seenMaps, measures } = await shot.mend([mend], frame, [], scene)
    const map = seenMaps[0]
    if (!map) continue
    const { rect, seen } = map
    await errors.add(shot, frame, finished.data, (pixel) => {
      const [col, row] = [
        (pixel % shot.description.width) - rect.col,
        Math.floor(pixel / shot.description.width) - rect.row,
      ]
      return seen[row * rect.width + col]! > 0
    })
    const { gathered } = measures[0]!
    seenShare += gathered!.seenShare
    ghostShare += gathered!.ghostShare
    count++
    const next = frame < lastFrame ? (await shot.mend([mend], frame + 1, [], scene)).measures : []
    flickers.push(...flickerOf(measures, next))
  }
  print({
    shot: shotName,
    method,
    ...errors.psnr,
    limitDb: LIMIT_DB,
    seenShare: round(seenShare / count),
    ghostShare: round(ghostShare / count, 4),
    flicker: round(flickers.sort((a, b) => a - b)[flickers.length >> 1] ?? NaN),
    layers: scene.layers.length,
  })
}

const flickerOf = (a: readonly MendMeasure[], b: readonly MendMeasure[]): number[] => {
  const [one, other] = [a[0]?.cells, b[0]?.cells]
  const flicker = one && other ? flickerBetween(one, other) : null
  return flicker ? [flicker.ratio] : []
}

async function reportPlain(
  shotName: string,
  method: string,
  shot: OpenShot,
  at: (frame: number) => Promise<Float32Array>,
): Promise<void> {
  const { firstFrame, lastFrame } = shot.span
  const errors = new Errors()
  for (let frame = firstFrame; frame <= lastFrame; frame += every) {
    const values = await at(frame)
    await errors.addSeen(shot, frame, values)
  }
  print({ shot: shotName, method, seenDb: errors.psnr.seenDb, limitDb: LIMIT_DB })
}

const round = (value: number, digits = 3): number => Number(value.toFixed(digits))
const print = (line: object): void => console.log(JSON.stringify(line))

for (const [name, outlineAt] of SHOTS) {
  const shot = openShot(name)
  const exact = objectMend(shot, { shape: 'matte' })
  const rough = objectMend(shot, { shape: 'outline', keys: roughKeys(shot, outlineAt) }, 36)
  await report(name, 'exact mattes', shot, exact)
  await report(name, 'rough outlines, 10 px too large, keyed every 12 frames', shot, rough)
  await reportPlain(name, 'plain temporal median', shot, (frame) => temporalMedian(shot, frame))
  await reportPlain(name, 'median over one homography', shot, (frame) => homographyMedian(cv, shot, frame))
}
