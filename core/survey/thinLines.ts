/** Thin lines of a clip: ridges that go alone, measured in the full-size picture. */
import { createPathCurve, pathPointAt, type PathPoint } from '../geometry/pathCurve'
import { intersectRects, rectAround, wholePicture, type Rect, type Size } from '../image/rect'
import { cropSamples, type Samples } from '../image/samples'
import { medianOf } from '../image/median'
import type { Plane } from '../image/raster'
import { CLING_POINTS, ClingTracker, type ClungFrame } from '../motion/cling/clingTracker'
import type { Frame } from '../time'
import { followLines, type Track } from './lines'
import type { Way } from './goesAlone'
import type { Find } from './finds'
import { CELL_PX } from './quarter'
import type { RidgePath } from './ridges'

/** Its middle is that on the first frame it was seen on; its keys are frames that were looked at, all with as many points. */
export type ThinLine = Omit<Extract<Find, { kind: 'line' }>, 'id'>

export interface LineDetector {
  /** One frame out of `LINES_EVERY`. @param at  Where the picture as a whole is, cells. */
  look(frame: Frame, samples: Samples, quarter: Plane, at: Way): void
  cut(): void
  finish(): ThinLine[]
}

/** Frames from one that is looked at to the next. */
export const LINES_EVERY = 6

/** A line goes alone in so many of the comparisons, over so many rows with no longer gaps, and is seen in so many looks. */
const LEAST_COMPARISONS = 3
const LEAST_SHARE = 0.35
const FEWEST_ROWS = 20
const LONGEST_GAP = 6
const LEAST_SEEN = 0.6
/** So far beyond the rows that were seen to go alone it is still the same line; so near the picture's edge it comes from outside. */
const BEYOND_ROWS = 40
const OUTSIDE_PX = 16

/** To either side of a row, those that tell its place. */
const AROUND_ROWS = 6
/** Before the picture has told, px. */
const ROUGH_WIDTH_PX = 6
const CLING = { searchPx: 6 }

interface Rows {
  readonly from: number
  /** Not itself. */
  readonly to: number
}

/** A line that is being measured: what of it was cut out of frames before it was known to be one, then one fit after the other. */
interface Measured {
  readonly kept: { readonly frame: Frame; readonly path: RidgePath; readonly samples: Samples; readonly rect: Rect }[]
  tracker: ClingTracker | null
  readonly keys: ThinLine['keys']
}

export function detectLines(picture: Size): LineDetector {
  const follower = followLines()
  const measured = new Map<Track, Measured>()
  const found: ThinLine[] = []
  const end = (tracks: readonly Track[]) => {
    for (const track of tracks) {
      const line = lineOf(track, measured.get(track)!, picture)
      if (line) found.push(line)
      measured.delete(track)
    }
  }
  return {
    look(frame, samples, quarter, at) {
      const { shown, ended } = follower.look(frame, quarter, at)
      end(ended)
      for (const track of shown) {
        const line = measured.get(track) ?? { kept: [], tracker: null, keys: [] }
        measured.set(track, line)
        const { path } = track.sightings.at(-1)!
        const rect = windowAround(path, track.isAcross, picture)
        line.kept.push({ frame, path, rect, samples: cropSamples(samples, rect) })
        const rows = aloneRows(track)
        if (rows) measureKept(line, rows, track, picture)
        else if (line.kept.length > MOST_KEPT) line.kept.shift()
      }
    },
    cut: () => end(follower.end()),
    finish() {
      end(follower.end())
      return found
    },
  }
}

/** Around a path, px: what a fit looks at. */
const WINDOW_PX = 76
/** Cuttings of a line that is not known to be one. */
const MOST_KEPT = 6

function windowAround(path: RidgePath, isAcross: boolean, picture: Size): Rect {
  const points = pointsAlong(path, { from: path.first, to: path.first + path.places.length }, isAcross, ROUGH_WIDTH_PX, picture)
  const [xs, ys] = [points.map(({ x }) => x), points.map(({ y }) => y)]
  const box = rectAround(Math.min(...xs) - WINDOW_PX, Math.min(...ys) - WINDOW_PX, Math.max(...xs) + WINDOW_PX, Math.max(...ys) + WINDOW_PX)
  return intersectRects(box, wholePicture(picture))!
}

function measureKept(line: Measured, rows: Rows, track: Track, picture: Size): void {
  for (const { frame, path, samples, rect } of line.kept.splice(0)) {
    const last = line.keys.at(-1)
    const extent = last ? rowsOf(last.points, track.isAcross) : extentOf(track, rows)
    const rough = pointsAlong(path, extent, track.isAcross, ROUGH_WIDTH_PX, picture)
    const found = line.tracker ? line.tracker.advance(samples, rect, picture, rough) : begin(line, samples, rect, picture, rough)
    if (found?.isHeld) line.keys.push({ frame, points: [...found.points] })
  }
}

/** A fit moves an end no further than it looks: it is fitted again until the ends stay. */
const MOST_FITS = 4
const STAYS_PX = 2

function begin(line: Measured, samples: Samples, rect: Rect, picture: Size, rough: readonly PathPoint[]): ClungFrame | null {
  let points = rough
  for (let fit = 1; ; fit++) {
    const tracker = new ClingTracker(points, CLING)
    const found = tracker.begin(samples, rect, picture)
    if (!found?.isHeld) return null
    const moved = [0, -1].map((end) => distance(found.points.at(end)!, points.at(end)!))
    if (fit === MOST_FITS || Math.max(...moved) < STAYS_PX) {
      line.tracker = tracker
      return found
    }
    points = found.points
  }
}

