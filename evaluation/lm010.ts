/**
 * Scores the Across fill on LM_010 against the truth, beside Telea's and Navier-Stokes inpainting on
 * the same mattes: `node --import tsx evaluation/lm010.ts [demo folder]`. One JSON line for each zone.
 */
import { join } from 'node:path'
import sharp from 'sharp'
import { LM_010, momentAt } from '../demo/lm010/scene'
import { placeMends } from '../core/mend/place'
import { samplePath } from '../core/mend/sampleMend'
import { evaluateFrame } from '../core/mend/evaluate'
import { cropSamples, pasteSamplesInto } from '../core/image/samples'
import { DEFAULT_FINISH, startingFill, type Mend } from '../core/mend/schema'
import type { MendDocument } from '../core/mend/document'
import { loadOpenCv } from './opencv'
import { addFrame, coverageOf, inpaintBlended, Score } from './scores'

const folder = join(process.argv[2] ?? '.data/test-demo', LM_010.name)
const { width, height, firstFrame, frameCount, frameRate } = LM_010
const lastFrame = firstFrame + frameCount - 1

/** Six keys for each thread, as in the end-to-end test. */
const KEYED = [1001, 1008, 1019, 1030, 1041, 1048]
const PLACES = { left: [0, 48], right: [0, 12, 24, 36, 48] } as const

const mends = (['left', 'right'] as const).map((name, index): Mend => ({
  id: name,
  kind: 'wire',
  name,
  isOn: true,
  areas: [
    samplePath({
      keys: KEYED.map((frame) => ({ frame, points: PLACES[name].map((place) => ({ ...momentAt(frame).threads[index]!.points[place]! })) })),
    }),
  ],
  fill: startingFill(),
  finish: DEFAULT_FINISH,
  span: { firstFrame, lastFrame },
}))
const document: MendDocument = {
  format: 'fillagrant-mends',
  version: 2,
  plate: { name: 'LM_010', width, height, firstFrame, frameCount, frameRate },
  mends,
  tracks: [],
}

const read = async (kind: string, frame: number) =>
  new Uint8Array(
    await sharp(join(folder, kind, `LM_010.${frame}.png`))
      .raw()
      .toBuffer(),
  )
const { cv } = await loadOpenCv()
const against = { truth: {} as Record<string, Score>, truthWithoutGrain: {} as Record<string, Score> }
for (let frame = firstFrame; frame <= lastFrame; frame += 4) {
  const [plate, truth, clean] = await Promise.all([read('plate', frame), read('truth', frame), read('truth-without-grain', frame)])
  const samples = { width, height, channels: 3, data: plate }
  const mended = { ...samples, data: plate.slice() }
  const source = {
    plate: { ...samples, bitDepth: 8 as const },
    readRect: async (_: number, rect: Parameters<typeof cropSamples>[1]) => cropSamples(samples, rect),
    readMatte: async () => null,
  }
  for (const { rect, samples: patch } of (await evaluateFrame(placeMends(mends, new Map(), frame), frame, source, { shouldStop: () => false }))
    .patches)
    pasteSamplesInto(mended, patch, rect)
  const coverage = coverageOf(document, frame)
  const pictures = {
    across: mended.data,
    telea: inpaintBlended(cv, plate, coverage, width, height, 'telea'),
    navierStokes: inpaintBlended(cv, plate, coverage, width, height, 'navier-stokes'),
  }
  for (const [name, picture] of Object.entries(pictures)) {
    addFrame((against.truth[name] ??= new Score()), picture, truth, coverage, momentAt(frame), width)
    addFrame((against.truthWithoutGrain[name] ??= new Score()), picture, clean, coverage, momentAt(frame), width)
  }
}
for (const [reference, scores] of Object.entries(against)) {
  for (const zone of ['all', 'sky', 'tiles', 'ends', 'elsewhere'] as const) {
    const decibels = Object.fromEntries(Object.entries(scores).map(([name, score]) => [name, Math.round(score.psnr(zone) * 1000) / 1000]))
    process.stdout.write(`${JSON.stringify({ figure: 'psnr-in-thread-area-db', reference, zone, ...decibels })}\n`)
  }
}
