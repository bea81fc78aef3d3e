/**
 * Points of the practice set followed from their first frame: how far off they are, and whether they know it.
 *
 *   node --import tsx evaluation/practiceTracks.ts SEQUENCES [--every]
 *
 * Prints a JSON line for each sequence: the mean error and the worst of places that are held, px; the share of places held among those
 * that can be seen; and of places said to be at least 80 % sure how many are more than 2 px off. With `--every` each point too.
 */
import { parseArgs } from 'node:util'
import { absorb, framesFrom, newTrack, trackRequest } from '../core/document/follow'
import { runTrack } from '../core/motion/runTrack'
import { FIRST_FRAME, openSequence, sequencesIn } from './practiceFootage'

const [SURE, OFF_PX] = [0.8, 2]

interface TruePoints {
  readonly points?: readonly (readonly [number, number])[]
  readonly points_visible?: readonly boolean[]
}

const { positionals, values } = parseArgs({ allowPositionals: true, options: { every: { type: 'boolean' } } })
const [folder] = positionals
if (!folder)
  throw new Error('say where the sequences are: node --import tsx evaluation/practiceTracks.ts SEQUENCES')
for (const name of sequencesIn(folder, ['track_', 'patch_'])) {
  const { clip, span, truth, sets } = openSequence(folder, name)
  const known = truth as readonly TruePoints[]
  let [sum, held, seen, sure, falsely, worst] = [0, 0, 0, 0, 0, 0]
  for (const [k, [x, y]] of known[0]!.points!.entries()) {
    if (known[0]!.points_visible?.[k] === false) continue
    const start = newTrack(`t${k}`, 'point', 'Point', FIRST_FRAME, [x + 0.5, y + 0.5])
    const request = trackRequest(start, FIRST_FRAME, framesFrom(FIRST_FRAME, 'forward', span))
    const outcome = await runTrack(request, clip, { shouldStop: () => false })
    const rows = new Map(absorb(start, FIRST_FRAME, outcome).frames.map((row) => [row[0], row]))
    const told: string[] = []
    known.forEach((frame, i) => {
      const [tx, ty] = frame.points![k]!
      const isSeen = frame.points_visible?.[k] !== false
      if (isSeen) seen++
      const row = rows.get(FIRST_FRAME + i)
      if (!row) return
      const off = Math.hypot(row[2]! - 0.5 - tx, row[3]! - 0.5 - ty)
      if (row[1] >= SURE) {
        sure++
        if (off > OFF_PX) falsely++
      }
      if (off > OFF_PX)
        told.push(`${i}: ${off.toFixed(1)} px ${Math.round(100 * row[1])} %${isSeen ? '' : ' hidden'}`)
      if (!isSeen) return
      held++
      sum += off
      worst = Math.max(worst, off)
    })
    if (values.every && told.length > 0)
      console.log(JSON.stringify({ name, point: k, end: outcome.end, off: told }))
  }
  console.log(
    JSON.stringify({ name, sets, meanPx: sum / held, worstPx: worst, heldShare: held / seen, sure, falsely }),
  )
}
