/**
 * The fills that take pixels from the same frame, beside the truth and two references, on generated stripes and the demo
 * film: `node --import { documentOf } from '../tests/fixtures/sampleDocument'
import tsx evaluation/spatial.ts [demo folder] [part]`. One JSON line for each figure.
 */
import { translationBy, type Matrix3 } from '../core/geometry/transform'
import { warpProjective } from '../core/image/sample'
import { grainAt } from '../core/finish/grain'
import { wholePicture, type Rect } from '../core/image/rect'
import { createSamples, cropSamples, type Samples } from '../core/image/samples'
import type { Area } from '../core/document/areas'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import { planFrame } from '../core/plan/planFrame'
import { sampleEllipse, sampleMend, samplePath } from '../tests/fixtures/sampleMend'
import { DEFAULT_FINISH, startingFinish, type Mend } from '../core/document/mend'
import type { FillSettings } from '../core/document/fillSettings'
import { ALL_FRAMES, documentOf } from '../tests/fixtures/sampleDocument'
import { restingSource } from '../core/document/sourceKeys'
import { suggestSources } from '../core/evaluate/suggest/suggestSources'
import { tracksById, type Track } from '../core/document/tracks'
import { newTrack } from '../core/document/follow'
import { psnrOf } from '../core/measure/difference'
import { defaultsOf, findFill } from '../core/fill/registry'
import { momentAt as lm010At } from '../demo/lm010/scene'
import { momentAt as lm020At } from '../demo/lm020/scene'
import { openShot, type OpenShot } from './film'
import { loadOpenCv, type OpenCv } from './opencv'
import {
  changeOver,
  fineEnergy,
  greyOf,
  meanSquare,
  minus,
  neighbourCorrelation,
  regionOf,
  slopePsnr,
  spreadOver,
  ssimOver,
  type Region,
} from './quality'
import { coverageOn } from './coverage'
import { inpaintBlended } from './scores'

const round = (value: number, digits = 3): number => Math.round(value * 10 ** digits) / 10 ** digits
const print = (line: Record<string, unknown>) =>
  process.stdout.write(
    `${JSON.stringify(line, (_, value: unknown) => (typeof value === 'number' ? round(value) : value))}\n`,
  )

export const fillOf = (id: string, params: Record<string, unknown> = {}): FillSettings => {
  const method = findFill(id)!
  return { methodId: id, methodVersion: method.version, params: { ...defaultsOf(method), ...params } }
}

/** Stripes crossing a straight wire at an angle from square to it, with a little grain. */
async function stripes(cv: OpenCv): Promise<void> {
  const [width, height] = [260, 260]
  const whole = { width, height }
  for (const [label, widthPx, periodPx] of [
    ['wire', 8, 13],
    ['rod', 30, 41],
  ] as const) {
    // prettier-ignore
    for (let leanDeg = 0; leanDeg <= 60; leanDeg += 10) {
      const lean = (leanDeg * Math.PI) / 180
      const paint = (frame: number, hasWire: boolean): Samples => {
        const samples = createSamples(width, height, 3, 8)
        for (let i = 0; i < width * height; i++) {
          const [col, row] = [i % width, Math.floor(i / width)]
          const [x, y] = [col + 0.5 - width / 2, row + 0.5 - height / 2]
          // Square to an upright wire means level stripes; leaning, they climb along it.
          const across = y * Math.cos(lean) - x * Math.sin(lean)
          const value = hasWire && Math.abs(x) < widthPx / 2 ? 20 : 128 + 70 * Math.tanh(3 * Math.sin((2 * Math.PI * across) / periodPx))
          for (let c = 0; c < 3; c++) samples.data[3 * i + c] = Math.round(value + 1.5 * grainAt(11, frame, col, row, c))
        }
        return samples
      }
      const [truth, plate] = [paint(1001, false), paint(1001, true)]
      const plates = new Map<number, Samples>([[1001, plate]])
      const mend = sampleMend({
        areas: [samplePath({ keys: [{ frame: 1001, points: [{ x: width / 2, y: -5, widthPx }, { x: width / 2, y: height + 5, widthPx }] }] })], // prettier-ignore
      })
      const source = {
        plate: { ...plate, bitDepth: 8 as const },
        readRect: async (frame: number, rect: Rect) => {
          if (!plates.has(frame)) plates.set(frame, paint(frame, true))
          return cropSamples(plates.get(frame)!, rect)
        },
        readMatte: async () => null,
        readStill: async () => null,
        readMark: async () => null,
      }
      const { patches } = await evaluateFrame(planFrame(documentOf([mend], new Map(), { ...ALL_FRAMES, ...whole }), 1001), source, { shouldStop: () => false })
      const coverage = coverageOn([mend], new Map(), 1001, whole)
      // Away from the picture's edges, where a leaning stripe enters from nowhere.
      for (let i = 0; i < coverage.length; i++) if (Math.floor(i / width) < 50 || Math.floor(i / width) >= height - 50) coverage[i] = 0
      const region = regionOf(coverage, width, height)
      const grey = greyOf(truth, region.rect)
      const hole = coverageOn([mend], new Map(), 1001, whole)
      const pictures = {
        across: layPatches(plate, patches, 3),
        telea: { ...plate, data: inpaintBlended(cv, plate.data as Uint8Array, hole, width, height, 'telea') },
        navierStokes: { ...plate, data: inpaintBlended(cv, plate.data as Uint8Array, hole, width, height, 'navier-stokes') },
      }
      const decibels = Object.fromEntries(
        Object.entries(pictures).map(([name, picture]) => [name, psnrOf(meanSquare(greyOf(picture, region.rect), grey, region.inside), 255)]),
      ) as Record<keyof typeof pictures, number>
      print({ figure: 'stripes-psnr-db', thing: label, leanDeg, ...decibels, ahead: decibels.across - Math.max(decibels.telea, decibels.navierStokes) })
    }
  }
}