const distance = (a: PathPoint, b: PathPoint): number => Math.sqrt((a.x - b.x) * (a.x - b.x) + (a.y - b.y) * (a.y - b.y))

/** The longest stretch in which a track goes alone; null where that is too little to tell. */
function aloneRows({ alone, comparisons, sightings, looks }: Track): Rows | null {
  if (comparisons < LEAST_COMPARISONS || sightings.length < LEAST_SEEN * looks) return null
  const most = alone.reduce((a, b) => (a > b ? a : b), 0)
  if (most < LEAST_SHARE * comparisons) return null
  let longest: Rows = { from: 0, to: 0 }
  let from = -1
  let last = -1
  for (let row = 0; row <= alone.length; row++) {
    const isAlone = row < alone.length && alone[row]! > 0
    if (isAlone && from < 0) from = row
    if (isAlone) last = row
    if (from < 0 || (row < alone.length && row - last <= LONGEST_GAP)) continue
    if (last + 1 - from > longest.to - longest.from) longest = { from, to: last + 1 }
    from = -1
  }
  return longest.to - longest.from < FEWEST_ROWS ? null : longest
}

/** From where to where the line was ever seen, as far as it is the same one, and what a ridge loses at an end to what it touches. */
function extentOf({ sightings }: Track, { from, to }: Rows): Rows {
  return {
    from: Math.max(from - BEYOND_ROWS, Math.min(from, ...sightings.map(({ path }) => path.first))) - LOST_ROWS,
    to: Math.min(to + BEYOND_ROWS, Math.max(to, ...sightings.map(({ path }) => path.first + path.places.length))) + LOST_ROWS,
  }
}
const LOST_ROWS = 5

/** Where a line that has been measured begins and ends. */
function rowsOf(points: readonly PathPoint[], isAcross: boolean): Rows {
  const rows = [points[0]!, points.at(-1)!].map(({ x, y }) => (isAcross ? x : y) / CELL_PX)
  return { from: Math.min(...rows), to: Math.max(...rows) }
}

/** Points along a path, straight on where it is shorter, px of the full-size picture; beyond its edge where the line comes from there. */
function pointsAlong(path: RidgePath, { from, to }: Rows, isAcross: boolean, widthPx: number, { width, height }: Size): PathPoint[] {
  const length = isAcross ? width : height
  const points = Array.from({ length: CLING_POINTS }, (_, i) => {
    const row = from + ((to - from) * i) / (CLING_POINTS - 1)
    return { along: CELL_PX * row, place: CELL_PX * placeAt(path, row - 0.5) }
  })
  extend(points, 0, 1, points[0]!.along < OUTSIDE_PX ? -OUTSIDE_PX : null)
  extend(points, points.length - 1, points.length - 2, points.at(-1)!.along > length - OUTSIDE_PX ? length + OUTSIDE_PX : null)
  return points.map(({ along, place }) => (isAcross ? { x: along, y: place, widthPx } : { x: place, y: along, widthPx }))
}

/** Cells, from a straight line through the rows around one. */
function placeAt({ first, places }: RidgePath, row: number): number {
  const middle = Math.max(0, Math.min(places.length - 1, Math.round(row) - first))
  const [from, to] = [Math.max(0, middle - AROUND_ROWS), Math.min(places.length - 1, middle + AROUND_ROWS)]
  let [sum, along, square] = [0, 0, 0]
  const centre = (from + to) / 2
  for (let k = from; k <= to; k++) {
    sum += places[k]!
    along += (k - centre) * places[k]!
    square += (k - centre) * (k - centre)
  }
  return sum / (to - from + 1) + ((row - first - centre) * along) / square
}

/** Moves an end straight on from its neighbour. */
function extend(points: { along: number; place: number }[], end: number, neighbour: number, to: number | null): void {
  if (to === null) return
  const [a, b] = [points[neighbour]!, points[end]!]
  points[end] = { along: to, place: b.place + ((b.place - a.place) * (to - b.along)) / (b.along - a.along) }
}

function lineOf(track: Track, { keys }: Measured, picture: Size): ThinLine | null {
  if (!aloneRows(track) || keys.length === 0) return null
  const widthPx = medianOf(keys.flatMap(({ points }) => points.map((point) => point.widthPx)))
  const curve = createPathCurve(keys[0]!.points)
  const { x, y } = pathPointAt(curve, curve.lengthPx / 2)
  const share = track.alone.reduce((a, b) => (a > b ? a : b), 0) / track.comparisons
  const comesIn = keys[0]!.points.some((point) => point.x < 0 || point.y < 0 || point.x > picture.width || point.y > picture.height)
  return {
    kind: 'line',
    x,
    y,
    firstFrame: keys[0]!.frame,
    lastFrame: keys.at(-1)!.frame,
    keys,
    sure: Math.round(100 * Math.min(0.95, 0.5 + (comesIn ? 0.25 : 0) + 0.5 * (share - LEAST_SHARE))) / 100,
    why: `${Math.round(widthPx)} px wide, and does not go where the picture beside it goes${comesIn ? '; comes from outside the picture' : ''}.`,
  }
}
