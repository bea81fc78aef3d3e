/**
 * Many points over an area: each followed on its own, all held together by one motion model.
 *
 * The numbers of a frame are the four corners of the area's box through the model, then x, y and weight of
 * every point; weight 0 means lost or in disagreement. Points deleted by hand are left out by `refitSpread`.
 */
import { estimateMotionRobust, type MotionModel } from '../geometry/estimate'
import { insidePolygon } from '../geometry/polygon'
import { apply, type Matrix3 } from '../geometry/transform'
import { intersectRects, uniteRects, type Rect, type Size } from '../image/rect'
import { PointTracker } from './pointTracker'
import { cornersThrough } from './planarTracker'
import { chooseCorners } from './chooseCorners'
import type { TrackSettings } from './settings'
import type { Observation, Tracker } from './tracker'
import { withResidentWindow, type FrameWindow } from './window'

export const MAX_SPREAD_POINTS = 80
const TOLERANCE_PX = 1.5 // a point further from the model than this moves on its own
const MIN_AGREEING = 4

export class SpreadTracker implements Tracker {
  readonly levels = 3
  readonly #polygon: readonly number[]
  readonly #holdouts: readonly (readonly number[])[]
  readonly #settings: TrackSettings
  #trackers: PointTracker[] = []
  #starts: number[] = []
  #corners: number[]
  #missing = 0
  #last: number[]

  readonly #given: readonly number[] | undefined

  /** @param given  Points to follow, x, y pairs; absent: the best corners of the area are chosen. */
  constructor(
    polygon: readonly number[],
    settings: TrackSettings,
    holdouts: readonly (readonly number[])[] = [],
    given?: readonly number[],
  ) {
    this.#given = given
    this.#polygon = polygon
    this.#holdouts = holdouts
    this.#settings = settings
    const xs = polygon.filter((_, i) => i % 2 === 0)
    const ys = polygon.filter((_, i) => i % 2 === 1)
    const [left, top, right, bottom] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
    this.#corners = [left, top, right, top, right, bottom, left, bottom]
    this.#last = this.#corners
  }

  get corners(): number[] {
    return this.#corners
  }

  /** The points chosen on the start frame, x, y pairs. */
  get starts(): readonly number[] {
    return this.#starts
  }

  windows(picture: Size): Rect[] {
    if (this.#trackers.length === 0) {
      const [left, top, , , right, bottom] = this.#corners as [number, number, number, number, number, number]
      const reach = this.#settings.patchPx + this.#settings.searchPx
      const rect = intersectRects(
        {
          col: Math.floor(left - reach),
          row: Math.floor(top - reach),
          width: Math.ceil(right - left + 2 * reach),
          height: Math.ceil(bottom - top + 2 * reach),
        },
        { col: 0, row: 0, ...picture },
      )
      return rect ? [rect] : []
    }
    const rects = this.#trackers.flatMap((tracker) => tracker.windows(picture))
    return rects.length > 0 ? [rects.reduce(uniteRects)] : []
  }

  begin([window]: readonly FrameWindow[]): boolean {
    if (!window) return false
    const { rect, levels } = window
    const isWanted = (x: number, y: number) =>
      insidePolygon(this.#polygon, x + rect.col, y + rect.row) &&
      !this.#holdouts.some((holdout) => insidePolygon(holdout, x + rect.col, y + rect.row))
    const places =
      this.#given ??
      chooseCorners(levels[0]!, isWanted, MAX_SPREAD_POINTS).flatMap(({ x, y }) => [
        x + rect.col,
        y + rect.row,
      ])
    for (let i = 0; i < places.length; i += 2) {
      const tracker = new PointTracker(places[i]!, places[i + 1]!, { ...this.#settings, bridgeFrames: 0 })
      // Given points keep their number and order: each belongs to a column of the track.
      if (!tracker.begin([window]) && !this.#given) continue
      this.#trackers.push(tracker)
      this.#starts.push(places[i]!, places[i + 1]!)
    }
    return this.#trackers.length >= MIN_AGREEING
  }

  advance([window]: readonly FrameWindow[]): Observation {
    if (!window) return { state: 'left-picture', values: [], sure: 0 }
    const points = withResidentWindow(window, (resident) =>
      this.#trackers.flatMap((tracker) => {
        const seen = tracker.advance([resident])
        return seen.state === 'held' ? [seen.values[0]!, seen.values[1]!, seen.sure] : [0, 0, 0]
      }),
    )
    const fit = fitSpread(this.#settings.model, this.#starts, points, this.#corners)
    if (!fit) {
      this.#missing++
      if (this.#missing > this.#settings.bridgeFrames) return { state: 'lost', values: [], sure: 0 }
      return { state: 'covered', values: [...this.#last, ...points], sure: 0 }
    }
    this.#missing = 0
    this.#last = fit.corners
    const told = [...fit.points]
    // Points that were covered or led astray are looked for again where the others say they are.
    this.#trackers.forEach((tracker, i) => {
      if (fit.points[3 * i + 2]! > 0) return
      const { x, y } = apply(fit.matrix, this.#starts[2 * i]!, this.#starts[2 * i + 1]!)
      tracker.expectAt(x, y)
      told[3 * i] = x
      told[3 * i + 1] = y
    })
    return { state: 'held', values: [...fit.corners, ...told], sure: fit.sure }
  }
}

/**
 * The model through the points that agree. @param points x, y, weight of each; weights come back as agreement.
 * @returns null when too few agree.
 */
export function fitSpread(
  model: MotionModel,
  starts: readonly number[],
  points: readonly number[],
  corners: readonly number[],
): {
  readonly corners: number[]
  readonly points: number[]
  readonly sure: number
  readonly matrix: Matrix3
} | null {
  const count = starts.length / 2
  const to = new Float64Array(count * 2)
  const prior = new Float64Array(count)
  for (let i = 0; i < count; i++) {
    to[2 * i] = points[3 * i]!
    to[2 * i + 1] = points[3 * i + 1]!
    prior[i] = points[3 * i + 2]!
  }
  const fit = estimateMotionRobust(model, starts, to, TOLERANCE_PX, prior)
  if (!fit || fit.inliers < MIN_AGREEING) return null
  const agreed = points.map((value, k) => (k % 3 === 2 ? value * fit.weights[(k - 2) / 3]! : value))
  // Few points, or far from one another's opinion, make less sure.
  const sure = Math.min(1, fit.inliers / 8) * Math.max(0, 1 - fit.residualPx / TOLERANCE_PX)
  return { corners: cornersThrough(fit.matrix, corners), points: agreed, sure, matrix: fit.matrix }
}
