/**
 * Made-up damage of film, tape and sensor laid over real footage: specks, scratches, bad columns and rows, tape lines, flashes; how much of it a
 * survey finds, and how much it finds that is none.
 *
 *   node --import tsx evaluation/carrier.ts FOLDER [sequence ...] [--frames=N] [--density=N] [--heal] [--lines]
 *
 * FOLDER holds the practice set, or the demo film; their pictures without defects are taken, and `density` specks planted on each frame but the first and the last, of which nothing is said. A JSON
 * line for each sequence: `recall` and `precision` of specks that stand out by 15 steps and more; `found`, share of the planted specks that
 * are found, by how far they stand out of what is beneath, in steps of 8 bits; `false`, specks found a frame that were not planted, and `clean`, the
 * same with nothing planted; `ms`, for a frame; with --heal `healed`, dB of the places of those that were found against the truth once the find is accepted, without it, and where the true picture had another draw of its grain; for lines, how many of each kind were planted and found, and how many were found that are none.
 */
import { surveyCarrier, type CarrierPart } from '../core/survey/carrier/carrier'
import { damageOf } from '../core/survey/carrier/damage'
import type { Speck } from '../core/survey/carrier/speck'
import { createSamples, maximumOf, type Samples } from '../core/image/samples'
import { createRandom } from '../tests/random'
import { acceptFinds } from '../core/document/acceptFinds'
import { carrierFinds } from '../core/survey/carrier/carrierFinds'
import type { Mend } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import { cropSamples } from '../core/image/samples'
import { wholePicture } from '../core/image/rect'
import { planFrame } from '../core/plan/planFrame'
import { analyseScene } from '../core/scene/analyseScene'
import type { Clip } from '../core/shot/clip'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { NEVER_STOPS } from '../tests/fixtures/sampleSource'
import { createCache } from '../workers/cache'
import { openShot } from './film'
import { FIRST_FRAME, openSequence, sequencesIn } from './practiceFootage'

const words = process.argv.slice(2)
const [folder = '.', ...named] = words.filter((one) => !one.startsWith('--'))
const frames = Number(words.find((one) => one.startsWith('--frames='))?.slice('--frames='.length) ?? 16)
const density = Number(words.find((one) => one.startsWith('--density='))?.slice('--density='.length) ?? 12)

interface Planted {
  readonly frame: number
  readonly x: number
  readonly y: number
  readonly radiusPx: number
  contrast: number
}

/** Roundish, of a few px, soft at the edge; some are hairs. */
function plant(samples: Samples, frame: number, random: () => number): Planted[] {
  const { width, height, channels, data } = samples
  const scale = maximumOf(data) / 255
  return Array.from({ length: density }, () => {
    const [x, y] = [12 + random() * (width - 24), 12 + random() * (height - 24)]
    const radius = 0.8 + 4 * random() * random()
    const long = random() < 0.25 ? 3 + 3 * random() : 1 + 0.6 * random()
    const turn = Math.PI * random()
    const [c, s] = [Math.cos(turn), Math.sin(turn)]
    const to = (random() < 0.6 ? 0.05 + 0.2 * random() : 0.75 + 0.25 * random()) * 255 * scale
    const strength = 0.3 + 0.7 * random()
    const reach = Math.ceil(radius * long) + 2
    let [sum, count] = [0, 0]
    for (let row = Math.max(0, Math.floor(y) - reach); row < Math.min(height, y + reach); row++) {
      for (let col = Math.max(0, Math.floor(x) - reach); col < Math.min(width, x + reach); col++) {
        const [dx, dy] = [col + 0.5 - x, row + 0.5 - y]
        const [u, v] = [(dx * c + dy * s) / long, dy * c - dx * s]
        const cover = strength * Math.min(1, Math.max(0, radius + 0.5 - Math.sqrt(u * u + v * v)))
        if (cover === 0) continue
        for (let k = 0; k < channels; k++) {
          const at = (row * width + col) * channels + k
          const laid = data[at]! + cover * (to - data[at]!)
          if (cover > strength / 2) {
            sum += Math.abs(laid - data[at]!) / scale
            count++
          }
          data[at] = Math.round(laid)
        }
      }
    }
    return { frame, x, y, radiusPx: radius * long, contrast: count === 0 ? 0 : sum / count }
  })
}

