/**
 * Made-up marks laid over real footage whose truth is known, taken off again by what the footage alone tells. One property is varied at a time.
 *
 *   node --import tsx evaluation/madeMarks.ts FOLDER [sequence ...] [--only=WORDS]
 *
 * FOLDER holds the practice set; the sequences (mark_01 sets constants; mark_02 only reports) lend their pictures without a mark. A JSON line for each mark:
 * `opacityError`, mean; `psnr` of the mark's places against the truth, dB; `given`, the same with the exact picture of the mark; `limit`, what inverting
 * with the exact picture leaves by grain, rounding and coding; `told`, frames on which a snag says that something of the mark is left, and `falselyTold`, the same with the exact picture; `strength`, how far its strength on a frame is off, mean.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { levelAt, type CurveKey } from '../core/curveKeys'
import { boxAround } from '../core/document/layMark'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import { unmix } from '../core/fill/unmix/unmix'
import type { MarkPicture } from '../core/image/markPicture'
import { wholePicture, type Rect } from '../core/image/rect'
import { cropSamples, createSamples, type Samples } from '../core/image/samples'
import { findMark } from '../core/plan/findMark'
import { snagsOfMeasures } from '../core/snags/snags'
import { planFrame } from '../core/plan/planFrame'
import { analyseScene } from '../core/scene/analyseScene'
import type { Scene } from '../core/scene/scene'
import type { Clip } from '../core/shot/clip'
import { createRandom } from '../tests/random'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { NEVER_STOPS } from '../tests/fixtures/sampleSource'
import { createCache } from '../workers/cache'
import { openSequence, sequencesIn, type PracticeSequence } from './practiceFootage'

const words = process.argv.slice(2)
const [folder = '.', ...named] = words.filter((one) => !one.startsWith('--'))
const only = words.find((one) => one.startsWith('--only='))?.slice('--only='.length) ?? ''
const SIZE = { width: 170, height: 56 }
const FRAMES = 24
const SCORE_EVERY = 5

interface Law {
  readonly name: string
  readonly opacity: (x: number, y: number) => number
  readonly colour: (x: number, y: number) => readonly [number, number, number]
  /** Deviation of the grain, code values of 8 bits. */
  readonly grain?: number
  readonly crf?: number
  readonly strength?: (frame: number) => number
  /** A locked camera, and something that passes over so much of the mark. */
  readonly passes?: number
}

/** Letters of bars and arches: 0 or 1 but for their soft edges. */
function isLetter(x: number, y: number): number {
  const [letter, top] = [x % 42, y - 8]
  if (top < 0 || top > 40) return 0
  const bar = 5 - Math.abs(letter - 10)
  const arch = 4.5 - Math.abs(Math.sqrt((letter - 22) ** 2 + (top - 20) ** 2) - 13)
  return Math.min(1, Math.max(0, bar, arch))
}

const WHITE = [1, 1, 1] as const
const flat = (share: number) => (x: number, y: number) => share * isLetter(x, y)
const plain = (name: string, share: number, more: Partial<Law> = {}): Law => ({
  name,
  opacity: flat(share),
  colour: () => WHITE,
  ...more,
})

const LAWS: readonly Law[] = [
  ...[0.1, 0.25, 0.5, 0.75, 0.9, 0.95].map((share) => plain(`opacity ${share}`, share)),
  plain('black', 0.5, { colour: () => [0, 0, 0] }),
  plain('coloured', 0.5, { colour: () => [0.9, 0.25, 0.1] }),
  plain('gradient', 0.5, {
    opacity: (x, y) => (0.2 + (0.6 * x) / SIZE.width) * isLetter(x, y),
    colour: (x) => [1, 1 - (0.5 * x) / SIZE.width, 0.6],
  }),
  plain('shadowed', 0.5, {
    // A dark copy beneath it, 3 px aside.
    opacity: (x, y) => 1 - (1 - 0.5 * isLetter(x, y)) * (1 - 0.4 * isLetter(x - 3, y - 3)),
    colour: (x, y) => {
      const share = 1 - (1 - 0.5 * isLetter(x, y)) * (1 - 0.4 * isLetter(x - 3, y - 3))
      const light = share > 0 ? (0.5 * isLetter(x, y)) / share : 0
      return [light, light, light]
    },
  }),
  plain('no grain', 0.5, { grain: 0 }),
  plain('twice the grain', 0.5, { grain: 4 }),
  plain('H.264 crf 18', 0.5, { crf: 18 }),
  plain('H.264 crf 23', 0.5, { crf: 23 }),
  plain('fades in', 0.5, { strength: (i) => Math.min(1, (i + 1) / 14) }),
  plain('pulses', 0.5, { strength: (i) => 0.7 + 0.3 * Math.sin(i / 3) }),
  plain('locked, a third sees motion', 0.5, { passes: 1 / 3 }),
  plain('locked, nothing moves', 0.5, { passes: 0 }),
  plain('locked, nothing moves, black', 0.35, { passes: 0, colour: () => [0, 0, 0] }),
  plain('locked, nothing moves, faint', 0.15, { passes: 0 }),
  plain('locked, nothing moves, coloured', 0.7, { passes: 0, colour: () => [0.9, 0.25, 0.1] }),
  plain('locked, nothing moves, H.264', 0.5, { passes: 0, crf: 20 }),
]
const GRAIN = 2

