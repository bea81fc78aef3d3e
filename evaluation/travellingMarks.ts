/**
 * What the survey finds of marks that travel: a made-up one laid over every practice sequence, and what it takes for one where there is none.
 *
 *   node --import tsx evaluation/travellingMarks.ts FOLDER
 *
 * FOLDER holds the practice set. The mark rests, goes, rests and goes, over the whole clip. A JSON line for each sequence: `found`, share of the frames on
 * which a find lies within 6 px of where it has its middle on the first of them, as far as it can be followed from there; `finds`, all marks found with it; `false`, those found without.
 */
import sharp from 'sharp'
import type { Samples } from '../core/image/samples'
import { placeOn, type Find } from '../core/survey/finds'
import { createSurvey } from '../core/survey/survey'
import { medianOf } from '../core/image/median'
import { placeBetween } from '../tests/fixtures/stops'
import { FIRST_FRAME, openSequence, sequencesIn, type PracticeSequence } from './practiceFootage'

const NEAR_PX = 6
/** Shares of the clip, and of the room that the frame leaves. */
const STOPS = [
  { at: 0, x: 0.1, y: 0.15 },
  { at: 0.2, x: 0.1, y: 0.15 },
  { at: 0.5, x: 0.6, y: 0.3 },
  { at: 0.68, x: 0.6, y: 0.3 },
  { at: 1, x: 0.2, y: 0.8 },
] as const

interface MadeMark {
  readonly width: number
  readonly height: number
  /** Four channels, the last its opacity. */
  readonly data: Uint8Array
}

async function makeMark(pictureWidth: number): Promise<MadeMark> {
  const scale = pictureWidth / 960
  const [width, height] = [Math.round(240 * scale), Math.round(64 * scale)]
  const line = (y: number, size: number, words: string) =>
    `<text x="${6 * scale}" y="${y * scale}" font-family="sans-serif" font-weight="bold" font-size="${size * scale}">${words}</text>`
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><g fill="white" fill-opacity="0.5">${line(34, 30, 'FOR REVIEW')}${line(58, 18, 'Fennel Street 27')}</g></svg>`
  return { width, height, data: await sharp(Buffer.from(svg)).ensureAlpha().raw().toBuffer() }
}

/** The upper left corner on a frame, whole px. */
function placeAt(frame: number, { frameCount, clip }: PracticeSequence, mark: MadeMark) {
  const { width, height } = clip.plate
  const stops = STOPS.map(({ at, x, y }) => ({
    frame: FIRST_FRAME + Math.round(at * (frameCount - 1)),
    x: x * (width - mark.width),
    y: y * (height - mark.height),
  }))
  const { x, y } = placeBetween(stops, frame)
  return { x: Math.round(x), y: Math.round(y) }
}

function withMark(
  samples: Samples,
  mark: MadeMark,
  { x, y }: { readonly x: number; readonly y: number },
): Samples {
  const data = samples.data.slice()
  const unit = data instanceof Uint8Array ? 1 : 257
  for (let row = 0; row < mark.height; row++) {
    for (let col = 0; col < mark.width; col++) {
      const from = 4 * (row * mark.width + col)
      const opacity = mark.data[from + 3]! / 255
      const to = ((y + row) * samples.width + x + col) * samples.channels
      for (let c = 0; c < 3; c++)
        data[to + c] = Math.round((1 - opacity) * data[to + c]! + opacity * unit * mark.data[from + c]!)
    }
  }
  return { ...samples, data }
}

async function marksIn(sequence: PracticeSequence, change: (samples: Samples, frame: number) => Samples) {
  const { firstFrame, lastFrame } = sequence.span
  const survey = createSurvey(sequence.clip.plate, firstFrame)
  for (let frame = firstFrame; frame <= lastFrame; frame++)
    survey.add(change(await sequence.read('plate', frame), frame))
  const { finds } = survey.finish().survey
  return finds.flatMap((find) => (find.kind === 'mark' && find.keys ? find : []))
}

/** Share of all frames on which a find goes with the mark. */
function followedShare(find: Find, sequence: PracticeSequence, mark: MadeMark): number {
  const frames = Array.from({ length: sequence.frameCount }, (_, i) => FIRST_FRAME + i)
  const off = frames.map((frame) => {
    const [found, there] = [placeOn(find, frame), placeAt(frame, sequence, mark)]
    return { x: found.x - there.x, y: found.y - there.y }
  })
  const [x, y] = [medianOf(off.map((one) => one.x)), medianOf(off.map((one) => one.y))]
  return (
    off.filter((one) => Math.abs(one.x - x) < NEAR_PX && Math.abs(one.y - y) < NEAR_PX).length / frames.length
  )
}

const [folder = '.'] = process.argv.slice(2)
for (const name of sequencesIn(folder, [''])) {
  const sequence = openSequence(folder, name)
  const mark = await makeMark(sequence.clip.plate.width)
  const found = await marksIn(sequence, (samples, frame) =>
    withMark(samples, mark, placeAt(frame, sequence, mark)),
  )
  const none = await marksIn(sequence, (samples) => samples)
  const shares = found.map((find) => followedShare(find, sequence, mark))
  console.log(
    JSON.stringify({
      name: sequence.name,
      sets: sequence.sets,
      found: Math.round(100 * Math.max(0, ...shares)) / 100,
      finds: found.length,
      false: none.length,
    }),
  )
}
