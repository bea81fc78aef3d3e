/** Where a line begins and stops: out of the picture, or on something whose step is found and which is followed. */
import { pathPointAt, type PathCurve, type PathPoint } from '../../geometry/pathCurve'
import type { Rect, Size } from '../../image/rect'
import type { Samples } from '../../image/samples'
import { arcNear, cutCurve, insideRows, isInside, movedCurve, type Line, type Place } from './clingCurves'
import { findEnd, lineColour, presence } from './ends'
import { ALONG_PX, placeAlong, straightenBetween, type Straightened, type View } from './ruler'
import { EndSubjects } from './subjects'

/** So far beyond its ends a line is looked at. */
export const BEYOND_PX = 26
const [END_SEARCH_PX, FIRST_SEARCH_PX] = [12, 22]
const END_STEP_PX = 0.5
const END_MARGIN_PX = 16 // rows on either side that a step is judged by

type EndKind = 'open' | 'seen'
/** Where the subjects at both ends say that these are. */
export type EndPlaces = readonly [Place | null, Place | null]

export class LineEnds {
  readonly #kinds: readonly [EndKind, EndKind]
  readonly #subjects = new EndSubjects()
  #places: EndPlaces = [null, null]

  /** @param points  As it was drawn. */
  constructor(points: readonly PathPoint[], picture: Size) {
    const kindOf = (end: PathPoint): EndKind => (isInside(end, picture) ? 'seen' : 'open')
    this.#kinds = [kindOf(points[0]!), kindOf(points.at(-1)!)]
  }

  /** Takes what lies beyond the ends on the first frame. */
  begin(points: readonly PathPoint[], samples: Samples, rect: Rect, picture: Size): void {
    this.#subjects.begin(points, (end) => this.#kinds[end] === 'seen', samples, rect, picture)
    this.#places = [null, null]
  }

  /** Looks for what the ends lie on. */
  follow(samples: Samples, rect: Rect, picture: Size): void {
    this.#subjects.follow(samples, rect, picture)
    this.#places = [this.#subjects.endAt(0), this.#subjects.endAt(1)]
  }

  /** What was told of the ends on a frame: to be told again. */
  get places(): EndPlaces {
    return this.#places
  }
  set places(places: EndPlaces) {
    this.#places = places
  }

  /** The curve moved onto the line, and cut where the line stops. */
  fitted(curve: PathCurve, ruler: Straightened, found: Line, view: View, isFirst = false): PathCurve {
    const moved = movedCurve(curve, ruler, found)
    const colour = lineColour(ruler, found, insideRows(ruler, curve))
    const [from, to] = ([0, 1] as const).map((end) => {
      if (this.#kinds[end] === 'open') return openEnd(moved, end, view.picture)
      const drawn = end === 0 ? 0 : moved.lengthPx
      const subject = this.#places[end]
      const expected = subject ? arcNear(moved, subject, drawn) : drawn
      const searchPx = isFirst ? FIRST_SEARCH_PX : END_SEARCH_PX
      const reach = searchPx + END_MARGIN_PX
      const widthPx = pathPointAt(moved, drawn).widthPx
      const near = straightenBetween(
        view,
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
}

/** An end outside the picture stays outside, straight on from what is seen. */
function openEnd(curve: PathCurve, end: 0 | 1, picture: Size): number {
  const step = end === 0 ? -ALONG_PX : ALONG_PX
  let arc = end === 0 ? 0 : curve.lengthPx
  for (let i = 0; i < BEYOND_PX / ALONG_PX - 1 && isInside(placeAlong(curve, arc), picture, 8); i++)
    arc += step
  return arc
}