function pictureOf({ opacity, colour }: Law): MarkPicture {
  const size = SIZE.width * SIZE.height
  const mark = { ...SIZE, channels: 3, opacity: new Float32Array(size), added: new Float32Array(3 * size) }
  for (let at = 0; at < size; at++) {
    const [x, y] = [(at % SIZE.width) + 0.5, Math.floor(at / SIZE.width) + 0.5]
    mark.opacity[at] = opacity(x, y)
    colour(x, y).forEach((one, c) => (mark.added[3 * at + c] = one * mark.opacity[at]!))
  }
  return mark
}

interface Footage {
  readonly truth: readonly Samples[]
  readonly plate: readonly Samples[]
}

const PASSING_PX = 12
const PASS_SPEED = 7

async function footageOf(
  sequence: PracticeSequence,
  law: Law,
  mark: MarkPicture,
  at: Place,
): Promise<Footage> {
  const random = createRandom(11)
  const deviation = law.grain ?? GRAIN
  const [truth, plate]: [Samples[], Samples[]] = [[], []]
  for (let i = 0; i < FRAMES; i++) {
    const clean = await sequence.read('clean', sequence.span.firstFrame + (law.passes !== undefined ? 0 : i))
    const { width, height } = clean
    const [own, marked] = [createSamples(width, height, 3, 8), createSamples(width, height, 3, 8)]
    for (let pixel = 0; pixel < width * height; pixel++) {
      const [col, row] = [pixel % width, Math.floor(pixel / width)]
      const [x, y] = [col - at.x, row - at.y]
      const isIn = x >= 0 && y >= 0 && x < SIZE.width && y < SIZE.height
      const share = isIn ? (law.strength?.(i) ?? 1) * mark.opacity[y * SIZE.width + x]! : 0
      for (let c = 0; c < 3; c++) {
        let under = clean.data[clean.channels * pixel + c]!
        if (law.passes !== undefined) under = passing(under, x, y, i, law.passes)
        under += 1.73 * deviation * (random() + random() + random() + random() - 2)
        own.data[3 * pixel + c] = Math.min(255, Math.max(0, Math.round(under)))
        const full = mark.opacity[y * SIZE.width + x]!
        const over = share > 0 ? (255 * mark.added[3 * (y * SIZE.width + x) + c]!) / full : 0
        const value = (1 - share) * under + share * over
        marked.data[3 * pixel + c] = Math.min(255, Math.max(0, Math.round(value)))
      }
    }
    truth.push(own)
    plate.push(marked)
  }
  return law.crf === undefined ? { truth, plate } : { truth, plate: coded(plate, law.crf) }
}

/** Stripes of light and dark go over the left part of the mark. */
function passing(under: number, x: number, y: number, i: number, share: number): number {
  if (x < -20 || x > share * SIZE.width || y < -20 || y > SIZE.height + 20) return under
  const phase = (x + 0.4 * y - PASS_SPEED * i) / PASSING_PX
  return 120 + 90 * Math.sin(phase) * Math.cos(0.21 * phase)
}

function coded(frames: readonly Samples[], crf: number): Samples[] {
  const { width, height } = frames[0]!
  const work = mkdtempSync(join(tmpdir(), 'coded-'))
  try {
    writeFileSync(
      join(work, 'in.rgb'),
      Buffer.concat(frames.map(({ data }) => Buffer.from(data as Uint8Array))),
    )
    const raw = ['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${width}x${height}`]
    const film = join(work, 'film.mkv')
    const codec = ['-c:v', 'libx264', '-crf', String(crf), '-pix_fmt', 'yuv420p']
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      ...raw,
      '-r',
      '24',
      '-i',
      join(work, 'in.rgb'),
      ...codec,
      film,
    ])
    const max = { maxBuffer: 2 ** 31 - 1 }
    const out = execFileSync(
      'ffmpeg',
      ['-v', 'error', '-i', film, '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-'],
      max,
    )
    const size = 3 * width * height
    return frames.map((_, i) => ({
      width,
      height,
      channels: 3,
      data: new Uint8Array(out.subarray(i * size, (i + 1) * size)),
    }))
  } finally {
    rmSync(work, { recursive: true })
  }
}

