/**
 * Cling: a path re-fits itself to the line in the picture, frame by frame.
 *
 * On the first frame the line is found near the drawing and what it looks like across is learned (`firstLine.ts`,
 * `profile.ts`). After that each frame starts from where the last two lead; where that fits badly, the line is looked for
 * far around. The ends stay on what they touch: a point of the subject beyond an end is followed, and the step at the end
 * found. A line whose two edges are plain is measured by them.
 */
import { createPathCurve, pathPointAt, type PathCurve, type PathPoint } from '../../geometry/pathCurve'
import type { Raster } from '../../image/raster'
import { intersectRects, rectAround, wholePicture, type Rect, type Size } from '../../image/rect'
import { floatsFromSamplesInto, type Samples } from '../../image/samples'
import { withKernelMemory } from '../../kernels/memory'
import { learnLook, seenThrough, type Appearance } from './appearance'
import {
  arcNear,
  cutCurve,
  insideRows,
  isInside,
  isNear,
  movedBy,
  movedCurve,
  pointsOf,
  same,
  type Line,
} from './clingCurves'
import { findEnd, lineColour, presence } from './ends'
import { findLine, slopeAcross } from './findLine'
import { besidePx, clearest, findFirstLine, ROUGH_PX, type NoLine } from './firstLine'
import { blended, learnProfile, type LineProfile } from './profile'
import { bestRuns, fitProfile, type Run } from './profileFit'
import { ALONG_PX, placeAlong, straighten, straightenBetween, type Straightened } from './ruler'
import { EndSubjects } from './subjects'

export interface ClingSettings {
  /** How far from where it is expected the line may be, px. */
  readonly searchPx: number
}

export interface ClungFrame {
  readonly points: readonly PathPoint[]
  /** 0 to 1. */
  readonly sure: number
  readonly isHeld: boolean
}

const BEYOND_PX = 26
const END_SEARCH_PX = 12
const END_STEP_PX = 0.5
const END_MARGIN_PX = 16 // rows on either side that a step is judged by
const FREEDOM_PX = 60 // a bend for about every 60 px of length
/** Of the first frame's clarity; below it the line is not there, from there on it is as clear as can be. */
const [LOST_SHARE, CLEAR_SHARE] = [0.35, 0.8]
/** Of the picture's width: how far a line is looked for that is not where it was expected. */
const FAR_SHARE = 0.2
const FAR_ALONG_PX = 8
const FAR_RUNS = 5
/** Just beyond where a line is looked for anyway: it may have begun to move, px. */
const AROUND_PX = 13
const AROUND_RUNS: readonly Run[] = [-AROUND_PX, 0, AROUND_PX].flatMap((firstPx) =>
  [-AROUND_PX, 0, AROUND_PX].map((lastPx) => ({ firstPx, lastPx })),
)
/** Found far off, it must fit so much better than where it was expected. */
const FAR_BETTER = 1.2
/** How much of what the line looks like now is taken over from frame to frame, while it is surely there. */
const [LEARN_SHARE, LEARN_FROM_SURE, LEARN_EVERY] = [0.3, 0.8, 3]
/** Beside the line, what its edges are measured in, px. */
const BESIDE_PX = 5
/** Columns beside the line that a profile is learned against, px. */
const LEARN_BESIDE_PX = 12
/** So far may the edges be from the outer ones, relatively, for a line to be measured by them. */
const [PLAIN_LEAST, PLAIN_MOST, PLAIN_OFF_PX] = [0.75, 1.3, 0.75] as const

type EndKind = 'open' | 'seen'

export class ClingTracker {
  readonly #settings: ClingSettings
  #points: readonly PathPoint[]
  #previous: readonly PathPoint[] | null = null
  /** As it was on the last frame that held it, for looking far around. */
  #before: readonly PathPoint[] = []
  #profile: LineProfile | null = null
  /** Of a line that is measured by its two edges. */
  #look: Appearance | null = null
  #noLine: NoLine | null = null
  #clarity = 0
  #taken = 0
  readonly #drawnPx: number
  readonly #ends: [EndKind, EndKind] = ['open', 'open']
  readonly #subjects = new EndSubjects()

  constructor(points: readonly PathPoint[], settings: ClingSettings) {
    this.#points = points
    this.#settings = settings
    this.#drawnPx = median(Float64Array.from(points, ({ widthPx }) => widthPx))
  }

  /**
   * The pixels it wants to see of the next frame; null when the path has left the picture.
   * @param expected  Where the line should be, where that is known: as many points as `CLING_POINTS`.
   */
  window(picture: Size, expected = this.#expected()): Rect | null {
    return this.#windowAround(picture, expected, ROUGH_PX + this.#settings.searchPx)
  }