const isHit = (planted: Planted, speck: Speck): boolean =>
  planted.frame === speck.frame &&
  Math.hypot(planted.x - speck.x, planted.y - speck.y) < Math.max(3, planted.radiusPx)

const survey = (pictures: readonly Samples[]): { readonly part: CarrierPart; readonly ms: number } => {
  const begun = performance.now()
  const surveyor = surveyCarrier(0)
  for (const picture of pictures) surveyor.add(picture)
  return { part: surveyor.finish(), ms: (performance.now() - begun) / pictures.length }
}

const copyOf = (samples: Samples): Samples => {
  const out = createSamples(
    samples.width,
    samples.height,
    samples.channels,
    maximumOf(samples.data) === 255 ? 8 : 16,
  )
  out.data.set(samples.data)
  return out
}

/** A scratch that sways, a bad column, a bad row, a tape line on one frame. */
function plantLines(pictures: readonly Samples[]): void {
  const [{ width, height, channels }] = pictures as [Samples]
  const add = (samples: Samples, col: number, row: number, by: number) => {
    for (let k = 0; k < channels; k++) {
      const at = (row * width + col) * channels + k
      samples.data[at] = Math.min(
        maximumOf(samples.data),
        Math.max(0, samples.data[at]! + (by * maximumOf(samples.data)) / 255),
      )
    }
  }
  pictures.forEach((samples, frame) => {
    const x = 0.3 * width + 2.5 * Math.sin(frame / 3)
    for (let row = 0; row < height; row++) {
      for (let col = Math.floor(x) - 2; col <= x + 2; col++)
        add(samples, col, row, 26 * Math.max(0, 1 - Math.abs(col + 0.5 - x) / 1.5))
      add(samples, Math.floor(0.62 * width), row, -14)
    }
    for (let col = 0; col < width; col++) {
      add(samples, col, Math.floor(0.7 * height), 16)
      if (frame === 5) for (const row of [40, 41]) add(samples, col, row, col % 7 < 5 ? 60 : 10)
    }
  })
}

const share = (hits: number, all: number) => (all === 0 ? null : Math.round((1000 * hits) / all) / 1000)

interface Footage {
  readonly sets: boolean | null
  readonly frameCount: number
  read(kind: 'truth' | 'clean', index: number): Promise<Samples>
}

function footageOf(name: string): Footage {
  if (!name.startsWith('LM_')) {
    const { sets, frameCount, read } = openSequence(folder, name)
    return { sets, frameCount, read: (kind, index) => read(kind, FIRST_FRAME + index) }
  }
  const { span, read } = openShot(name, folder)
  const kinds = { truth: 'truth', clean: 'truth-without-grain' } as const
  return {
    sets: null,
    frameCount: span.lastFrame - span.firstFrame + 1,
    read: (kind, index) => read(kinds[kind], span.firstFrame + index),
  }
}

/** Squared differences of the places that specks were planted on. */
function errorAt(a: Samples, b: Samples, planted: readonly Planted[]): { sum: number; count: number } {
  const scale = maximumOf(a.data) / 255
  let [sum, count] = [0, 0]
  for (const { x, y, radiusPx } of planted) {
    for (let row = Math.max(0, Math.floor(y - radiusPx)); row <= Math.min(a.height - 1, y + radiusPx); row++)
      for (let col = Math.max(0, Math.floor(x - radiusPx)); col <= Math.min(a.width - 1, x + radiusPx); col++)
        for (let c = 0; c < a.channels; c++) {
          const at = (row * a.width + col) * a.channels + c
          sum += ((a.data[at]! - b.data[at]!) / scale) ** 2
          count++
        }
  }
  return { sum, count }
}

const psnrOf = (errors: readonly { sum: number; count: number }[]): number => {
  const [sum, count] = errors.reduce(([s, n], one) => [s + one.sum, n + one.count], [0, 0])
  return Math.round(100 * 10 * Math.log10((255 * 255 * count) / sum)) / 100
}