/** Of places in a grid, the one whose ground changes most over the frames: under a mark that never changes what it lies on, nothing can be told. */
function livelyPlace(frames: readonly Samples[]): Place {
  const { width, height, channels } = frames[0]!
  let best = { x: 0, y: 0, varies: -1 }
  for (const across of [0.15, 0.4, 0.65]) {
    for (const down of [0.2, 0.45, 0.7]) {
      const [x, y] = [Math.round(across * width), Math.round(down * height)]
      let varies = 0
      for (let row = y; row < y + SIZE.height; row += 4) {
        for (let col = x; col < x + SIZE.width; col += 4) {
          const values = frames.map(({ data }) => data[(row * width + col) * channels + 1]!)
          const mean = values.reduce((sum, one) => sum + one, 0) / values.length
          varies += values.reduce((sum, one) => sum + (one - mean) ** 2, 0)
        }
      }
      if (varies > best.varies) best = { x, y, varies }
    }
  }
  return best
}

interface Place {
  readonly x: number
  readonly y: number
}

const clipOf = (frames: readonly Samples[], first: number, mark: MarkPicture | null): Clip => ({
  plate: { width: frames[0]!.width, height: frames[0]!.height, channels: 3, bitDepth: 8 },
  readRect: async (frame: number, rect: Rect) => cropSamples(frames[frame - first]!, rect),
  readMatte: async () => null,
  readStill: async () => null,
  readMark: async () => mark,
  cache: createCache(),
})

function mendAt(place: Place, size: { width: number; height: number }, first: number): Mend {
  return {
    id: 'mark',
    kind: 'mark',
    name: 'Mark',
    isOn: true,
    areas: [{ ...boxAround('a', size, place.x, place.y, first), interpolation: 'linear' }],
    fill: startingFill('mark'),
    source: null,
    finish: startingFinish('mark'),
    span: { firstFrame: first, lastFrame: first + FRAMES - 1, rampInFrames: 0, rampOutFrames: 0 },
  }
}

/** dB of what a fill with a picture of the mark leaves at the mark's places, on some frames. */
async function psnrWith(
  { truth, plate }: Footage,
  scene: Scene | null,
  exact: MarkPicture,
  at: Place,
  laid: {
    readonly picture: MarkPicture
    readonly x: number
    readonly y: number
    readonly fades: readonly CurveKey[]
  },
  first: number,
): Promise<{ readonly psnr: number; readonly told: string }> {
  const params = unmix.params.parse({
    mark: 'mark:made',
    on: first,
    leftPx: laid.x,
    topPx: laid.y,
    fades: laid.fades,
  })
  const fill = { methodId: unmix.id, methodVersion: unmix.version, params }
  const mend = { ...mendAt(at, SIZE, first), fill }
  const { width, height } = truth[0]!
  const range = { firstFrame: first, lastFrame: first + FRAMES - 1, width, height }
  const document = documentOf([mend], new Map(), range, scene)
  const clip = clipOf(plate, first, laid.picture)
  let [squares, count, told, looks] = [0, 0, 0, 0]
  for (let i = 1; i < FRAMES; i += SCORE_EVERY) {
    const { patches, measures } = await evaluateFrame(planFrame(document, first + i), clip, NEVER_STOPS)
    looks++
    if (snagsOfMeasures(measures, first + i).some(({ reason }) => reason.startsWith('mark-'))) told++
    const result = layPatches(plate[i]!, patches, 3)
    eachMarked(exact, at, width, (pixel) => {
      for (let c = 0; c < 3; c++, count++)
        squares += (result.data[3 * pixel + c]! - truth[i]!.data[3 * pixel + c]!) ** 2
    })
  }
  return { psnr: dbOf(squares, count), told: `${told}/${looks}` }
}

const dbOf = (squares: number, count: number) =>
  Math.round(100 * 10 * Math.log10((255 * 255 * count) / squares)) / 100

