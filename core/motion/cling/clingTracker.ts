/**
 * Cling: a path re-fits itself to the line in the picture, frame by frame.
 *
 * On the first frame the line is found near the drawing and what it looks like across is learned (`beginLine.ts`). After that
 * each frame starts from where the last two lead; where that fits badly, the line is looked for far around. The ends stay on
 * what they touch (`lineEnds.ts`). A line whose two edges are plain is measured by them.
 */
import { createPathCurve, pathPointAt, type PathCurve, type PathPoint } from '../../geometry/pathCurve'
import type { Rect, Size } from '../../image/rect'
import type { Samples } from '../../image/samples'
import { seenThrough } from './appearance'
import {
  beginLine,
  FREEDOM_PX,
  LEARN_BESIDE_PX,
  LEARN_MORE_PX,
  rulerAlong,
  searchReachPx,
  type BegunLine,
} from './beginLine'
import { insideRows, isNear, movedBy, movedCurve, pointsOf, windowAround, type Line } from './clingCurves'
import type { ClingCandidate, ClingCandidates, ClungFrame } from './clung'
import { findLine, slopeAcross } from './findLine'
import { ROUGH_PX, type NoLine } from './firstLine'
import { BEYOND_PX, LineEnds, type ArcCandidate, type EndPlaces } from './lineEnds'
import { blended, learnProfile, type LineProfile } from './profile'
import { bestRuns, fitProfile, type Run } from './profileFit'
import { straightenBetween, type Straightened, type View } from './ruler'
import { withView } from './view'

export interface ClingSettings {
  /** How far from where it is expected the line may be, px. */
  readonly searchPx: number
}

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
/** How much of what the line looks like now is taken over, from every so manieth frame on which it is surely there. */
const [LEARN_SHARE, LEARN_FROM_SURE, LEARN_EVERY] = [0.3, 0.8, 3]
/** Where it was found it is measured so closely, and so much beside it is looked at, px. */
const [MEASURE_PX, BESIDE_PX] = [3, 5]

interface Looked {
  readonly curve: PathCurve
  /** Clarity, of the first frame's. */
  readonly quality: number
  readonly spreadPx: number
}

export class ClingTracker {
  readonly #drawn: readonly PathPoint[]
  readonly #settings: ClingSettings
  #ends: LineEnds | null = null
  #begun: BegunLine | null = null
  #profile: LineProfile | null = null
  #points: readonly PathPoint[]
  #previous: readonly PathPoint[] | null = null
  /** As it was on the last frame that held it, for looking far around. */
  #before: readonly PathPoint[] = []
  #learned = 0

  constructor(points: readonly PathPoint[], settings: ClingSettings) {
    this.#drawn = points
    this.#points = points
    this.#settings = settings
  }

  /**
   * The pixels it wants to see of the next frame; null when the path has left the picture.
   * @param expected  Where the line should be, where that is known: as many points as `CLING_POINTS`.
   */
  window(picture: Size, expected = this.#expected()): Rect | null {
    return this.#windowAround(picture, expected, ROUGH_PX + this.#settings.searchPx)
  }

  /** What a look far around some place wants to see; of itself, around where it was on the last frame that held it. */
  farWindow(picture: Size, around: readonly PathPoint[] = this.#before): Rect | null {
    return this.#windowAround(picture, around, FAR_SHARE * picture.width)
  }

  #windowAround(picture: Size, points: readonly PathPoint[], farPx: number): Rect | null {
    const reach = farPx + BEYOND_PX + Math.max(...this.#points.map((point) => point.widthPx)) + 12
    return windowAround(points, reach, picture)
  }