/** What an accepted find makes of the frames in the middle. */
async function healed(
  spoilt: readonly Samples[],
  part: CarrierPart,
  planted: readonly Planted[],
  footage: Footage,
) {
  const [first] = spoilt as [Samples]
  const range = { firstFrame: 0, lastFrame: spoilt.length - 1 }
  const find = carrierFinds(part, first, range).find(({ kind }) => kind === 'specks')
  if (!find) return null
  const mends = acceptFinds(new Map(), [find], range, () => 'specks')!.changes.map(
    ({ after }) => after as unknown as Mend,
  )
  const plate = { width: first.width, height: first.height, channels: first.channels, bitDepth: maximumOf(first.data) === 255 ? 8 : 16 } as const // prettier-ignore
  const clip: Clip = {
    plate,
    readRect: async (frame, rect) => cropSamples(spoilt[frame]!, rect),
    readMatte: async () => null,
    readStill: async () => null,
    readMark: async () => null,
    cache: createCache(),
  }
  const scene = await analyseScene({ range, maskAt: async () => null }, clip, NEVER_STOPS)
  const document = { ...documentOf(mends, new Map(), { ...range, ...wholePicture(first) }), scene }
  const [result, plates, limits]: { sum: number; count: number }[][] = [[], [], []]
  for (let frame = 3; frame < Math.min(7, spoilt.length); frame++) {
    const here = planted.filter(
      (one) => one.frame === frame && part.specks.some((speck) => isHit(one, speck)),
    )
    const done = await evaluateFrame(planFrame(document, frame), clip, NEVER_STOPS)
    const truth = await footage.read('truth', frame)
    result!.push(errorAt(layPatches(spoilt[frame]!, done.patches, first.channels), truth, here))
    plates!.push(errorAt(spoilt[frame]!, truth, here))
    const { sum, count } = errorAt(await footage.read('clean', frame), truth, here)
    limits!.push({ sum: 2 * sum, count })
  }
  return { after: psnrOf(result!), before: psnrOf(plates!), limit: psnrOf(limits!) }
}

for (const name of named.length > 0 ? named : sequencesIn(folder, [''])) {
  const footage = footageOf(name)
  const count = Math.min(frames, footage.frameCount)
  const pictures: Samples[] = []
  for (let index = 0; index < count; index++) pictures.push(await footage.read('truth', index))
  const random = createRandom(77)
  const spoilt = pictures.map(copyOf)
  const planted = spoilt.flatMap((samples, frame) =>
    frame === 0 || frame === count - 1 ? [] : plant(samples, frame, random),
  )
  const { part, ms } = survey(spoilt)
  const clean = survey(pictures)
  const hits = (min: number, max: number) => {
    const those = planted.filter(({ contrast }) => contrast >= min && contrast < max)
    return {
      all: those.length,
      found: those.filter((one) => part.specks.some((speck) => isHit(one, speck))).length,
    }
  }
  const found = (min: number, max: number) => share(hits(min, max).found, hits(min, max).all)
  const wrong = part.specks.filter((speck) => !planted.some((one) => isHit(one, speck))).length
  const range = { firstFrame: 0, lastFrame: count - 1 }
  const lined = pictures.map(copyOf)
  plantLines(lined)
  const damage = damageOf(survey(lined).part, pictures[0]!, range)
  if (words.includes('--lines')) console.log(JSON.stringify(damage))
  const cleanDamage = damageOf(clean.part, pictures[0]!, range)
  if (words.includes('--lines')) console.log(JSON.stringify(cleanDamage.tape))
  const kinds = ({ scratches, bad, tape }: typeof damage) => ({ scratches: scratches.length, bad: bad.map(({ axis }) => axis).join(''), tape: tape.length }) // prettier-ignore
  console.log(
    JSON.stringify({
      name,
      sets: footage.sets,
      recall: found(15, 256),
      precision: share(part.specks.length - wrong, part.specks.length),
      found: { '8-15': found(8, 15), '15-30': found(15, 30), '30-60': found(30, 60), '60+': found(60, 256) },
      clean: share(clean.part.specks.length, count),
      ms: Math.round(ms),
      lines: kinds(damage),
      none: kinds(cleanDamage),
      flashes: clean.part.flashes.length,
      flicker: Math.round(1000 * clean.part.flickerStops) / 1000,
      ...(words.includes('--heal') ? { healed: await healed(spoilt, part, planted, footage) } : {}),
    }),
  )
}
