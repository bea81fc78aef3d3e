/**
 * How wires and rods of the practice set are followed from one rough drawing, a JSON line for each: drawn on the middle frame by
 * a few clicks, 1.3 times as wide, each 2 to 4 px off.
 *
 *   node --import tsx evaluation/practiceLines.ts FOLDER [--only=wire_01]
 *
 *   held     share of frames that the cling has rows for
 *   within   share of all frames on which nine tenths of the area's edges lie within 1 px of the truth's
 *   off      median distance of the centre, px; worst: of the worst frame
 *   width    median ratio of its width to the truth's
 *   ends     of its ends that lie inside the picture: share within 2 px of where they are, and the worst, px
 *   falsely  frames said to be 80 % sure and more than 2 px off
 */
import type { PathPoint } from '../core/geometry/pathCurve'
import { createPathCurve, nearestOnPath, pathPointAt, type PathCurve } from '../core/geometry/pathCurve'
import { absorbCling, CLING_SEARCH_PX, bothWays, clingRequest, newTrack } from '../core/document/follow'
import type { Track } from '../core/document/tracks'
import { trackedPoints } from '../core/motion/cling/clingCurves'
import { medianOf } from '../core/image/median'
import { runCling } from '../core/motion/cling/runCling'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import {
  openSequence,
  sequencesIn,
  FIRST_FRAME,
  type PracticeSequence,
  type TrueLine,
} from './practiceFootage'

const [folder = '/work/practice'] = process.argv.slice(2).filter((one) => !one.startsWith('--'))
const only = process.argv.find((one) => one.startsWith('--only='))?.slice('--only='.length)
const DRAWN_WIDER = 1.3
const CLICKS = 4

export const linesAt = ({ truth }: PracticeSequence, frame: number): readonly TrueLine[] => {
  const { wires, rod } = truth[frame - FIRST_FRAME]!
  return wires ?? (rod ? [rod] : [])
}

/** Straight from point to point where it is no curve. The practice set counts places from pixel centres, we from pixel corners. */
function curveOf({ points, width, curve }: TrueLine): PathCurve {
  const places = curve ? points : points.flatMap((point, i) => divided(point, points[i + 1]))
  return createPathCurve(places.map(([x, y]) => ({ x: x + 0.5, y: y + 0.5, widthPx: width })))
}

/** A point and what lies on the way to the next. */
function divided(
  [x, y]: readonly [number, number],
  next?: readonly [number, number],
): (readonly [number, number])[] {
  if (!next) return [[x, y]]
  return Array.from(
    { length: 12 },
    (_, i) => [x + ((next[0] - x) * i) / 12, y + ((next[1] - y) * i) / 12] as const,
  )
}

/** Where an artist might click: along what is inside the picture, each click some px off. */
export function roughDrawing(
  line: TrueLine,
  { width, height }: { width: number; height: number },
): PathPoint[] {
  const curve = curveOf(line)
  const inside: number[] = []
  for (let arc = 0; arc <= curve.lengthPx; arc += 2) {
    const { x, y } = pathPointAt(curve, arc)
    if (x >= 0 && y >= 0 && x <= width && y <= height) inside.push(arc)
  }
  const [from, to] = [inside[0]!, inside.at(-1)!]
  const overPx = 12 // an end that leaves the picture is drawn past its edge
  const clicks = clicksAlong(line, from, to)
  return clicks.map((click, i) => {
    const isOut = (i === 0 && from > 0) || (i === clicks.length - 1 && to < curve.lengthPx - 2)
    const arc = click + (isOut ? (i === 0 ? -overPx : overPx) : 0)
    const { x, y, tangentX, tangentY } = pathPointAt(curve, Math.min(Math.max(arc, 0), curve.lengthPx))
    const off = (i % 2 === 0 ? 1 : -1) * (2 + ((i * 7) % 3))
    return { x: x - tangentY * off, y: y + tangentX * off, widthPx: line.width * DRAWN_WIDER }
  })
}

/** Evenly along it; nobody draws a bent arm without a click on its bend. */
function clicksAlong({ points, curve }: TrueLine, from: number, to: number): number[] {
  const even = Array.from({ length: CLICKS }, (_, i) => from + ((to - from) * i) / (CLICKS - 1))
  if (curve || points.length < 3) return even
  const arcs = [0]
  points
    .slice(1)
    .forEach(([x, y], i) => arcs.push(arcs[i]! + Math.hypot(x - points[i]![0], y - points[i]![1])))
  const bends = arcs.slice(1, -1).filter((arc) => arc > from && arc < to)
  // A click each side of a bend as well: between clicks a path swings.
  return [from, ...bends.flatMap((arc) => [(from + arc) / 2, arc, (arc + to) / 2]), to]
}

