/**
 * Cling on LM_010 from one rough drawing a thread on one frame, beside the exact geometry; and the mended result beside
 * the truth: `node --import tsx evaluation/cling.ts [demo folder]`. One JSON line for each figure.
 */
import { join } from 'node:path'
import sharp from 'sharp'
import { LM_010, momentAt } from '../demo/lm010/scene'
import { clungArea } from '../core/mend/clungArea'
import type { MendDocument } from '../core/mend/document'
import { evaluateFrame } from '../core/mend/evaluate'
import { absorbCling, CLING_SEARCH_PX, clingRequest, framesFrom, newTrack } from '../core/mend/follow'
import { placeMends } from '../core/mend/place'
import { samplePath, sampleMend } from '../core/mend/sampleMend'
import type { Mend } from '../core/mend/schema'
import type { Track } from '../core/mend/tracks'
import { cropSamples, pasteSamplesInto, type Samples } from '../core/image/samples'
import { runCling } from '../core/motion/cling/runCling'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import { LINE_SHOWS_FROM } from '../core/measure/lineResidue'
import { clingErrors, ROUGH_DRAWINGS, ROUGH_FRAME } from './clingErrors'
import { addFrame, coverageOf, Score } from './scores'

const folder = join(process.argv[2] ?? '.data/test-demo', LM_010.name)
const { width, height, firstFrame, frameCount, frameRate } = LM_010
const span = { firstFrame, lastFrame: firstFrame + frameCount - 1 }

const read = async (kind: string, frame: number): Promise<Uint8Array> =>
  new Uint8Array(
    await sharp(join(folder, kind, `LM_010.${frame}.png`))
      .raw()
      .toBuffer(),
  )
const frames = new Map<number, Samples>()
for (let frame = span.firstFrame; frame <= span.lastFrame; frame++)
  frames.set(frame, { width, height, channels: 3, data: await read('plate', frame) })
const source = {
  plate: { width, height, channels: 3, bitDepth: 8 as const },
  readRect: async (frame: number, rect: Parameters<typeof cropSamples>[1]) => cropSamples(frames.get(frame)!, rect),
  readMatte: async () => null,
}
const context = { shouldStop: () => false }

const mends: Mend[] = []
const tracks: Track[] = []
const round = (value: number) => Math.round(value * 1000) / 1000
for (const name of ['left', 'right'] as const) {
  const points = ROUGH_DRAWINGS[name].map(([x, y]) => ({ x, y, widthPx: 10 }))
  let track = newTrack(`cling-${name}`, 'cling', name, ROUGH_FRAME, [], { ...DEFAULT_TRACK_SETTINGS, searchPx: CLING_SEARCH_PX })
  const begun = performance.now()
  for (const direction of ['forward', 'backward'] as const) {
    const outcome = await runCling(clingRequest(track, points, ROUGH_FRAME, framesFrom(ROUGH_FRAME, direction, span)), source, context)
    track = absorbCling(track, outcome)
  }
  const msPerFrame = (performance.now() - begun) / frameCount
  tracks.push(track)
  const area = clungArea(samplePath(), new Map(), track, span, ROUGH_FRAME, span)
  mends.push(sampleMend({ id: name, name, areas: [area], span }))
  const errors = clingErrors(track, name)
  console.log(
    JSON.stringify({
      figure: 'cling-lm010',
      thread: name,
      frames: track.frames.length,
      ...Object.fromEntries(Object.entries(errors).map(([key, value]) => [key, round(value)])),
      msPerFrame: round(msPerFrame),
    }),
  )
}

const document: MendDocument = {
  format: 'fillagrant-mends',
  version: 2,
  plate: { name: 'LM_010', width, height, firstFrame, frameCount, frameRate },
  mends,
  tracks,
}
const byId = new Map(tracks.map((track) => [track.id, track]))
const score = new Score()
let snags = 0
for (let frame = firstFrame; frame <= span.lastFrame; frame += 4) {
  const mended = { ...frames.get(frame)!, data: (frames.get(frame)!.data as Uint8Array).slice() }
  const { patches, measures } = await evaluateFrame(placeMends(mends, byId, frame), frame, source, context)
  for (const { rect, samples } of patches) pasteSamplesInto(mended, samples, rect)
  addFrame(score, mended.data, await read('truth', frame), coverageOf(document, frame), momentAt(frame), width)
  snags += measures.filter(({ line }) => line && line.ratio >= LINE_SHOWS_FROM).length
  if (Number(frame) === 1025)
    console.log(JSON.stringify({ figure: 'line-residue', frame, mended: measures.map(({ line }) => line && round(line.ratio)) }))
}
console.log(
  JSON.stringify({
    figure: 'psnr-in-clung-area-db',
    all: round(score.psnr('all')),
    sky: round(score.psnr('sky')),
    tiles: round(score.psnr('tiles')),
    ends: round(score.psnr('ends')),
    snags,
  }),
)
