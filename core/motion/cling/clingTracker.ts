/**
 * Cling: a path re-fits itself to the line in the picture, frame by frame.
 *
 * On the first frame the look and the width are not known: several are tried and the clearest kept, then the look
 * is learned from what was found. After that each frame starts from where the last two lead, and the ends
 * stay on what they touch: a point of the subject beyond an end is followed, and the step at the end found.
 */
import { createPathCurve, pathPointAt, type PathCurve, type PathPoint } from '../../geometry/pathCurve'
import type { Raster } from '../../image/raster'
import { intersectRects, rectAround, wholePicture, type Rect, type Size } from '../../image/rect'
import { cropSamples, floatsFromSamplesInto, type Samples } from '../../image/samples'
import { withKernelMemory } from '../../kernels/memory'
import { exp } from '../../kernels/exact'
import { PointTracker } from '../pointTracker'
import { DEFAULT_TRACK_SETTINGS } from '../settings'
import { openWindow, type FrameWindow } from '../window'
import { firstLooks, learnLook, seenThrough, type Appearance } from './appearance'
import { findEnd, lineColour, presence } from './ends'
import { findLine, scoreLine, slopeAcross, type FoundLine } from './findLine'
import { ALONG_PX, placeAlong, straighten, straightenBetween, type Straightened } from './ruler'

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

/** How far a rough drawing may be off. */
const ROUGH_PX = 14
const WIDTHS_PX = [2, 3, 4.5, 6.5, 9, 12, 16, 22, 30, 42] as const
const CLOSE_LOOKS = 10 // of all looks and widths, those that are fitted in full
const BESIDE_PX = 6 // of its surroundings on either side: edges and the ground next to them
const BEYOND_PX = 26
const END_SEARCH_PX = 12
const END_STEP_PX = 0.5
const END_MARGIN_PX = 16 // rows on either side that a step is judged by
const FREEDOM_PX = 60 // a bend for about every 60 px of length
const LOST_SHARE = 0.28 // of the first frame's edge strength; below it the line is not there

type EndKind = 'open' | 'seen'

