/** Where a line begins and stops: out of the picture, or on something whose step is found and which is followed. */
import type { PathCurve, PathPoint } from '../../geometry/pathCurve'
import type { Rect, Size } from '../../image/rect'
import { medianOf } from '../../image/median'
import type { Samples } from '../../image/samples'
import {
  arcNear,
  cutCurve,
  insideRows,
  isInside,
  movedCurve,
  windowAround,
  type Line,
  type Place,
} from './clingCurves'
import { asideReachPx, besideReachPx, findEnd, LineLook, stopCosts } from './ends'
import type { EndCandidate } from './endsOverTime'
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

/** A place along the line at which it may stop. */
export interface ArcCandidate extends EndCandidate {
  readonly arcPx: number
}

export class LineEnds {
  readonly #kinds: readonly [EndKind, EndKind]
  readonly #drawn: readonly [Place, Place]
  readonly #subjects = new EndSubjects()
  #places: EndPlaces = [null, null]

  /** @param points  As it was drawn. */
  constructor(points: readonly PathPoint[], picture: Size) {
    const kindOf = (end: PathPoint): EndKind => (isInside(end, picture) ? 'seen' : 'open')
    this.#drawn = [points[0]!, points.at(-1)!]
    this.#kinds = [kindOf(points[0]!), kindOf(points.at(-1)!)]
  }

  /** Takes what lies beyond the ends on the first frame. */
  begin(points: readonly PathPoint[], samples: Samples, rect: Rect, picture: Size): void {
    this.#subjects.begin(points, (end) => this.#kinds[end] === 'seen', samples, rect, picture)
    this.#places = [null, null]
  }

  /** Looks for what the ends lie on, or one of them alone. */
  follow(samples: Samples, rect: Rect, picture: Size, only: 0 | 1 | null = null): void {
    this.#subjects.follow(samples, rect, picture, only)
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
    const look = this.#lookAlong(moved, view)
    const [from, to] = ([0, 1] as const).map((end) => {
      if (this.#kinds[end] === 'open') return openEnd(moved, end, view.picture)
      const drawn = end === 0 ? 0 : moved.lengthPx
      const told = isFirst ? this.#drawn[end] : this.#subjectOn(moved, end)
      const expected = told ? arcNear(moved, told, drawn) : drawn
      const searchPx = isFirst ? FIRST_SEARCH_PX : END_SEARCH_PX
      const reach = searchPx + END_MARGIN_PX
      const near = straightenBetween(
        view,
        moved,
        expected - reach,
        expected + reach,
        END_STEP_PX,
        besideReachPx(usualWidth(moved)),
      )
      const step = findEnd(look.toldBy(near), near.arcs, expected, directionOf(end), searchPx)
      return step && step.sure > (isFirst ? 0.3 : IN_PASSING_SURE) ? step.arcPx : expected
    }) as [number, number]
    return cutCurve(moved, from, to)
  }

  /** Where the subject says that an end is. The line ends on its subject: where that is not on the line, it is none, but what passes behind. */
  #subjectOn(curve: PathCurve, end: 0 | 1): Place | null {
    const place = this.#places[end]
    if (!place) return null
    const on = placeAlong(curve, arcNear(curve, place, end === 0 ? 0 : curve.lengthPx))
    if (distance(place, on) <= ON_LINE_PX) return place
    this.#subjects.drop(end)
    return null
  }

