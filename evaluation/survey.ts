/**
 * The survey over the demo film as JSON lines: what was found of what is really there, how long it took; then LM_010 and LM_040 with
 * everything accepted, against the truth.
 *
 *   node --import tsx evaluation/survey.ts [folder of the demo film]
 */
import { createPathCurve, pathPointAt, type PathCurve } from '../core/geometry/pathCurve'
import { acceptFinds } from '../core/document/acceptFinds'
import { analyseScene } from '../core/scene/analyseScene'
import type { PathArea } from '../core/document/areas'
import { geometryAt } from '../core/document/keyedGeometry'
import { fillOf } from '../tests/fixtures/sampleMend'
import type { MendRecord } from '../core/document/mend'
import { masksOf } from '../core/evaluate/masks'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { createSurvey } from '../core/survey/survey'
import type { Find, Survey } from '../core/survey/finds'
import type { Scene } from '../core/scene/scene'
import { FILM } from '../demo/film'
import { momentAt } from '../demo/lm010/scene'
import { LM_040, throughMote } from '../demo/lm040/scene'
import { openShot, type OpenShot } from './film'

const NEAR_PX = 3

async function surveyed(shot: OpenShot): Promise<Survey> {
  const { firstFrame, lastFrame } = shot.span
  const survey = createSurvey(shot.source.plate, firstFrame)
  let busyMs = 0
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    const samples = await shot.read('plate', frame)
    const begun = performance.now()
    survey.add(samples)
    busyMs += performance.now() - begun
  }
  const begun = performance.now()
  const { survey: result } = survey.finish()
  const count = (kind: Find['kind']) => result.finds.filter((find) => find.kind === kind).length
  print({
    shot: shot.description.name,
    rest: result.rest,
    cuts: result.cuts.length,
    pixels: count('pixel'),
    motes: count('mote'),
    marks: count('mark'),
    lines: count('line'),
    msAFrame: round(busyMs / (lastFrame - firstFrame + 1)),
    msAtTheEnd: round(performance.now() - begun),
  })
  return result
}

function scoreFinds({ finds }: Survey): void {
  const near = (find: Find, x: number, y: number) => Math.hypot(find.x - x, find.y - y) <= NEAR_PX
  const pixels = LM_040.pixels.filter(({ fault, col, row }) =>
    finds.some((find) => find.kind === 'pixel' && find.class === fault && near(find, col + 0.5, row + 0.5)),
  )
  const motes = LM_040.motes.filter((mote) =>
    finds.some((find) => find.kind === 'mote' && near(find, mote.x, mote.y)),
  )
  print({
    shot: 'LM_040',
    pixelsRight: `${pixels.length} of ${LM_040.pixels.length}`,
    motesFound: `${motes.length} of ${LM_040.motes.length}`,
    falseFinds: finds.length - pixels.length - motes.length,
  })
}