interface Task {
  readonly name: string
  readonly shot: OpenShot
  readonly mend: Mend
  readonly tracks: readonly Track[]
  readonly frames: readonly number[]
  /** How the scene moves from one frame to the next, for telling flicker from motion. */
  motion(from: number, to: number): Matrix3
  /** Mends of other things that are on as well. */
  readonly others?: readonly Mend[]
}

async function score(cv: OpenCv, task: Task, methods: Readonly<Record<string, Mend>>): Promise<void> {
  const { shot, frames, tracks } = task
  const { width, height } = shot.description
  const byId = tracksById(tracks)
  const coverages = new Map(
    frames.map((frame) => [frame, coverageOn([task.mend], byId, frame, { width, height })]),
  )
  const names = [...Object.keys(methods), 'telea', 'navierStokes']
  for (const name of [...names, 'truth']) {
    let previous: { frame: number; picture: Samples } | null = null
    const figures = {
      squares: [],
      slopes: [],
      similarities: [],
      energies: [],
      flickers: [],
      grains: [],
      spectra: [],
    } as Record<string, number[]>
    const { squares, slopes, similarities, energies, flickers, grains, spectra } = figures as {
      [
        name in 'squares' | 'slopes' | 'similarities' | 'energies' | 'flickers' | 'grains' | 'spectra'
      ]: number[]
    }
    for (const frame of frames) {
      const coverage = coverages.get(frame)!
      if (!coverage.some((value) => value >= 0.5)) continue
      const region = regionOf(coverage, width, height)
      const [plate, truth, clean] = await Promise.all([
        shot.read('plate', frame),
        shot.read('truth', frame),
        shot.read('truth-without-grain', frame),
      ])
      const picture: Samples =
        name === 'truth'
          ? truth
          : name in methods
            ? (await shot.mend([...(task.others ?? []), methods[name]!], frame, tracks)).finished
            : {
                ...plate,
                data: inpaintBlended(
                  cv,
                  plate.data as Uint8Array,
                  coverage,
                  width,
                  height,
                  name === 'telea' ? 'telea' : 'navier-stokes',
                ),
              }
      const [own, real] = [greyOf(picture, region.rect), greyOf(truth, region.rect)]
      squares.push(meanSquare(own, real, region.inside))
      slopes.push(slopePsnr(own, real, region.inside))
      similarities.push(ssimOver(own, real, region.inside))
      energies.push(fineEnergy(own, region.inside) / fineEnergy(real, region.inside))
      if (previous && previous.frame === frame - 1) {
        const motion = task.motion(frame, previous.frame)
        flickers.push(
          flickerIn(previous.picture, picture, region, motion) /
            flickerAround(await shot.read('truth', previous.frame), truth, region, motion),
        )
        if (isStill(motion)) {
          const difference = minus(own, greyOf(previous.picture, region.rect))
          grains.push(
            spreadOver(difference, region.inside) /
              spreadOver(
                minus(real, greyOf(await shot.read('truth', previous.frame), region.rect)),
                region.around,
              ),
          )
          spectra.push(neighbourCorrelation(difference, region.inside))
        }
      }
      void clean
      previous = { frame, picture }
    }
    const mean = (values: readonly number[] | undefined) =>
      values && values.length > 0 ? values.reduce((a, b) => a + b, 0) / values.length : null
    print({
      figure: 'fill',
      task: task.name,
      method: name,
      psnrDb: psnrOf(mean(squares)!, 255),
      slopePsnrDb: mean(slopes),
      ssim: mean(similarities),
      fineEnergy: mean(energies),
      flicker: mean(flickers),
      grainOverAround: mean(grains),
      neighbourCorrelation: mean(spectra),
    })
  }
}