export class ClingTracker {
  readonly #settings: ClingSettings
  #points: readonly PathPoint[]
  #previous: readonly PathPoint[] | null = null
  #look: Appearance | null = null
  #strength = 0
  readonly #ends: [EndKind, EndKind] = ['open', 'open']
  readonly #subjects: [PointTracker | null, PointTracker | null] = [null, null]
  #subjectOffsets: [Place, Place] = [
    { x: 0, y: 0 },
    { x: 0, y: 0 },
  ]

  constructor(points: readonly PathPoint[], settings: ClingSettings) {
    this.#points = points
    this.#settings = settings
  }

  /**
   * The pixels it wants to see of the next frame; null when the path has left the picture.
   * @param expected  Where the line should be, where that is known: as many points as `CLING_POINTS`.
   */
  window(picture: Size, expected = this.#expected()): Rect | null {
    const reach =
      ROUGH_PX +
      this.#settings.searchPx +
      BEYOND_PX +
      Math.max(...this.#points.map((point) => point.widthPx)) +
      12
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

  /** Takes the frame that was drawn on. @returns null when no line is found near the drawing. */
  begin(samples: Samples, rect: Rect, picture: Size): ClungFrame | null {
    return withRaster(samples, (raster) => this.#begin(raster, samples, rect, picture))
  }

  #begin(raster: Raster, samples: Samples, rect: Rect, picture: Size): ClungFrame | null {
    this.#ends[0] = isInside(this.#points[0]!, picture) ? 'seen' : 'open'
    this.#ends[1] = isInside(this.#points.at(-1)!, picture) ? 'seen' : 'open'
    let curve = createPathCurve(this.#points)
    const rough = straighten(
      raster,
      rect,
      picture,
      curve,
      ROUGH_PX + WIDTHS_PX[WIDTHS_PX.length - 1]! / 2 + 6,
      0,
    )
    const first = this.#firstLine(rough)
    if (!first) return null
    this.#look = learnLook(rough, first.offsets, first.widths, (row) => rough.isSeen[row] === 1)
    if (!this.#look) return null
    let widthPx = median(first.widths)
    curve = movedCurve(curve, rough, first)
    // Again with the look learned: the rough drawing bent the first straightening.
    let found: FoundLine | null = null
    for (const reachPx of [9, 6, 4, 3, 3]) {
      const ruler = straighten(raster, rect, picture, curve, reachPx + widthPx + 10, BEYOND_PX)
      const isUsed = insideRows(ruler, curve)
      found = findLine(
        slopeAcross(seenThrough(ruler, this.#look), isUsed),
        ruler.middle,
        () => widthPx,
        reachPx,
        isUsed,
        FREEDOM_PX,
      )
      this.#look = learnLook(ruler, found.offsets, found.widths, isUsed) ?? this.#look
      widthPx = median(found.widths)
      curve = this.#fitted(curve, ruler, found, raster, rect, picture, true)
    }
    this.#strength = found!.strength
    this.#points = pointsOf(curve)
    this.#beginSubjects(samples, rect, picture)
    return { points: this.#points, sure: this.#sureOf(found!), isHeld: true }
  }

  /** The next frame. Where nothing is held the path stays where it was expected. @param expected  As for `window`. */
  advance(samples: Samples, rect: Rect, picture: Size, expected = this.#expected()): ClungFrame {
    return withRaster(samples, (raster) => this.#advance(raster, samples, rect, picture, expected))
  }

  #advance(
    raster: Raster,
    samples: Samples,
    rect: Rect,
    picture: Size,
    expected: readonly PathPoint[],
  ): ClungFrame {
    this.#followSubjects(samples, rect, picture)
    let curve = createPathCurve(expected)
    let found: FoundLine | null = null
    for (const reachPx of [this.#settings.searchPx, 3]) {
      const widest = Math.max(...curve.widths)
      const ruler = straighten(raster, rect, picture, curve, reachPx + widest / 2 + BESIDE_PX, BEYOND_PX)
      const isUsed = insideRows(ruler, curve)
      const widthAt = (row: number) => pathPointAt(curve, ruler.arcs[row]!).widthPx
      found = findLine(
        slopeAcross(seenThrough(ruler, this.#look!), isUsed),
        ruler.middle,
        widthAt,
        reachPx,
        isUsed,
        FREEDOM_PX,
      )
      curve = this.#fitted(curve, ruler, found, raster, rect, picture, false)
    }
    const sure = this.#sureOf(found!)
    if (found!.strength < LOST_SHARE * this.#strength) return { points: expected, sure: 0, isHeld: false }
    this.#previous = this.#points
    this.#points = pointsOf(curve)
    return { points: this.#points, sure, isHeld: true }
  }

  #sureOf({ strength, spreadPx }: FoundLine): number {
    const clear = Math.min(1, Math.max(0, (strength / this.#strength - LOST_SHARE) / (0.75 - LOST_SHARE)))
    return clear * Math.min(1, Math.max(0, 1.6 - spreadPx / 1.5))
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

  /** All looks and widths near the drawing; the clearest pair of edges wins. */
  #firstLine(rough: Straightened): FoundLine | null {
    const isUsed = (row: number) => rough.isSeen[row] === 1
    const candidates = firstLooks(rough.raster.channels).flatMap((look) => {
      const slope = slopeAcross(seenThrough(rough, look), isUsed)
      return WIDTHS_PX.map((widthPx) => ({
        slope,
        widthPx,
        score: scoreLine(slope, rough.middle, widthPx, ROUGH_PX, isUsed),
      }))
    })
    let best: { line: FoundLine; score: number } | null = null
    for (const { slope, widthPx } of candidates.sort((a, b) => b.score - a.score).slice(0, CLOSE_LOOKS)) {
      const line = findLine(slope, rough.middle, () => widthPx, ROUGH_PX, isUsed, FREEDOM_PX)
      // A real line is as wide as was asked for; one edge of something else is not.
      const fits = exp(-Math.abs(median(line.widths) - widthPx) / (0.4 * widthPx + 1))
      const score = (line.strength * fits) / (1 + line.spreadPx)
      if (!best || score > best.score) best = { line, score }
    }
    return best && best.line.strength > 0.004 ? best.line : null
  }

  /** The curve moved onto the line, and cut where the line stops. */
  #fitted(
    curve: PathCurve,
    ruler: Straightened,
    found: FoundLine,
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
      const subject = this.#subjectEnd(end)
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

  #beginSubjects(samples: Samples, rect: Rect, picture: Size): void {
    for (const end of [0, 1] as const) {
      if (this.#ends[end] !== 'seen') continue
      const [at, inner] =
        end === 0 ? [this.#points[0]!, this.#points[1]!] : [this.#points.at(-1)!, this.#points.at(-2)!]
      const length = Math.sqrt((at.x - inner.x) * (at.x - inner.x) + (at.y - inner.y) * (at.y - inner.y)) || 1
      const radius = SUBJECT_SETTINGS.patchPx / 2
      const beyond = {
        x: at.x + ((at.x - inner.x) / length) * radius * 0.8,
        y: at.y + ((at.y - inner.y) / length) * radius * 0.8,
      }
      const tracker = new PointTracker(beyond.x, beyond.y, SUBJECT_SETTINGS)
      if (!isInside(beyond, picture) || !tracker.begin(subjectWindows(tracker, samples, rect, picture)))
        continue
      this.#subjects[end] = tracker
      this.#subjectOffsets[end] = { x: at.x - beyond.x, y: at.y - beyond.y }
    }
  }

  readonly #subjectPlaces: [Place | null, Place | null] = [null, null]

  #followSubjects(samples: Samples, rect: Rect, picture: Size): void {
    if (!this.#subjects.some(Boolean)) return
    for (const end of [0, 1] as const) {
      const tracker = this.#subjects[end]
      this.#subjectPlaces[end] = null
      if (!tracker) continue
      const seen = tracker.advance(subjectWindows(tracker, samples, rect, picture))
      if (seen.state === 'held' && seen.sure > 0.5)
        this.#subjectPlaces[end] = { x: seen.values[0]!, y: seen.values[1]! }
      if (seen.state === 'lost' || seen.state === 'left-picture') this.#subjects[end] = null
    }
  }

  #subjectEnd(end: 0 | 1): Place | null {
    const place = this.#subjectPlaces[end]
    return place
      ? { x: place.x + this.#subjectOffsets[end].x, y: place.y + this.#subjectOffsets[end].y }
      : null
  }
}

interface Place {
  readonly x: number
  readonly y: number
}

const SUBJECT_SETTINGS = {
  ...DEFAULT_TRACK_SETTINGS,
  patchPx: 25,
  searchPx: 16,
  reference: 'refreshed' as const,
  bridgeFrames: 4,
}

/** What a tracker at an end wants to see, as far as it lies inside what has been read. */
function subjectWindows(tracker: PointTracker, samples: Samples, rect: Rect, picture: Size): FrameWindow[] {
  return tracker.windows(picture).flatMap((wanted) => {
    const inside = intersectRects(wanted, rect)
    if (!inside || inside.width < 32 || inside.height < 32) return []
    const cropped = cropSamples(samples, {
      ...inside,
      col: inside.col - rect.col,
      row: inside.row - rect.row,
    })
    return [openWindow(cropped, inside, picture, SUBJECT_SETTINGS, tracker.levels)]
  })
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

const isInside = ({ x, y }: Place, { width, height }: Size, margin = 0): boolean =>
  x >= -margin && y >= -margin && x <= width + margin && y <= height + margin

const insideRows =
  ({ arcs, isSeen }: Straightened, curve: PathCurve) =>
  (row: number): boolean =>
    isSeen[row] === 1 && arcs[row]! >= -1 && arcs[row]! <= curve.lengthPx + 1

function median(values: Float64Array): number {
  const sorted = Float64Array.from(values).sort()
  return sorted[sorted.length >> 1]!
}

/** Length along the curve, or beyond it, that comes nearest to a place, looked for around `from`. */
function arcNear(curve: PathCurve, place: Place, from: number): number {
  const at = placeAlong(curve, from)
  return from + (place.x - at.x) * at.tangentX + (place.y - at.y) * at.tangentY
}

/** The curve moved by the offsets that were found. */
function movedCurve(curve: PathCurve, ruler: Straightened, { offsets, widths }: FoundLine): PathCurve {
  const read = (values: Float64Array, arc: number) => {
    const at = Math.min(Math.max((arc - ruler.arcs[0]!) / ALONG_PX, 0), values.length - 1)
    const row = Math.min(Math.floor(at), values.length - 2)
    return values[row]! + (at - row) * (values[row + 1]! - values[row]!)
  }
  const count = knotsFor(curve.lengthPx)
  return createPathCurve(
    Array.from({ length: count }, (_, i) => {
      const arc = (curve.lengthPx * i) / (count - 1)
      const { x, y, tangentX, tangentY } = pathPointAt(curve, arc)
      const off = read(offsets, arc)
      return { x: x - tangentY * off, y: y + tangentX * off, widthPx: read(widths, arc) }
    }),
  )
}

/** The stretch of a curve from one length to another; straight on where that lies beyond it. */
function cutCurve(curve: PathCurve, from: number, to: number): PathCurve {
  const length = Math.max(to - from, 8)
  const count = knotsFor(length)
  return createPathCurve(
    Array.from({ length: count }, (_, i) => {
      const { x, y, widthPx } = placeAlong(curve, from + (length * i) / (count - 1))
      return { x, y, widthPx }
    }),
  )
}

const knotsFor = (lengthPx: number): number => Math.min(24, Math.max(3, Math.round(lengthPx / 60) + 1))

/** A fixed number of points for the life of a cling, evenly along the curve. */
function pointsOf(curve: PathCurve): PathPoint[] {
  return Array.from({ length: CLING_POINTS }, (_, i) => {
    const { x, y, widthPx } = pathPointAt(curve, (curve.lengthPx * i) / (CLING_POINTS - 1))
    return { x, y, widthPx }
  })
}

export const CLING_POINTS = 9
