/**
 * Scores the Across fill and what a wire starts with (Clean plate, Across where nothing was seen) on LM_010 against the
 * truth, beside Telea's and Navier-Stokes inpainting on the same mattes: `node --import tsx evaluation/lm010.ts [demo folder]`. One JSON line for each zone. `--across` leaves out what needs the scene.

 */
import { momentAt } from '../demo/lm010/scene'
import { fillOf, samplePath } from '../tests/fixtures/sampleMend'
import { analyseScene } from '../core/scene/analyseScene'
import { masksOf } from '../core/evaluate/masks'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { DEFAULT_FINISH, startingFill, type Mend } from '../core/document/mend'
import { openShot } from './film'
import { loadOpenCv } from './opencv'
import { addFrame, coverageOf, inpaintBlended, Score } from './scores'

const shot = openShot('LM_010')
const { width, height } = shot.description
const { firstFrame, lastFrame } = shot.span

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
      keys: KEYED.map((frame) => ({
        frame,
        points: PLACES[name].map((place) => ({ ...momentAt(frame).threads[index]!.points[place]! })),
      })),
    }),
  ],
  fill: fillOf('across'),
  source: null,
  finish: DEFAULT_FINISH,
  span: shot.span,
}))
const document = shot.document(mends)
const starting = mends.map((mend): Mend => ({ ...mend, fill: startingFill('wire') }))
const maskAt = masksOf(documentOf(starting), shot.source)
const scene = process.argv.includes('--across')
  ? null
  : await analyseScene({ range: shot.span, maskAt }, shot.source, { shouldStop: () => false })
const { cv } = await loadOpenCv()
const against = { truth: {} as Record<string, Score>, truthWithoutGrain: {} as Record<string, Score> }
for (let frame = firstFrame; frame <= lastFrame; frame += 4) {
  const [plate, truth, clean] = await Promise.all([
    shot.read('plate', frame),
    shot.read('truth', frame),
    shot.read('truth-without-grain', frame),
  ])
  const { finished } = await shot.mend(mends, frame)
  const coverage = coverageOf(document, frame)
  const pictures = {
    across: finished.data as Uint8Array,
    ...(scene && { cleanPlate: (await shot.mend(starting, frame, [], scene)).finished.data as Uint8Array }),
    telea: inpaintBlended(cv, plate.data as Uint8Array, coverage, width, height, 'telea'),
    navierStokes: inpaintBlended(cv, plate.data as Uint8Array, coverage, width, height, 'navier-stokes'),
  }
  for (const [name, picture] of Object.entries(pictures)) {
    addFrame(
      (against.truth[name] ??= new Score()),
      picture,
      truth.data as Uint8Array,
      coverage,
      momentAt(frame),
      width,
    )
    addFrame(
      (against.truthWithoutGrain[name] ??= new Score()),
      picture,
      clean.data as Uint8Array,
      coverage,
      momentAt(frame),
      width,
    )
  }
}
for (const [reference, scores] of Object.entries(against)) {
  for (const zone of ['all', 'sky', 'tiles', 'ends', 'elsewhere'] as const) {
    const decibels = Object.fromEntries(
      Object.entries(scores).map(([name, score]) => [name, Math.round(score.psnr(zone) * 1000) / 1000]),
    )
    process.stdout.write(
      `${JSON.stringify({ figure: 'psnr-in-thread-area-db', reference, zone, ...decibels })}\n`,
    )
  }
}