  #windowAround(picture: Size, expected: readonly PathPoint[], farPx: number): Rect | null {
    const reach = farPx + BEYOND_PX + Math.max(...this.#points.map((point) => point.widthPx)) + 12
    const xs = expected.map((point) => point.x)
    const ys = expected.map((point) => point.y)
    const box = rectAround(
      Math.min(...xs) - reach,
      Math.min(...ys) - reach,
      Math.max(...xs) + reach,
      Math.max(...ys) + reach,
    )
    return intersectRects(box, wholePicture(picture))
  }

  /** Why `begin` found no line; null where it did. */
  get noLine(): NoLine | null {
    return this.#noLine
  }

  /** Takes the frame that was drawn on. @returns null when no line is found near the drawing: see `noLine`. */
  begin(samples: Samples, rect: Rect, picture: Size): ClungFrame | null {
    return withRaster(samples, (raster) => this.#begin(raster, samples, rect, picture))
  }

  #begin(raster: Raster, samples: Samples, rect: Rect, picture: Size): ClungFrame | null {
    this.#ends[0] = isInside(this.#points[0]!, picture) ? 'seen' : 'open'
    this.#ends[1] = isInside(this.#points.at(-1)!, picture) ? 'seen' : 'open'
    let curve = createPathCurve(this.#points)
    const rough = straighten(raster, rect, picture, curve, besidePx(this.#drawnPx), 0)
    const isSeen = (row: number) => rough.isSeen[row] === 1
    const first = findFirstLine(rough, this.#drawnPx, isSeen, FREEDOM_PX)
    if (typeof first === 'string') {
      this.#noLine = first
      return null
    }
    let { widthPx, profile } = first.learned
    curve = movedCurve(curve, rough, { offsets: first.offsets, widths: same(widthPx, first.offsets.length) })
    // Again along the line itself: the rough drawing bent the first straightening.
    for (const reachPx of [9, 6, 4, 3]) {
      const ruler = this.#ruler(raster, rect, picture, curve, reachPx + widthPx / 2 + LEARN_BESIDE_PX)
      const isUsed = insideRows(ruler, curve)
      const found = clearest(ruler, profile, widthPx, reachPx, isUsed, FREEDOM_PX)
      if (!found) continue
      ;({ widthPx, profile } = found.learned)
      const line = { offsets: found.offsets, widths: same(widthPx, found.offsets.length) }
      curve = this.#fitted(curve, ruler, line, raster, rect, picture, true)
    }
    this.#profile = profile
    this.#points = pointsOf(curve)
    this.#learnEdges(raster, rect, picture)
    this.#clarity = this.#clarityOf(raster, rect, picture)
    this.#before = this.#points
    this.#subjects.begin(this.#points, (end) => this.#ends[end] === 'seen', samples, rect, picture)
    return { points: this.#points, sure: 1, isHeld: true }
  }

  /** Whether the line's two edges are its outer ones: then they measure it best. */
  #learnEdges(raster: Raster, rect: Rect, picture: Size): void {
    let curve = createPathCurve(this.#points)
    const widthPx = median(curve.widths)
    for (const reachPx of [3, 3]) {
      const ruler = this.#ruler(raster, rect, picture, curve, reachPx + widthPx + 10)
      const isUsed = insideRows(ruler, curve)
      const flat = same(0, ruler.raster.height)
      const look = learnLook(ruler, flat, same(widthPx, flat.length), isUsed)
      if (!look) return
      const slope = slopeAcross(seenThrough(ruler, look), isUsed)
      const found = findLine(slope, ruler.middle, () => widthPx, reachPx, isUsed, FREEDOM_PX)
      const ratio = median(found.widths) / widthPx
      const off = median(found.offsets.map((offset) => Math.abs(offset)))
      if (!(ratio >= PLAIN_LEAST && ratio <= PLAIN_MOST && off <= PLAIN_OFF_PX)) return
      this.#look = look
      curve = this.#fitted(curve, ruler, found, raster, rect, picture, true)
    }
    this.#points = pointsOf(curve)
  }

  /** How clear the line is where the path lies. */
  #clarityOf(raster: Raster, rect: Rect, picture: Size): number {
    const curve = createPathCurve(this.#points)
    const ruler = this.#ruler(raster, rect, picture, curve, this.#searchReach(curve))
    const isUsed = insideRows(ruler, curve)
    return Math.max(
      0.02,
      fitProfile(ruler, this.#profile!, this.#settings.searchPx, isUsed, FREEDOM_PX).clarity,
    )
  }

  #ruler(raster: Raster, rect: Rect, picture: Size, curve: PathCurve, reachPx: number): Straightened {
    return straighten(raster, rect, picture, curve, reachPx, BEYOND_PX)
  }

  #searchReach(curve: PathCurve): number {
    return this.#settings.searchPx + Math.max(...curve.widths) / 2 + 2
  }

  /** The next frame. Where nothing is held the path stays where it was expected. @param expected  As for `window`. */
  advance(samples: Samples, rect: Rect, picture: Size, expected = this.#expected()): ClungFrame {
    return withRaster(samples, (raster) => {
      this.#subjects.follow(samples, rect, picture)
      const found = this.#lookAround(raster, rect, picture, createPathCurve(expected))
      if (found.quality < LOST_SHARE) return { points: expected, sure: 0, isHeld: false }
      this.#before = this.#points
      return this.#take(found, raster, rect, picture)
    })
  }

  /** What `searchFar` wants to see of the frame that was last advanced to. */
  farWindow(picture: Size, around: readonly PathPoint[] = this.#before): Rect | null {
    return this.#windowAround(picture, around, FAR_SHARE * picture.width)
  }

  /**
   * Looks for the line far around where it was last, on the frame that was last advanced to.
   * @param last  What `advance` found. @returns null where nothing fits better.
   */
  searchFar(samples: Samples, rect: Rect, picture: Size, last: ClungFrame): ClungFrame | null {
    return withRaster(samples, (raster) => {
      const from = createPathCurve(this.#before)
      let best: Looked | null = null
      for (const run of [...AROUND_RUNS, ...this.#farRuns(raster, rect, picture, this.#before)]) {
        const found = this.#lookAround(raster, rect, picture, movedBy(from, run))
        if (!best || found.quality > best.quality) best = found
      }
      const here = last.isHeld
        ? this.#lookAround(raster, rect, picture, createPathCurve(last.points)).quality
        : 0
      if (!best || best.quality < Math.max(LOST_SHARE, FAR_BETTER * here)) return null
      this.#points = this.#before
      return this.#take(best, raster, rect, picture)
    })
  }

  /**
   * Everywhere that the line may be on the next frame, the best first: near some places, and far around one of them.
   * Changes nothing but where the subjects at its ends are.
   */
  candidates(
    samples: Samples,
    rect: Rect,
    picture: Size,
    near: readonly (readonly PathPoint[])[],
  ): ClingCandidate[] {
    return withRaster(samples, (raster) => {
      this.#subjects.follow(samples, rect, picture)
      const [last] = near
      const starts = near.map(createPathCurve)
      for (const run of [...AROUND_RUNS, ...this.#farRuns(raster, rect, picture, last!)])
        starts.push(movedBy(starts[0]!, run))
      const found = starts
        .map((start) => {
          const { curve, quality } = this.#lookAround(raster, rect, picture, start)
          return { points: pointsOf(curve), quality }
        })
        .sort((a, b) => b.quality - a.quality)
      return found.filter((one, i) => !found.slice(0, i).some((other) => isNear(one.points, other.points)))
    })
  }

  /** Measures the line on a frame, near where it is said to lie. */
  settle(samples: Samples, rect: Rect, picture: Size, points: readonly PathPoint[]): ClungFrame {
    return withRaster(samples, (raster) => {
      this.#subjects.follow(samples, rect, picture)
      const found = this.#lookAround(raster, rect, picture, createPathCurve(points))
      if (found.quality < LOST_SHARE) return { points, sure: 0, isHeld: false }
      return this.#take(found, raster, rect, picture)
    })
  }

  #farRuns(raster: Raster, rect: Rect, picture: Size, points: readonly PathPoint[]): Run[] {
    const from = createPathCurve(points)
    const far = FAR_SHARE * picture.width
    const reachPx = far + Math.max(...from.widths) / 2 + 2
    const ruler = straightenBetween(raster, rect, picture, from, 0, from.lengthPx, FAR_ALONG_PX, reachPx)
    return bestRuns(ruler, this.#profile!, far, (row) => ruler.isSeen[row] === 1, FAR_RUNS)
  }

  /** The line as it fits best near a curve. */
  #lookAround(raster: Raster, rect: Rect, picture: Size, start: PathCurve): Looked {
    const ruler = this.#ruler(raster, rect, picture, start, this.#searchReach(start))
    const isUsed = insideRows(ruler, start)
    const fit = fitProfile(ruler, this.#profile!, this.#settings.searchPx, isUsed, FREEDOM_PX)
    const widths = Float64Array.from(ruler.arcs, (arc) => pathPointAt(start, arc).widthPx)
    const line = { offsets: fit.offsets, widths }
    const curve = movedCurve(start, ruler, line)
    return { curve, quality: fit.clarity / this.#clarity, spreadPx: fit.spreadPx }
  }

  /** Measures the line where it was found, and goes on from there. */
  #take({ curve, quality, spreadPx }: Looked, raster: Raster, rect: Rect, picture: Size): ClungFrame {
    const widest = Math.max(...curve.widths)
    const sure = sureOf(quality, spreadPx)
    const learns = sure >= LEARN_FROM_SURE && this.#taken++ % LEARN_EVERY === 0
    const ruler = this.#ruler(
      raster,
      rect,
      picture,
      curve,
      3 + widest / 2 + (learns ? LEARN_BESIDE_PX : BESIDE_PX),
    )
    const isUsed = insideRows(ruler, curve)
    const widthAt = (row: number) => pathPointAt(curve, ruler.arcs[row]!).widthPx
    const line = this.#look
      ? findLine(
          slopeAcross(seenThrough(ruler, this.#look), isUsed),
          ruler.middle,
          widthAt,
          3,
          isUsed,
          FREEDOM_PX,
        )
      : {
          ...fitProfile(ruler, this.#profile!, 3, isUsed, FREEDOM_PX),
          widths: Float64Array.from({ length: ruler.raster.height }, (_, row) => widthAt(row)),
        }
    if (learns) {
      const now = learnProfile(ruler, line.offsets, isUsed, widest / 2 + 2)
      if (now) this.#profile = blended(this.#profile!, now.profile, LEARN_SHARE)
    }
    this.#previous = this.#points
    this.#points = pointsOf(this.#fitted(curve, ruler, line, raster, rect, picture, false))
    return { points: this.#points, sure, isHeld: true }
  }

  /** Where the last two frames lead. */
  #expected(): readonly PathPoint[] {
    const previous = this.#previous
    if (!previous) return [...this.#points]
    return this.#points.map((point, i) => ({
      x: 2 * point.x - previous[i]!.x,
      y: 2 * point.y - previous[i]!.y,
      widthPx: point.widthPx,
    }))
  }

  /** The curve moved onto the line, and cut where the line stops. */
  #fitted(
    curve: PathCurve,
    ruler: Straightened,
    found: Line,
    raster: Raster,
    rect: Rect,
    picture: Size,
    isFirst: boolean,
  ): PathCurve {
    const moved = movedCurve(curve, ruler, found)
    const colour = lineColour(ruler, found, insideRows(ruler, curve))
    const [from, to] = ([0, 1] as const).map((end) => {
      if (this.#ends[end] === 'open') return this.#openEnd(moved, end, picture)
      const drawn = end === 0 ? 0 : moved.lengthPx
      const subject = this.#subjects.endAt(end)
      const expected = subject ? arcNear(moved, subject, drawn) : drawn
      const searchPx = isFirst ? BEYOND_PX - 4 : END_SEARCH_PX
      const reach = searchPx + END_MARGIN_PX
      const widthPx = pathPointAt(moved, drawn).widthPx
      const near = straightenBetween(
        raster,
        rect,
        picture,
        moved,
        expected - reach,
        expected + reach,
        END_STEP_PX,
        widthPx / 2 + 1,
      )
      const step = findEnd(presence(near, colour, widthPx), near.arcs, expected, end === 0 ? -1 : 1, searchPx)
      return step && step.sure > 0.3 ? step.arcPx : expected
    }) as [number, number]
    return cutCurve(moved, from, to)
  }

  /** An end outside the picture stays outside, straight on from what is seen. */
  #openEnd(curve: PathCurve, end: 0 | 1, picture: Size): number {
    const step = end === 0 ? -ALONG_PX : ALONG_PX
    let arc = end === 0 ? 0 : curve.lengthPx
    for (let i = 0; i < BEYOND_PX / ALONG_PX - 1 && isInside(placeAlong(curve, arc), picture, 8); i++)
      arc += step
    return arc
  }
}

/** A place where the line may be. */
export interface ClingCandidate {
  readonly points: readonly PathPoint[]
  /** How clear it is there, of the first frame's clarity. */
  readonly quality: number
}

interface Looked {
  readonly curve: PathCurve
  /** Clarity, of the first frame's. */
  readonly quality: number
  readonly spreadPx: number
}

function sureOf(quality: number, spreadPx: number): number {
  const clear = Math.min(1, Math.max(0, (quality - LOST_SHARE) / (CLEAR_SHARE - LOST_SHARE)))
  return clear * Math.min(1, Math.max(0, 1.6 - spreadPx / 1.5))
}

const WORKING_BYTES = 24 * 1024 * 1024 // straightened strips, their slopes, a tracker's windows

/** Floats of what was read, in kernel memory while `work` runs: it is straightened several times. */
function withRaster<T>({ width, height, channels, data }: Samples, work: (raster: Raster) => T): T {
  return withKernelMemory(data.length * 4 + data.byteLength + WORKING_BYTES, (scope) => {
    const raster: Raster = { width, height, channels, data: scope.take(data.length) }
    floatsFromSamplesInto(raster.data, data, scope)
    return work(raster)
  })
}

function median(values: Float64Array): number {
  const sorted = Float64Array.from(values).sort()
  return sorted[sorted.length >> 1]!
}