  /** Takes the frame that was drawn on. @returns Why there is no line, where none is found near the drawing. */
  begin(samples: Samples, rect: Rect, picture: Size): ClungFrame | NoLine {
    const ends = new LineEnds(this.#drawn, picture)
    const begun = withView(samples, rect, picture, (view) =>
      beginLine(this.#drawn, view, ends, this.#settings.searchPx),
    )
    if (typeof begun === 'string') return begun
    this.#ends = ends
    this.#begun = begun
    this.restart(samples, rect, picture)
    return { points: this.#points, sure: 1, isHeld: true }
  }

  /** Goes back to the first frame, to follow the line another way. Takes what `begin` was given. */
  restart(samples: Samples, rect: Rect, picture: Size): void {
    const { points, profile } = this.#begun!
    this.#points = points
    this.#before = points
    this.#previous = null
    this.#profile = profile
    this.#learned = 0
    this.#ends!.begin(points, samples, rect, picture)
  }

  /** The next frame. Where nothing is held the path stays where it was expected. @param expected  As for `window`. */
  advance(samples: Samples, rect: Rect, picture: Size, expected = this.#expected()): ClungFrame {
    this.#ends!.follow(samples, rect, picture)
    return withView(samples, rect, picture, (view) => {
      const found = this.#lookAround(view, createPathCurve(expected))
      if (found.quality < LOST_SHARE) return { points: expected, sure: 0, isHeld: false }
      this.#before = this.#points
      return this.#take(found, view)
    })
  }

  /**
   * Looks for the line far around where it was last, on the frame that was last advanced to.
   * @param last  What `advance` found. @returns null where nothing fits better.
   */
  searchFar(samples: Samples, rect: Rect, picture: Size, last: ClungFrame): ClungFrame | null {
    return withView(samples, rect, picture, (view) => {
      const from = createPathCurve(this.#before)
      let best: Looked | null = null
      for (const run of [...AROUND_RUNS, ...this.#farRuns(view, from)]) {
        const found = this.#lookAround(view, movedBy(from, run))
        if (!best || found.quality > best.quality) best = found
      }
      const here = last.isHeld ? this.#lookAround(view, createPathCurve(last.points)).quality : 0
      if (!best || best.quality < Math.max(LOST_SHARE, FAR_BETTER * here)) return null
      this.#points = this.#before
      return this.#take(best, view)
    })
  }

  /** Sees a frame on which the line is known: only what lies beyond its ends is followed. */
  pass(samples: Samples, rect: Rect, picture: Size): void {
    this.#ends!.follow(samples, rect, picture)
  }

  /** Everywhere that the line may be on the next frame: near some places, and far around the first of them. */
  candidates(
    samples: Samples,
    rect: Rect,
    picture: Size,
    near: readonly (readonly PathPoint[])[],
  ): ClingCandidates {
    this.#ends!.follow(samples, rect, picture)
    return withView(samples, rect, picture, (view) => {
      const starts = near.map(createPathCurve)
      const [first] = starts
      for (const run of [...AROUND_RUNS, ...this.#farRuns(view, first!)]) starts.push(movedBy(first!, run))
      const found = starts
        .map((start) => {
          const { curve, quality } = this.#lookAround(view, start)
          return { points: pointsOf(curve), quality }
        })
        .sort((a, b) => b.quality - a.quality)
      const isOther = ({ points }: ClingCandidate, i: number) =>
        !found.slice(0, i).some((better) => isNear(points, better.points))
      return { places: found.filter(isOther), ends: this.#ends!.places }
    })
  }

  /** Measures the line near where it is said to lie. @param ends  What was told of its ends on this frame. */
  settle(
    samples: Samples,
    rect: Rect,
    picture: Size,
    points: readonly PathPoint[],
    ends: EndPlaces,
  ): ClungFrame {
    this.#ends!.places = ends
    return withView(samples, rect, picture, (view) => {
      const found = this.#lookAround(view, createPathCurve(points))
      return found.quality < LOST_SHARE ? { points, sure: 0, isHeld: false } : this.#take(found, view)
    })
  }

  /** The ends of the line that stop inside the picture. */
  get seenEnds(): readonly (0 | 1)[] {
    return this.#ends!.seen
  }

  /** What is looked at to tell where one of them is on a frame on which the line is known; null where that is outside the picture. */
  endWindow(points: readonly PathPoint[], end: 0 | 1, picture: Size): Rect | null {
    return this.#ends!.window(createPathCurve(points), end, picture)
  }

  /** Everywhere that it may be there. */
  endCandidates(
    points: readonly PathPoint[],
    end: 0 | 1,
    samples: Samples,
    rect: Rect,
    picture: Size,
  ): readonly ArcCandidate[] {
    this.#ends!.follow(samples, rect, picture, end)
    return withView(samples, rect, picture, (view) =>
      this.#ends!.candidates(createPathCurve(points), end, view),
    )
  }

  #farRuns(view: View, from: PathCurve): Run[] {
    const far = FAR_SHARE * view.picture.width
    const reachPx = searchReachPx(from, far)
    const ruler = straightenBetween(view, from, 0, from.lengthPx, FAR_ALONG_PX, reachPx)
    return bestRuns(ruler, this.#profile!, far, (row) => ruler.isSeen[row] === 1, FAR_RUNS)
  }

  /** The line as it fits best near a curve. */
  #lookAround(view: View, start: PathCurve): Looked {
    const { searchPx } = this.#settings
    const ruler = rulerAlong(view, start, searchReachPx(start, searchPx))
    const fit = fitProfile(ruler, this.#profile!, searchPx, insideRows(ruler, start), FREEDOM_PX)
    const curve = movedCurve(start, ruler, { offsets: fit.offsets, widths: widthsAlong(start, ruler) })
    return { curve, quality: fit.clarity / this.#begun!.clarity, spreadPx: fit.spreadPx }
  }

  /** Measures the line where it was found, and goes on from there. */
  #take({ curve, quality, spreadPx }: Looked, view: View): ClungFrame {
    const widest = Math.max(...curve.widths)
    const sure = sureOf(quality, spreadPx)
    const learns = sure >= LEARN_FROM_SURE && this.#learned++ % LEARN_EVERY === 0
    const ruler = rulerAlong(view, curve, MEASURE_PX + widest / 2 + (learns ? LEARN_BESIDE_PX : BESIDE_PX))
    const isUsed = insideRows(ruler, curve)
    const line = this.#measured(ruler, curve, isUsed)
    if (learns) {
      const now = learnProfile(ruler, line.offsets, isUsed, widest / 2 + LEARN_MORE_PX)
      if (now) this.#profile = blended(this.#profile!, now.profile, LEARN_SHARE)
    }
    this.#previous = this.#points
    this.#points = pointsOf(this.#ends!.fitted(curve, ruler, line, view))
    return { points: this.#points, sure, isHeld: true }
  }

  #measured(ruler: Straightened, curve: PathCurve, isUsed: (row: number) => boolean): Line {
    const widths = widthsAlong(curve, ruler)
    const { look } = this.#begun!
    if (!look)
      return { offsets: fitProfile(ruler, this.#profile!, MEASURE_PX, isUsed, FREEDOM_PX).offsets, widths }
    const slope = slopeAcross(seenThrough(ruler, look), isUsed)
    return findLine(slope, ruler.middle, (row) => widths[row]!, MEASURE_PX, isUsed, FREEDOM_PX)
  }

  /** Where the last two frames lead. */
  #expected(): readonly PathPoint[] {
    const previous = this.#previous
    if (!previous) return this.#points
    return this.#points.map((point, i) => ({
      x: 2 * point.x - previous[i]!.x,
      y: 2 * point.y - previous[i]!.y,
      widthPx: point.widthPx,
    }))
  }
}

const widthsAlong = (curve: PathCurve, { arcs }: Straightened): Float64Array =>
  Float64Array.from(arcs, (arc) => pathPointAt(curve, arc).widthPx)

function sureOf(quality: number, spreadPx: number): number {
  const clear = Math.min(1, Math.max(0, (quality - LOST_SHARE) / (CLEAR_SHARE - LOST_SHARE)))
  return clear * Math.min(1, Math.max(0, 1.6 - spreadPx / 1.5))
}