async function scoreMended(shot: OpenShot, finds: readonly Find[]): Promise<void> {
  const edit = acceptFinds(new Map(), finds, shot.span, (() => { let n = 0; return () => `mend-${n++}` })())! // prettier-ignore
  const mends = edit.changes.map(({ after }) => after as MendRecord)
  const { firstFrame, lastFrame } = shot.span
  const frames = Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => firstFrame + i)
  const maskAt = masksOf(documentOf(mends), shot.source)
  const scene = (await analyseScene({ range: shot.span, maskAt }, shot.source, {
    shouldStop: () => false,
  })) as Scene
  const fills = ['as accepted', 'median', 'clean-plate'] as const
  for (const fill of fills) {
    const used = mends.map((mend) =>
      mend.kind === 'dust' && fill !== 'as accepted' ? medianOrPlate(mend, fill) : mend,
    )
    const motes = { truth: new Errors(), clean: new Errors() }
    const [pixels, plate] = [new Errors(), new Errors()]
    const places = LM_040.pixels.map(() => ({ off: new Errors(), around: new Errors() }))
    let worstMoteDb = Infinity
    for (const frame of frames.filter((_, i) => i % 6 === 2)) {
      const { finished } = await shot.mend(used, frame, [], scene)
      const [truth, clean, before] = await Promise.all(
        (['truth', 'truth-without-grain', 'plate'] as const).map((kind) => shot.read(kind, frame)),
      )
      for (const mote of LM_040.motes) {
        const one = new Errors()
        eachMotePixel(mote, (at) => {
          for (const errors of [one, motes.truth]) errors.add(finished.data[at]! - truth!.data[at]!)
          motes.clean.add(finished.data[at]! - clean!.data[at]!)
          plate.add(before!.data[at]! - truth!.data[at]!)
        })
        worstMoteDb = Math.min(worstMoteDb, one.psnr)
      }
      for (const [i, { fault, col, row }] of LM_040.pixels.entries()) {
        const reach = fault === 'cluster' ? 2 : 1
        addSurroundings(places[i]!.around, truth!.data, col, row)
        for (let y = row - reach; y <= row + reach; y++) {
          for (let at = (y * 1280 + col - reach) * 3; at < (y * 1280 + col + reach + 1) * 3; at++) {
            for (const errors of [pixels, places[i]!.off]) errors.add(finished.data[at]! - clean!.data[at]!)
          }
        }
      }
    }
    print({
      shot: 'LM_040',
      dust: fill,
      motesDb: round(motes.truth.psnr, 2),
      worstMoteDb: round(worstMoteDb, 2),
      motesWithoutGrainDb: round(motes.clean.psnr, 2),
      plateDb: round(plate.psnr, 2),
      pixelsOff8: round(pixels.rms, 2),
      // Off by no more than what is around them varies by, texture and grain.
      pixelsWithinSurroundings: `${places.filter(({ off, around }) => off.rms <= Math.max(around.rms, LM_040.grainLevel8)).length} of ${places.length}`,
      pixelsWithinGrain: `${places.filter(({ off }) => off.rms <= 1.25 * LM_040.grainLevel8).length} of ${places.length}`,
      pixelPlaces: places
        .map(({ off, around }) => `${off.rms.toFixed(1)}/${around.rms.toFixed(1)}`)
        .join(' '),
      grain8: LM_040.grainLevel8,
    })
  }
}

function medianOrPlate(mend: MendRecord, fill: 'median' | 'clean-plate'): MendRecord {
  // Common practice, no source: a disc of 25 px, a feather of 15 px.
  return fill === 'median'
    ? { ...mend, fill: fillOf('median'), finish: { ...mend.finish, featherOutPx: 15 } }
    : {
        ...mend,
        fill: { ...fillOf('clean-plate'), params: { ...fillOf('clean-plate').params, unseen: 'membrane' } },
      }
}

/** Each sample's difference from the mean of those around a place. */
function addSurroundings(errors: Errors, data: ArrayLike<number>, col: number, row: number): void {
  const reach = 6
  for (let c = 0; c < 3; c++) {
    const values: number[] = []
    for (let y = row - reach; y <= row + reach; y++)
      for (let x = col - reach; x <= col + reach; x++) values.push(data[(y * LM_040.width + x) * 3 + c]!)
    const mean = values.reduce((sum, value) => sum + value, 0) / values.length
    for (const value of values) errors.add(value - mean)
  }
}

function eachMotePixel(mote: (typeof LM_040.motes)[number], visit: (at: number) => void): void {
  const reach = Math.ceil(Math.max(mote.radiusXPx, mote.radiusYPx))
  for (let row = Math.floor(mote.y) - reach; row <= mote.y + reach; row++) {
    for (let col = Math.floor(mote.x) - reach; col <= mote.x + reach; col++) {
      if (throughMote(mote, col + 0.5, row + 0.5) === 1) continue
      for (let c = 0; c < 3; c++) visit((row * LM_040.width + col) * 3 + c)
    }
  }
}

class Errors {
  sum = 0
  count = 0
  add(off: number): void {
    this.sum += off * off
    this.count++
  }
  get rms(): number {
    return Math.sqrt(this.sum / this.count)
  }
  get psnr(): number {
    return 20 * Math.log10(255 / this.rms)
  }
}

