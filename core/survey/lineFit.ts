/** Measures a line that was found small in the full-size picture: the cling, begun once and led from frame to frame by what was followed. */
import type { PathPoint } from '../geometry/pathCurve'
import { intersectRects, rectAround, wholePicture, type Rect, type Size } from '../image/rect'
import { cropSamples, type Samples } from '../image/samples'
import { CLING_POINTS } from '../motion/cling/clingCurves'
import { ClingTracker } from '../motion/cling/clingTracker'
import type { ClungFrame } from '../motion/cling/clung'
import type { Frame } from '../time'
import type { Find } from './finds'
import { CELL_PX } from './quarter'
import type { RidgePath } from './ridges'

/** A stretch of a line, cells along it. */
export interface Rows {
  readonly from: number
  /** Not itself. */
  readonly to: number
}

export interface LineFit {
  /** Frames that were measured: all with as many points. */
  readonly keys: Extract<Find, { kind: 'line' }>['keys']
  /** Cuts the line's surroundings out of a frame; of those that are not measured only some are kept. */
  cache(frame: Frame, path: RidgePath, samples: Samples): void
  /** Measures what was kept. @param extent  From where to where the line runs; once measured, it goes where it was found last. */
  measure(extent: Rows): void
}

/** Around a path, px: what a fit looks at. */
const WINDOW_PX = 76
/** Cuttings of a line that is not known to be one. */
const MAX_KEPT = 7

/** To either side of a row, those that tell its place. */
const AROUND_ROWS = 6
/** Before the picture has told, px. */
const ROUGH_WIDTH_PX = 6
/** So near the picture's edge a line comes from outside. */
const OUTSIDE_PX = 16
const CLING = { searchPx: 6 }

/** @param isAcross  Whether it runs across the picture: its paths then have columns for rows. */
export function createLineFit(isAcross: boolean, picture: Size): LineFit {
  const keys: LineFit['keys'] = []
  let kept: {
    readonly frame: Frame
    readonly path: RidgePath
    readonly samples: Samples
    readonly rect: Rect
  }[] = []
  let tracker: ClingTracker | null = null
  return {
    keys,
    cache(frame, path, samples) {
      const rect = windowAround(
        pointsAlong(path, { from: path.first, to: path.first + path.places.length }, isAcross, picture),
        picture,
      )
      kept = [...kept.slice(1 - MAX_KEPT), { frame, path, rect, samples: cropSamples(samples, rect) }]
    },
    measure(extent) {
      for (const { frame, path, samples, rect } of kept) {
        const last = keys.at(-1)
        const rough = pointsAlong(path, last ? rowsOf(last.points, isAcross) : extent, isAcross, picture)
        let found: ClungFrame | null
        if (tracker) found = tracker.advance(samples, rect, picture, rough)
        else ({ tracker, found } = begin(samples, rect, picture, rough))
        if (found?.isHeld) keys.push({ frame, points: [...found.points] })
      }
      kept = []
    },
  }
}

function windowAround(points: readonly PathPoint[], picture: Size): Rect {
  const [xs, ys] = [points.map(({ x }) => x), points.map(({ y }) => y)]
  const box = rectAround(
    Math.min(...xs) - WINDOW_PX,
    Math.min(...ys) - WINDOW_PX,
    Math.max(...xs) + WINDOW_PX,
    Math.max(...ys) + WINDOW_PX,
  )
  return intersectRects(box, wholePicture(picture))!
}

/** A fit moves an end no further than it looks: it is fitted again until the ends stay. */
const MAX_FITS = 4
const STAYS_PX = 2

function begin(
  samples: Samples,
  rect: Rect,
  picture: Size,
  rough: readonly PathPoint[],
): { tracker: ClingTracker | null; found: ClungFrame | null } {
  let points = rough
  for (let fit = 1; ; fit++) {
    const tracker = new ClingTracker(points, CLING)
    const found = tracker.begin(samples, rect, picture)
    if (typeof found === 'string') return { tracker: null, found: null }
    const moved = [0, -1].map((end) => distance(found.points.at(end)!, points.at(end)!))
    if (fit === MAX_FITS || Math.max(...moved) < STAYS_PX) return { tracker, found }
    points = found.points
  }
}

const distance = (a: PathPoint, b: PathPoint): number =>
  Math.sqrt((a.x - b.x) * (a.x - b.x) + (a.y - b.y) * (a.y - b.y))

/** Where a line that has been measured begins and ends. */
function rowsOf(points: readonly PathPoint[], isAcross: boolean): Rows {
  const rows = [points[0]!, points.at(-1)!].map(({ x, y }) => (isAcross ? x : y) / CELL_PX)
  return { from: Math.min(...rows), to: Math.max(...rows) }
}

/** Points along a path, straight on where it is shorter, px of the full-size picture; beyond its edge where the line comes from there. */
function pointsAlong(
  path: RidgePath,
  { from, to }: Rows,
  isAcross: boolean,
  { width, height }: Size,
): PathPoint[] {
  const length = isAcross ? width : height
  const points = Array.from({ length: CLING_POINTS }, (_, i) => {
    const row = from + ((to - from) * i) / (CLING_POINTS - 1)
    return { along: CELL_PX * row, place: CELL_PX * placeAt(path, row - 0.5) }
  })
  extend(points, 0, 1, points[0]!.along < OUTSIDE_PX ? -OUTSIDE_PX : null)
  extend(
    points,
    points.length - 1,
    points.length - 2,
    points.at(-1)!.along > length - OUTSIDE_PX ? length + OUTSIDE_PX : null,
  )
  return points.map(({ along, place }) =>
    isAcross
      ? { x: along, y: place, widthPx: ROUGH_WIDTH_PX }
      : { x: place, y: along, widthPx: ROUGH_WIDTH_PX },
  )
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
function extend(
  points: { along: number; place: number }[],
  end: number,
  neighbour: number,
  to: number | null,
): void {
  if (to === null) return
  const [a, b] = [points[neighbour]!, points[end]!]
  points[end] = { along: to, place: b.place + ((b.place - a.place) * (to - b.along)) / (b.along - a.along) }
}
