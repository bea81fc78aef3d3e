/**
 * Follows several places of one surface that turns and bends, such as spots on a face: each by itself. One that is not found, because it has turned
 * out of sight or something passes over it, goes where its neighbours have gone and is looked for there again, so that it comes back as itself.
 */
import { intersectRects, uniteRects, wholePicture, type Rect, type Size } from '../image/rect'
import { apply } from '../geometry/transform'
import { surfaceMotion } from '../geometry/surface'
import { PointTracker } from './pointTracker'
import type { TrackSettings } from './settings'
import type { Observation, Tracker } from './tracker'
import { withResidentWindow, type FrameWindow } from './window'

/** Numbers of each place: x, y, and 1 where it was seen, 0 where its neighbours say where it is. */
export const PLACE_NUMBERS = 3
/** A place further than this from where its neighbours say, in px and as a share of the way they have gone, is another one. */
const [ASTRAY_PX, ASTRAY_SHARE] = [4, 0.5]
/** So many neighbours can be believed against it. */
const MIN_NEIGHBOURS = 3

export class SurfaceTracker implements Tracker {
  readonly levels = 3
  readonly #settings: TrackSettings
  readonly #trackers: PointTracker[]
  /** Places that had nothing to hold on to: others carry them. */
  readonly #isCarried: boolean[]
  #places: number[]
  #missing = 0

  /** @param places  x, y pairs on the start frame. @param hidden  Which of them are out of sight there: they are only carried. */
  constructor(places: readonly number[], settings: TrackSettings, hidden: readonly boolean[] = []) {
    this.#settings = settings
    this.#places = [...places]
    const count = places.length / 2
    const own = { ...settings, bridgeFrames: 0 }
    this.#trackers = Array.from({ length: count }, (_, i) => new PointTracker(places[2 * i]!, places[2 * i + 1]!, own)) // prettier-ignore
    this.#isCarried = Array.from({ length: count }, (_, i) => hidden[i] ?? false)
  }

  windows(picture: Size): Rect[] {
    const whole = wholePicture(picture)
    const rects = this.#trackers.flatMap((tracker) => tracker.windows(picture))
    const all = rects.length > 0 ? intersectRects(rects.reduce(uniteRects), whole) : null
    return all ? [all] : []
  }

  begin([window]: readonly FrameWindow[]): boolean {
    if (!window) return false
    this.#trackers.forEach((tracker, i) => (this.#isCarried[i] ||= !tracker.begin([window])))
    return this.#isCarried.includes(false)
  }

  advance([window]: readonly FrameWindow[]): Observation {
    if (!window) return { state: 'left-picture', values: [], sure: 0 }
    const found = withResidentWindow(window, (resident) =>
      this.#trackers.map((tracker, i) => (this.#isCarried[i] ? null : tracker.advance([resident]))),
    )
    const places = found.map((one) => (one?.state === 'held' ? one.values : null))
    this.#dropStrays(places)
    const seen = places.flatMap((place, i) => (place ? [i] : []))
    if (seen.length === 0) {
      this.#missing++
      if (this.#missing > this.#settings.bridgeFrames) return { state: 'lost', values: [], sure: 0 }
      return { state: 'covered', values: this.#numbers(places), sure: 0 }
    }
    this.#missing = 0
    const moved = places.map((place, i) => place ?? this.#carried(i, places))
    places.forEach((place, i) => place ?? this.#trackers[i]!.expectAt(moved[i]![0]!, moved[i]![1]!))
    this.#places = moved.flat()
    const sure = seen.reduce((sum, i) => sum + found[i]!.sure, 0) / seen.length
    return { state: 'held', values: this.#numbers(places), sure }
  }

  /** Where its neighbours take a place, from the last frame to this one. */
  #carried(at: number, places: readonly (readonly number[] | null)[]): [number, number] {
    const [x, y] = [this.#places[2 * at]!, this.#places[2 * at + 1]!]
    const [from, to]: [number[], number[]] = [[], []]
    places.forEach((place, i) => {
      if (!place || i === at) return
      from.push(this.#places[2 * i]!, this.#places[2 * i + 1]!)
      to.push(place[0]!, place[1]!)
    })
    const motion = surfaceMotion(from, to, x, y)
    const moved = motion ? apply(motion, x, y) : { x, y }
    return [moved.x, moved.y]
  }

  #dropStrays(places: (readonly number[] | null)[]): void {
    const seen = places.filter((place) => place !== null).length
    if (seen <= MIN_NEIGHBOURS) return
    const astray = places.map((place, i) => {
      if (!place) return false
      const [x, y] = this.#carried(i, places)
      const [offX, offY] = [place[0]! - x, place[1]! - y]
      const [wayX, wayY] = [x - this.#places[2 * i]!, y - this.#places[2 * i + 1]!]
      const most = ASTRAY_PX + ASTRAY_SHARE * Math.sqrt(wayX * wayX + wayY * wayY)
      return offX * offX + offY * offY > most * most
    })
    astray.forEach((is, i) => is && (places[i] = null))
  }

  #numbers(places: readonly (readonly number[] | null)[]): number[] {
    return places.flatMap((place, i) => [this.#places[2 * i]!, this.#places[2 * i + 1]!, place ? 1 : 0])
  }
}
