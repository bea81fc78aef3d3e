/**
 * How often a path that is drawn where there is no line is said to show none, and a stretch of a line that is there is found: on the
 * middle frame of sequences of the practice set, a JSON line for each half and length.
 *
 *   node --import tsx evaluation/practiceNoLine.ts FOLDER
 */
import { createPathCurve, nearestOnPath, pathPointAt, type PathPoint } from '../core/geometry/pathCurve'
import { wholePicture } from '../core/image/rect'
import { besidePx, findFirstLine } from '../core/motion/cling/firstLine'
import { straighten } from '../core/motion/cling/ruler'
import { createRandom } from '../tests/random'
import { FIRST_FRAME, openSequence, sequencesIn, type PracticeSequence } from './practiceFootage'
import { linesAt, roughDrawing } from './practiceLines'

const [folder = '/work/practice'] = process.argv.slice(2)
const LENGTHS_PX = [80, 150, 300] as const
const WIDTHS_PX = [4, 10, 32] as const
const TRIES = 6
const AWAY_PX = 60
const FREEDOM_PX = 60
const random = createRandom(5)

const tally = new Map<string, { said: number; of: number }>()
const count = (what: string, isSaid: boolean): void => {
  const { said, of } = tally.get(what) ?? { said: 0, of: 0 }
  tally.set(what, { said: said + (isSaid ? 1 : 0), of: of + 1 })
}

/** Three points straight on from a place; null where they leave the picture or come near a line. */
function somewhere(
  sequence: PracticeSequence,
  frame: number,
  lengthPx: number,
  widthPx: number,
): PathPoint[] | null {
  const { width, height } = sequence.clip.plate
  const [x, y, turn] = [random() * width, random() * height, random() * 2 * Math.PI]
  const points = [0, 0.5, 1].map((share) => ({
    x: x + Math.cos(turn) * lengthPx * share,
    y: y + Math.sin(turn) * lengthPx * share,
    widthPx,
  }))
  const curves = linesAt(sequence, frame).map((line) =>
    createPathCurve(line.points.map(([px, py]) => ({ x: px, y: py, widthPx: line.width }))),
  )
  const isFree = points.every(
    (point) =>
      point.x >= 0 && point.y >= 0 && point.x <= width && point.y <= height &&
      curves.every((curve) => nearestOnPath(curve, point.x, point.y).distancePx > AWAY_PX),
  ) // prettier-ignore
  return isFree ? points : null
}

for (const name of sequencesIn(folder, ['wire_', 'rod_', 'object_', 'track_', 'fill_'])) {
  const sequence = openSequence(folder, name)
  const { plate } = sequence.clip
  const frame = FIRST_FRAME + (sequence.frameCount >> 1)
  const whole = wholePicture(plate)
  const samples = await sequence.clip.readRect(frame, whole)
  const largest = samples.data.BYTES_PER_ELEMENT === 1 ? 255 : 65535
  const raster = { ...samples, data: Float32Array.from(samples.data, (value) => value / largest) }
  const isFound = (points: readonly PathPoint[]): boolean => {
    const drawnPx = points[0]!.widthPx
    const rough = straighten(
      { raster, rect: whole, picture: plate },
      createPathCurve(points),
      besidePx(drawnPx),
      0,
    )
    return typeof findFirstLine(rough, drawnPx, (row) => rough.isSeen[row] === 1, FREEDOM_PX) !== 'string'
  }
  const half = sequence.sets ? 'sets' : 'reports'
  for (const lengthPx of LENGTHS_PX) {
    for (const widthPx of WIDTHS_PX) {
      for (let tried = 0; tried < TRIES; tried++) {
        const points = somewhere(sequence, frame, lengthPx, widthPx)
        if (points) count(`${half}, ${lengthPx} px, no line: said so`, !isFound(points))
      }
    }
    for (const line of linesAt(sequence, frame)) {
      const curve = createPathCurve(roughDrawing(line, plate))
      for (const from of [0.15, 0.4, 0.6].map((share) => share * curve.lengthPx)) {
        if (from + lengthPx > curve.lengthPx) continue
        const points = [0, 0.5, 1].map((share) => pathPointAt(curve, from + lengthPx * share))
        const widthPx = line.width < 12 ? 10 : 32
        count(
          `${half}, ${lengthPx} px, a line: found`,
          isFound(points.map(({ x, y }) => ({ x, y, widthPx }))),
        )
      }
    }
  }
}
for (const [what, { said, of }] of [...tally].sort()) console.log(JSON.stringify({ what, said, of }))