export async function followed(
  sequence: PracticeSequence,
  index: number,
): Promise<{ track: Track; ends: readonly string[] }> {
  const frame = FIRST_FRAME + (sequence.frameCount >> 1)
  const points = roughDrawing(linesAt(sequence, frame)[index]!, sequence.clip.plate)
  const settings = { ...DEFAULT_TRACK_SETTINGS, searchPx: CLING_SEARCH_PX }
  const placed = newTrack('line', 'cling', 'Line', frame, [], settings)
  const request = clingRequest(placed, points, frame, bothWays(frame, sequence.span))
  const outcome = await runCling(request, sequence.clip, { shouldStop: () => false })
  const ends = outcome.ends.map((end) => `${end.reason} ${end.frame}`)
  return { track: absorbCling(placed, outcome), ends }
}

interface FrameErrors {
  readonly offPx: number
  readonly widthRatio: number
  /** Share of places along it whose two edges both lie within 1 px. */
  readonly within: number
  /** Of ends inside the picture, how far they are off. */
  readonly endsPx: readonly number[]
}

/** So far from the picture's edge an end counts, px. */
const INSIDE_PX = 6

function endsOff(
  found: PathCurve,
  exact: PathCurve,
  { width, height }: { width: number; height: number },
): number[] {
  return [0, 1].flatMap((end) => {
    const [at, own] = [exact, found].map((curve) => pathPointAt(curve, end * curve.lengthPx))
    const isInside =
      at!.x > INSIDE_PX && at!.y > INSIDE_PX && at!.x < width - INSIDE_PX && at!.y < height - INSIDE_PX
    return isInside ? [Math.hypot(at!.x - own!.x, at!.y - own!.y)] : []
  })
}

function errorsOf(
  found: PathCurve,
  line: TrueLine,
  { width, height }: { width: number; height: number },
): FrameErrors {
  const exact = curveOf(line)
  const [offs, ratios]: [number[], number[]] = [[], []]
  let within = 0
  for (let arc = 0; arc <= exact.lengthPx; arc += 4) {
    const at = pathPointAt(exact, arc)
    if (at.x < 2 || at.y < 2 || at.x > width - 2 || at.y > height - 2) continue
    const near = nearestOnPath(found, at.x, at.y)
    const widthPx = pathPointAt(found, near.arcPx).widthPx
    offs.push(near.distancePx)
    ratios.push(widthPx / line.width)
    if (near.distancePx + Math.abs(widthPx - line.width) / 2 <= 1) within++
  }
  return {
    offPx: medianOf(offs),
    widthRatio: medianOf(ratios),
    within: within / offs.length,
    endsPx: endsOff(found, exact, { width, height }),
  }
}

const endsOf = (all: readonly number[]) =>
  all.length === 0
    ? {}
    : {
        ends: rounded(all.filter((off) => off <= 2).length / all.length),
        endsWorst: rounded(Math.max(...all), 1),
      }

const rounded = (value: number, places = 2): number => Math.round(value * 10 ** places) / 10 ** places

if (process.argv[1]?.endsWith('practiceLines.ts')) {
  for (const name of sequencesIn(folder, only ? [only] : ['wire_', 'rod_'])) {
    const sequence = openSequence(folder, name)
    for (let index = 0; index < linesAt(sequence, FIRST_FRAME).length; index++) {
      const begun = performance.now()
      const { track, ends } = await followed(sequence, index)
      const seconds = (performance.now() - begun) / 1000
      const errors = track.frames.map(([frame, sure, ...values]) => ({
        frame,
        sure,
        ...errorsOf(
          createPathCurve(trackedPoints(values)),
          linesAt(sequence, frame)[index]!,
          sequence.clip.plate,
        ),
      }))
      console.log(
        JSON.stringify({
          line: `${name} ${index + 1}`,
          half: sequence.sets ? 'sets' : 'reports',
          held: rounded(errors.length / sequence.frameCount),
          within: rounded(errors.filter((one) => one.within >= 0.9).length / sequence.frameCount),
          off: rounded(medianOf(errors.map((one) => one.offPx))),
          worst: rounded(Math.max(...errors.map((one) => one.offPx))),
          width: rounded(medianOf(errors.map((one) => one.widthRatio))),
          ...endsOf(errors.flatMap((one) => one.endsPx)),
          falsely: errors.filter((one) => one.sure >= 0.8 && one.offPx > 2).length,
          ended: ends,
          ...(process.argv.includes('--frames')
            ? {
                frames: errors.map(
                  (one) =>
                    `${one.frame} ${rounded(one.sure)} ${rounded(one.offPx)} ${rounded(one.widthRatio)} ${one.endsPx.map((off) => rounded(off, 1)).join(' ')}`,
                ),
              }
            : {}),
          seconds: rounded(seconds, 1),
        }),
      )
    }
  }
}