const isStill = (m: Matrix3) => m[2] === 0 && m[5] === 0 && m[0] === 1

function carried(picture: Samples, region: Region, motion: Matrix3) {
  const whole = greyOf(picture, wholePicture(picture))
  const { col, row } = region.rect
  const m: Matrix3 = [
    motion[0],
    motion[1],
    motion[0] * col + motion[1] * row + motion[2],
    motion[3],
    motion[4],
    motion[3] * col + motion[4] * row + motion[5],
    0,
    0,
    1,
  ]
  return isStill(motion) ? greyOf(picture, region.rect) : warpProjective(whole, m, region.rect, 'bicubic')
}

const flickerIn = (before: Samples, after: Samples, region: Region, motion: Matrix3) =>
  changeOver(carried(before, region, motion), greyOf(after, region.rect), region.inside)
const flickerAround = (before: Samples, after: Samples, region: Region, motion: Matrix3) =>
  changeOver(carried(before, region, motion), greyOf(after, region.rect), region.around)

/** A track that knows the ground's motion exactly. */
export function exactTrack(
  id: string,
  shot: OpenShot,
  at: (frame: number) => { x: number; y: number },
  start: { x: number; y: number },
): Track {
  const { firstFrame, lastFrame } = shot.span
  const origin = at(firstFrame)
  const frames = Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => {
    const { x, y } = at(firstFrame + i)
    return [firstFrame + i, 1, start.x + x - origin.x, start.y + y - origin.y] as Track['frames'][number]
  })
  return {
    ...newTrack(id, 'point', id, firstFrame, [start.x, start.y]),
    frames: frames.map(
      (row) =>
        row.map((value, i) => (i < 2 ? value : Math.round(value * 100) / 100)) as Track['frames'][number],
    ),
  }
}

const STILL = () => translationBy(0, 0)

/** Roof tiles of LM_010, drifting with the camera, never hidden by anything: what is rebuilt can be compared. */
async function tiles(cv: OpenCv): Promise<void> {
  const shot = openShot('LM_010')
  const camera = (frame: number) => lm010At(frame).camera
  const start = { x: 300, y: 560 }
  const track = exactTrack('ground', shot, (frame) => ({ x: -camera(frame).x, y: -camera(frame).y }), start)
  const area: Area = sampleEllipse({
    keys: [{ frame: shot.span.firstFrame, ...start, radiusXPx: 42, radiusYPx: 34, turnDeg: 0 }],
    follow: { trackId: 'ground', uses: { position: true, rotation: false, scale: false, skew: false } },
  })
  const mend = sampleMend({
    id: 'tiles',
    areas: [area],
    fill: fillOf('texture'),
    finish: { ...DEFAULT_FINISH, featherOutPx: 3, growPx: 1 },
    span: shot.span,
  })
  const frames = Array.from({ length: 12 }, (_, i) => 1010 + i)
  const motion = (from: number, to: number) =>
    translationBy(camera(from).x - camera(to).x, camera(from).y - camera(to).y)
  await score(
    cv,
    { name: 'tiles, LM_010', shot, mend, tracks: [track], frames, motion },
    { texture: mend, membrane: { ...mend, fill: fillOf('membrane') } },
  )
}