  /** What the line looks like on a frame on which it lies on a curve: as a whole, or before one of its ends. */
  #lookAlong(curve: PathCurve, view: View, end: 0 | 1 | null = null): LineLook {
    const from = end === 1 ? Math.max(0, curve.lengthPx - LOOK_PX) : 0
    const to = end === 0 ? Math.min(curve.lengthPx, LOOK_PX) : curve.lengthPx
    const along = straightenBetween(view, curve, from, to, ALONG_PX, asideReachPx(usualWidth(curve)))
    return new LineLook(along, usualWidth(curve), insideRows(along, curve))
  }

  /** The ends that stop inside the picture. */
  get seen(): readonly (0 | 1)[] {
    return ([0, 1] as const).filter((end) => this.#kinds[end] === 'seen')
  }

  /** The part of a frame that tells where an end may be; null where it lies outside the picture. */
  window(curve: PathCurve, end: 0 | 1, picture: Size): Rect | null {
    const length = curve.lengthPx
    const arcs = end === 0 ? [-ENDS_REACH_PX, LOOK_PX] : [length - LOOK_PX, length + ENDS_REACH_PX]
    const places = Array.from({ length: 9 }, (_, i) =>
      placeAlong(curve, arcs[0]! + ((arcs[1]! - arcs[0]!) * i) / 8),
    )
    return windowAround(places, asideReachPx(usualWidth(curve)) + BEYOND_PX, picture)
  }

  /** Everywhere that an end may be around where it is now, evenly along the line, with what speaks against it. */
  candidates(curve: PathCurve, end: 0 | 1, view: View): readonly ArcCandidate[] {
    const look = this.#lookAlong(curve, view, end)
    const at = end === 0 ? 0 : curve.lengthPx
    const reach = CANDIDATES_PX + END_MARGIN_PX
    const strip = straightenBetween(
      view,
      curve,
      at - reach,
      at + reach,
      END_STEP_PX,
      besideReachPx(usualWidth(curve)),
    )
    const costs = stopCosts(look.toldBy(strip), directionOf(end))
    const subject = this.#subjectOn(curve, end)
    const every = CANDIDATE_STEP_PX / END_STEP_PX
    const first = END_MARGIN_PX / END_STEP_PX
    return Array.from({ length: (2 * CANDIDATES_PX) / CANDIDATE_STEP_PX }, (_, i) => {
      // The best of the rows that one candidate stands for.
      let row = first + i * every
      for (let k = 1; k < every; k++)
        if (costs[first + i * every + k]! < costs[row]!) row = first + i * every + k
      const arcPx = strip.arcs[row]! + END_STEP_PX / 2
      const place = placeAlong(curve, arcPx)
      const off = subject ? distance(place, subject) / SUBJECT_NEAR_PX : 0
      const isLong = directionOf(end) * (at - arcPx) <= MOST_CUT * curve.lengthPx
      return {
        arcPx,
        place,
        cost: costs[row]! + SUBJECT_PRICE * Math.min(1, off * off) + (isLong ? 0 : CUT_PRICE),
      }
    })
  }
}

/** How far from where it was found an end may really be, px; and the candidates are so far apart. */
const [CANDIDATES_PX, CANDIDATE_STEP_PX] = [110, 2] as const
/** So much of a line before an end tells what it looks like there, px. */
const LOOK_PX = 160
/** So far beyond its points a line is looked at for where it stops. */
const ENDS_REACH_PX = CANDIDATES_PX + END_MARGIN_PX
/** More than this share of what was followed is not cut off: such a price is never paid. */
const [MOST_CUT, CUT_PRICE] = [0.5, 1000] as const
/** Further off the line a subject is none, px. */
const ON_LINE_PX = 3
/** What it costs to lie so far off where the subject says, px. */
const [SUBJECT_PRICE, SUBJECT_NEAR_PX] = [3, 6] as const

/** While the line is followed only a step that is plain is taken: a wrong one leads it away. */
const IN_PASSING_SURE = 0.6

const distance = (a: Place, b: Place): number =>
  Math.sqrt((a.x - b.x) * (a.x - b.x) + (a.y - b.y) * (a.y - b.y))

const directionOf = (end: 0 | 1): 1 | -1 => (end === 0 ? -1 : 1)
const usualWidth = ({ widths }: PathCurve): number => medianOf([...widths])

/** An end outside the picture stays outside, straight on from what is seen. */
function openEnd(curve: PathCurve, end: 0 | 1, picture: Size): number {
  const step = end === 0 ? -ALONG_PX : ALONG_PX
  let arc = end === 0 ? 0 : curve.lengthPx
  for (let i = 0; i < BEYOND_PX / ALONG_PX - 1 && isInside(placeAlong(curve, arc), picture, 8); i++)
    arc += step
  return arc
}
