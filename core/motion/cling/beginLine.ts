/** The first frame of a cling: the line near the drawing, measured along itself, and what it looks like. */
import { createPathCurve, type PathCurve, type PathPoint } from '../../geometry/pathCurve'
import { medianOf } from '../../image/median'
import { learnLook, seenThrough, type Appearance } from './appearance'
import { insideRows, movedCurve, pointsOf, same } from './clingCurves'
import { findLine, slopeAcross } from './findLine'
import { besidePx, clearest, findFirstLine, type NoLine } from './firstLine'
import { BEYOND_PX, type LineEnds } from './lineEnds'
import type { LineProfile } from './profile'
import { fitProfile } from './profileFit'
import { straighten, type Straightened, type View } from './ruler'

export interface BegunLine {
  readonly points: readonly PathPoint[]
  readonly profile: LineProfile
  /** Of a line that is measured by its two edges; null where these are not its outer ones. */
  readonly look: Appearance | null
  /** How clear it is on this frame: what is found later is compared with that. */
  readonly clarity: number
}

/** A bend for about every 60 px of length. */
export const FREEDOM_PX = 60
/** Columns beside the line that a profile is learned against, px. */
export const LEARN_BESIDE_PX = 12
/** Its edges lie no further outside than so much from where they were last, px. */
export const LEARN_MORE_PX = 2
/** How far it is looked for from round to round, px: the rough drawing bent the first straightening. */
const ROUNDS_PX = [9, 6, 4, 3] as const
const EDGE_ROUNDS_PX = [3, 3] as const
const EDGES_BESIDE_PX = 10
/** So far may the edges be from the outer ones, relatively and px, for a line to be measured by them. */
const [PLAIN_LEAST, PLAIN_MOST, PLAIN_OFF_PX] = [0.75, 1.3, 0.75] as const
const MIN_CLARITY = 0.02

export function beginLine(
  drawn: readonly PathPoint[],
  view: View,
  ends: LineEnds,
  searchPx: number,
): BegunLine | NoLine {
  const drawnPx = medianOf(drawn.map(({ widthPx }) => widthPx))
  let curve = createPathCurve(drawn)
  const rough = straighten(view, curve, besidePx(drawnPx), 0)
  const first = findFirstLine(rough, drawnPx, (row) => rough.isSeen[row] === 1, FREEDOM_PX)
  if (typeof first === 'string') return first
  let { widthPx, profile } = first.learned
  curve = movedCurve(curve, rough, { offsets: first.offsets, widths: same(widthPx, first.offsets.length) })
  for (const reachPx of ROUNDS_PX) {
    const ruler = rulerAlong(view, curve, reachPx + widthPx / 2 + LEARN_BESIDE_PX)
    const found = clearest(ruler, profile, widthPx, reachPx, insideRows(ruler, curve), FREEDOM_PX)
    if (!found) continue
    ;({ widthPx, profile } = found.learned)
    const line = { offsets: found.offsets, widths: same(widthPx, found.offsets.length) }
    curve = ends.fitted(curve, ruler, line, view, true)
  }
  const plain = plainEdges(curve, widthPx, view, ends)
  const points = pointsOf(plain?.curve ?? curve)
  return { points, profile, look: plain?.look ?? null, clarity: clarityOf(points, profile, view, searchPx) }
}

/** A picture straightened along a line, a little beyond its ends. */
export const rulerAlong = (view: View, curve: PathCurve, reachPx: number): Straightened =>
  straighten(view, curve, reachPx, BEYOND_PX)

/** What a search for a line looks at to either side, px. */
export const searchReachPx = (curve: PathCurve, searchPx: number): number =>
  searchPx + Math.max(...curve.widths) / 2 + 2

/** The line as its two edges measure it, best where they are its outer ones; null where they are not. */
function plainEdges(
  start: PathCurve,
  widthPx: number,
  view: View,
  ends: LineEnds,
): { readonly curve: PathCurve; readonly look: Appearance } | null {
  let [curve, look]: [PathCurve, Appearance | null] = [start, null]
  for (const reachPx of EDGE_ROUNDS_PX) {
    const ruler = rulerAlong(view, curve, reachPx + widthPx + EDGES_BESIDE_PX)
    const isUsed = insideRows(ruler, curve)
    const rows = ruler.raster.height
    look = learnLook(ruler, same(0, rows), same(widthPx, rows), isUsed)
    if (!look) return null
    const slope = slopeAcross(seenThrough(ruler, look), isUsed)
    const found = findLine(slope, ruler.middle, () => widthPx, reachPx, isUsed, FREEDOM_PX)
    const ratio = medianOf(found.widths) / widthPx
    const offPx = medianOf(found.offsets.map(Math.abs))
    if (!(ratio >= PLAIN_LEAST && ratio <= PLAIN_MOST && offPx <= PLAIN_OFF_PX)) return null
    curve = ends.fitted(curve, ruler, found, view, true)
  }
  return look && { curve, look }
}

function clarityOf(points: readonly PathPoint[], profile: LineProfile, view: View, searchPx: number): number {
  const curve = createPathCurve(points)
  const ruler = rulerAlong(view, curve, searchReachPx(curve, searchPx))
  const { clarity } = fitProfile(ruler, profile, searchPx, insideRows(ruler, curve), FREEDOM_PX)
  return Math.max(MIN_CLARITY, clarity)
}