async function cobbles(cv: OpenCv): Promise<void> {
  const shot = openShot('LM_020')
  const mend = sampleMend({
    id: 'cobbles',
    areas: [
      sampleEllipse({ keys: [{ frame: 1001, x: 210, y: 620, radiusXPx: 52, radiusYPx: 40, turnDeg: 0 }] }),
    ],
    fill: fillOf('texture'),
    finish: { ...DEFAULT_FINISH, featherOutPx: 3, growPx: 1 },
    span: shot.span,
  })
  await score(
    cv,
    {
      name: 'cobbles, LM_020',
      shot,
      mend,
      tracks: [],
      frames: [1010, 1011, 1012, 1013, 1014],
      motion: STILL,
    },
    { texture: mend },
  )
}

/** The banner as a holdout: keyed on every frame from the exact outline. */
export function bannerHoldout(shot: OpenShot): Area {
  const { firstFrame, lastFrame } = shot.span
  return {
    shape: 'outline',
    id: 'banner',
    role: 'holdout',
    interpolation: 'linear',
    follow: null,
    keys: Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => {
      const { banner } = lm020At(firstFrame + i)
      return {
        frame: firstFrame + i,
        points: Array.from({ length: banner.length / 2 }, (_, k) => ({
          x: banner[2 * k]!,
          y: banner[2 * k + 1]!,
          inX: 0,
          inY: 0,
          outX: 0,
          outY: 0,
        })),
      }
    }),
  }
}

export function clampArea(): Area {
  const { outline } = lm020At(1001).clamp
  return {
    shape: 'outline',
    id: 'clamp',
    role: 'cover',
    interpolation: 'linear',
    follow: null,
    keys: [
      {
        frame: 1001,
        points: Array.from({ length: outline.length / 2 }, (_, k) => ({
          x: outline[2 * k]!,
          y: outline[2 * k + 1]!,
          inX: 0,
          inY: 0,
          outX: 0,
          outY: 0,
        })),
      },
    ],
  }
}

export function rodMend(shot: OpenShot, fill: FillSettings): Mend {
  const keys = [1001, 1009, 1017, 1025, 1033, 1041, 1048].map((frame) => {
    const { from, to, widthPx } = lm020At(frame).rod
    return {
      frame,
      points: [
        { ...from, widthPx },
        { ...to, widthPx },
      ],
    }
  })
  return sampleMend({
    id: 'rod',
    kind: 'rig',
    areas: [samplePath({ keys }), bannerHoldout(shot)],
    fill,
    finish: startingFinish('rig'),
    span: shot.span,
  })
}

export async function clampMend(shot: OpenShot, fill: FillSettings): Promise<Mend> {
  const bare = sampleMend({
    id: 'clamp',
    kind: 'object',
    areas: [clampArea(), bannerHoldout(shot)],
    fill,
    finish: { ...DEFAULT_FINISH, featherOutPx: 3, growPx: 1 },
    span: shot.span,
  })
  const [best] = await suggestSources(
    documentOf([bare], new Map(), { ...shot.span, ...shot.source.plate }),
    { mendId: bare.id, areaId: bare.areas[0]!.id, frame: 1010 },
    shot.source,
    { shouldStop: () => false },
  )
  return {
    ...bare,
    source: best ? restingSource(shot.span, best) : null,
  }
}

async function clamp(cv: OpenCv): Promise<void> {
  const shot = openShot('LM_020')
  const mend = await clampMend(shot, fillOf('heal'))
  print({ figure: 'suggested-source', task: 'clamp, LM_020', ...mend.source?.keys[0] })
  const frames = Array.from({ length: 47 }, (_, i) => 1001 + i)
  const methods = {
    heal: mend,
    clone: { ...mend, fill: fillOf('clone') },
    texture: { ...mend, fill: fillOf('texture') },
  }
  await score(cv, { name: 'clamp, LM_020', shot, mend, tracks: [], frames, motion: STILL }, methods)
}

async function rod(cv: OpenCv): Promise<void> {
  const shot = openShot('LM_020')
  const mend = rodMend(shot, fillOf('across'))
  const frames = Array.from({ length: 16 }, (_, i) => 1001 + i)
  await score(
    cv,
    { name: 'rod, LM_020', shot, mend, tracks: [], frames, motion: STILL },
    {
      across: mend,
      acrossFar: { ...mend, fill: fillOf('across', { reachPx: 24, echo: 0.9 }) },
      texture: { ...mend, fill: fillOf('texture') },
    },
  )
}

const PARTS = { stripes, tiles, cobbles, clamp, rod }
const { cv } = await loadOpenCv()
for (const [name, part] of Object.entries(PARTS))
  if (process.argv[3] === undefined || process.argv[3] === name) await part(cv)
