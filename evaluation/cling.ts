/**
 * Cling on LM_010 from one rough drawing a thread on one frame, beside the exact geometry; and the mended result beside
 * the truth: `node --import tsx evaluation/cling.ts [demo folder]`. One JSON line for each figure.
 */
import { momentAt } from '../demo/lm010/scene'
import { clungArea } from '../core/document/clungArea'
import { absorbCling, CLING_SEARCH_PX, bothWays, clingRequest, newTrack } from '../core/document/follow'
import { samplePath, sampleMend } from '../tests/fixtures/sampleMend'
import type { Mend } from '../core/document/mend'
import type { Track } from '../core/document/tracks'
import { runCling } from '../core/motion/cling/runCling'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import { LINE_SHOWS_FROM } from '../core/measure/lineResidue'
import { clingErrors, ROUGH_DRAWINGS, ROUGH_FRAME } from './clingErrors'
import { openShot } from './film'
import { addFrame, coverageOf, Score } from './scores'

const shot = openShot('LM_010')
const { width, frameCount } = shot.description
const { span, source } = shot
const { firstFrame } = span
const context = { shouldStop: () => false }

const mends: Mend[] = []
const tracks: Track[] = []
const round = (value: number) => Math.round(value * 1000) / 1000
for (const name of ['left', 'right'] as const) {
  const points = ROUGH_DRAWINGS[name].map(([x, y]) => ({ x, y, widthPx: 10 }))
  const placed = newTrack(`cling-${name}`, 'cling', name, ROUGH_FRAME, [], {
    ...DEFAULT_TRACK_SETTINGS,
    searchPx: CLING_SEARCH_PX,
  })
  const begun = performance.now()
  const request = clingRequest(placed, points, ROUGH_FRAME, bothWays(ROUGH_FRAME, span))
  const track = absorbCling(placed, await runCling(request, source, context))
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

const document = shot.document(mends, tracks)
const score = new Score()
let snags = 0
for (let frame = firstFrame; frame <= span.lastFrame; frame += 4) {
  const { finished, measures } = await shot.mend(mends, frame, tracks)
  const truth = await shot.read('truth', frame)
  addFrame(
    score,
    finished.data as Uint8Array,
    truth.data as Uint8Array,
    coverageOf(document, frame),
    momentAt(frame),
    width,
  )
  snags += measures.filter(({ line }) => line && line.ratio >= LINE_SHOWS_FROM).length
  if (Number(frame) === 1025)
    console.log(
      JSON.stringify({
        figure: 'line-residue',
        frame,
        mended: measures.map(({ line }) => line && round(line.ratio)),
      }),
    )
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