const round = (value: number, digits = 1): number => Number(value.toFixed(digits))
const print = (line: object): void => console.log(JSON.stringify(line))

/** The threads of LM_010, accepted as they were found: how far off on every frame, keys or not, and what is left after mending. */
async function scoreLines(shot: OpenShot, finds: readonly Find[]): Promise<void> {
  const lines = finds.filter((find) => find.kind === 'line')
  const edit = acceptFinds(new Map(), lines, shot.span, (() => { let n = 0; return () => `mend-${n++}` })())! // prettier-ignore
  const mends = edit.changes.map(({ after }) => after as MendRecord)
  const { firstFrame, lastFrame } = shot.span
  const [offsPx, endsPx]: [number[], number[]] = [[], []]
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    const threads = momentAt(frame).threads.map((thread) => ({
      ...thread,
      curve: createPathCurve(thread.points),
    }))
    for (const mend of mends) {
      const placed = geometryAt(mend.areas[0] as PathArea, new Map(), frame)
      if (placed.shape !== 'path') continue
      const seen = placed.points.filter(({ y }) => y > 0)
      const offOf = ({ curve }: (typeof threads)[number]) => seen.map((point) => distanceTo(curve, point))
      const thread = threads.reduce((a, b) => (mean(offOf(a)) < mean(offOf(b)) ? a : b))
      offsPx.push(...offOf(thread))
      const end = placed.points.at(-1)!
      endsPx.push(Math.hypot(end.x - thread.contact.x, end.y - thread.contact.y))
    }
  }
  const maskAt = masksOf(documentOf(mends), shot.source)
  const scene = (await analyseScene({ range: shot.span, maskAt }, shot.source, {
    shouldStop: () => false,
  })) as Scene
  const errors = { mended: new Errors(), plate: new Errors() }
  for (let frame = firstFrame + 2; frame <= lastFrame; frame += 6) {
    const { finished } = await shot.mend(mends, frame, [], scene)
    const [plate, clean, matte] = await Promise.all([
      shot.read('plate', frame),
      shot.read('truth-without-grain', frame),
      shot.readMatte(frame),
    ])
    for (let i = 0; i < matte.length; i++) {
      if (matte[i] === 0) continue
      for (let c = 0; c < 3; c++) {
        errors.mended.add(finished.data[3 * i + c]! - clean.data[3 * i + c]!)
        errors.plate.add(plate.data[3 * i + c]! - clean.data[3 * i + c]!)
      }
    }
  }
  const [offs, ends] = [offsPx, endsPx].map((values) => values.sort((a, b) => a - b))
  print({
    shot: 'LM_010',
    lines: lines.length,
    falseFinds: finds.length - lines.length,
    meanOffPx: round(mean(offs!), 2),
    off95Px: round(offs![Math.floor(0.95 * offs!.length)]!, 2),
    worstOffPx: round(offs!.at(-1)!, 2),
    medianEndOffPx: round(ends![ends!.length >> 1]!, 2),
    worstEndOffPx: round(ends!.at(-1)!, 2),
    mendedDb: round(errors.mended.psnr, 2),
    plateDb: round(errors.plate.psnr, 2),
  })
}

function distanceTo(curve: PathCurve, { x, y }: { readonly x: number; readonly y: number }): number {
  let min = Infinity
  for (let arc = 0; arc <= curve.lengthPx; arc += 0.25) {
    const at = pathPointAt(curve, arc)
    min = Math.min(min, Math.hypot(at.x - x, at.y - y))
  }
  return min
}

const mean = (values: readonly number[]): number =>
  values.reduce((sum, value) => sum + value, 0) / values.length

for (const { description } of FILM) {
  const shot = openShot(description.name)
  const survey = await surveyed(shot)
  if (description.name === 'LM_010') await scoreLines(shot, survey.finds)
  if (description.name !== 'LM_040') continue
  scoreFinds(survey)
  await scoreMended(shot, survey.finds)
}