function eachMarked(
  exact: MarkPicture,
  at: Place,
  width: number,
  visit: (pixel: number, k: number) => void,
): void {
  for (let k = 0; k < exact.opacity.length; k++)
    if (exact.opacity[k]! > 0) visit((at.y + Math.floor(k / SIZE.width)) * width + at.x + (k % SIZE.width), k)
}

/** What inverting by the exact picture leaves. */
function limitOf({ truth, plate }: Footage, exact: MarkPicture, at: Place, law: Law): number {
  let [squares, count] = [0, 0]
  for (let i = 1; i < FRAMES; i += SCORE_EVERY) {
    const strength = law.strength?.(i) ?? 1
    eachMarked(exact, at, truth[0]!.width, (pixel, k) => {
      for (let c = 0; c < 3; c++, count++) {
        const from = 3 * pixel + c
        const over = 255 * strength * exact.added[3 * k + c]!
        const under = (plate[i]!.data[from]! - over) / (1 - strength * exact.opacity[k]!)
        squares += (Math.min(255, Math.max(0, Math.round(under))) - truth[i]!.data[from]!) ** 2
      }
    })
  }
  return dbOf(squares, count)
}

function opacityErrorOf(
  found: { picture: MarkPicture; col: number; row: number },
  exact: MarkPicture,
  at: Place,
): number {
  let [off, count] = [0, 0]
  for (let k = 0; k < exact.opacity.length; k++) {
    if (exact.opacity[k] === 0) continue
    const col = at.x + (k % SIZE.width) - Math.round(found.col)
    const row = at.y + Math.floor(k / SIZE.width) - Math.round(found.row)
    const { width, height, opacity } = found.picture
    const isIn = col >= 0 && row >= 0 && col < width && row < height
    off += Math.abs((isIn ? opacity[row * width + col]! : 0) - exact.opacity[k]!)
    count++
  }
  return Math.round((1000 * off) / count) / 1000
}

for (const name of sequencesIn(folder, named.length > 0 ? named : ['mark_01'])) {
  const sequence = openSequence(folder, name)
  const first = sequence.span.firstFrame
  const range = { firstFrame: first, lastFrame: first + FRAMES - 1 }
  const frames = await Promise.all(
    Array.from({ length: FRAMES }, (_, i) => sequence.read('clean', first + i)),
  )
  const clean = clipOf(frames, first, null)
  const at = livelyPlace(frames)
  const moving = await analyseScene({ range, maskAt: async () => null }, clean, NEVER_STOPS)
  for (const law of LAWS.filter(({ name: law }) => law.includes(only))) {
    const exact = pictureOf(law)
    const footage = await footageOf(sequence, law, exact, at)
    const clip = clipOf(footage.plate, first, null)
    const scene =
      law.passes !== undefined
        ? await analyseScene({ range, maskAt: async () => null }, clip, NEVER_STOPS)
        : moving
    const drawn = mendAt(at, SIZE, first)
    const shot = {
      mends: [drawn],
      tracks: new Map(),
      plate: { ...range, ...wholePicture(clip.plate) },
      scene,
    }
    const begun = performance.now()
    const found = await findMark(
      shot,
      drawn,
      drawn.areas[0] as Parameters<typeof findMark>[2],
      clip,
      NEVER_STOPS,
    )
    const seconds = Math.round((performance.now() - begun) / 100) / 10
    if (!found) throw new Error(`${law.name}: no frame shows the mark`)
    const { strength } = law
    const strengths = Array.from({ length: FRAMES }, (_, i) =>
      Math.abs(levelAt(found.fades, first + i) - (strength?.(i) ?? 1)),
    )
    const exactFades = strength
      ? Array.from({ length: FRAMES }, (_, i) => ({ frame: first + i, level: strength(i) }))
      : [{ frame: 0, level: 1 }]
    const [own, given] = [
      await psnrWith(footage, scene, exact, at, { ...found, x: found.col, y: found.row }, first),
      await psnrWith(footage, scene, exact, at, { picture: exact, ...at, fades: exactFades }, first),
    ]
    console.log(
      JSON.stringify({
        sequence: name,
        half: sequence.sets ? 'sets' : 'reports',
        mark: law.name,
        opacityError: opacityErrorOf(found, exact, at),
        psnr: own.psnr,
        told: own.told,
        given: given.psnr,
        falselyTold: given.told,
        limit: limitOf(footage, exact, at, law),
        strength: Math.round((1000 * strengths.reduce((sum, one) => sum + one, 0)) / FRAMES) / 1000,
        seen: Math.round(100 * found.picture.seenShare) / 100,
        seconds,
      }),
    )
  }
}
