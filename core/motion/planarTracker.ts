/**
 * Follows an outlined area as a plane: direct registration of all its pixels, robust to what covers a part.
 *
 * The answer is where the corners of the area's bounding box on the first frame lie now. Coarse to fine, from
 * a shift to the full model; pixels that disagree lose their say, and holdouts never have one.
 */
import { motionModels, type MotionModel } from '../geometry/estimate'
import { apply, compose, invert, translationBy, type Matrix3 } from '../geometry/transform'
import { boundsOfPolygon, insidePolygon } from '../geometry/polygon'
import type { Plane } from '../image/raster'
import { rectAround, type Rect, type Size } from '../image/rect'
import type { TrackSettings } from './settings'
import { alignTemplate, cutTemplate, type Alignment, type Template } from './template'
import { LOST_BELOW, sureOf, type Observation, type Tracker } from './tracker'
import { windowRect, withResidentWindow, type FrameWindow } from './window'

const LEVELS = 4
const MAX_PLACES = 6000 // beyond, places are thinned: more say the same
const MIN_PLACES = 60
const ROBUST = 2.5 // differences from this many deviations on have no say
const MIN_SCALE = 0.008 // about two 8-bit steps: grain is never taken for a disagreement
const FINE_MATCH_LEVELS = 2 // the full model is used on this many finest levels

export class PlanarTracker implements Tracker {
  readonly levels = LEVELS
  readonly #settings: TrackSettings
  readonly #polygon: readonly number[]
  readonly #holdouts: readonly (readonly number[])[]
  readonly #bounds: {
    readonly left: number
    readonly top: number
    readonly right: number
    readonly bottom: number
  }
  #templates: Template[] = []
  #pictureFromStart: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1]
  #velocity: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1]
  #missing = 0

  /** @param polygon  x, y pairs on the start frame. @param holdouts  polygons there that are left out. */
  constructor(
    polygon: readonly number[],
    settings: TrackSettings,
    holdouts: readonly (readonly number[])[] = [],
  ) {
    this.#polygon = polygon
    this.#holdouts = holdouts
    this.#settings = settings
    this.#bounds = boundsOfPolygon(polygon)
  }

  /** The corners of the bounding box on the start frame, clockwise from the top left. */
  get corners(): number[] {
    const { left, top, right, bottom } = this.#bounds
    return [left, top, right, top, right, bottom, left, bottom]
  }

  windows(picture: Size): Rect[] {
    const now = boundsOfPolygon(cornersThrough(compose(this.#velocity, this.#pictureFromStart), this.corners))
    const rect = windowRect(now.left, now.top, now.right, now.bottom, this.#settings.searchPx, picture)
    return rect ? [rect] : []
  }

  begin([window]: readonly FrameWindow[]): boolean {
    if (!window) return false
    const { left, top, right, bottom } = this.#bounds
    const [middleX, middleY] = [(left + right) / 2, (top + bottom) / 2]
    this.#templates = window.levels.map((plane, level) => {
      const model =
        level < FINE_MATCH_LEVELS
          ? this.#settings.model
          : simplerThan(this.#settings.model, level - FINE_MATCH_LEVELS + 1)
      return this.#cut(plane, window.rect, level, middleX, middleY, model)
    })
    const usable = this.#templates.findIndex((template) => template.count < MIN_PLACES)
    if (usable >= 0) this.#templates.length = Math.max(usable, 1)
    return this.#templates[0]!.count >= MIN_PLACES && this.#templates[0]!.deviation > 0.003
  }

  #cut(
    plane: Plane,
    rect: Rect,
    level: number,
    middleX: number,
    middleY: number,
    model: MotionModel,
  ): Template {
    const shrink = 1 / (1 << level)
    const box = rectAround(
      (this.#bounds.left - rect.col) * shrink,
      (this.#bounds.top - rect.row) * shrink,
      (this.#bounds.right - rect.col) * shrink,
      (this.#bounds.bottom - rect.row) * shrink,
    )
    const stride = Math.max(1, Math.floor(Math.sqrt((box.width * box.height) / MAX_PLACES)))
    const [originX, originY] = [(middleX - rect.col) * shrink, (middleY - rect.row) * shrink]
    const places: number[] = []
    for (
      let row = Math.max(1, box.row);
      row < Math.min(plane.height - 1, box.row + box.height);
      row += stride
    ) {
      for (
        let col = Math.max(1, box.col);
        col < Math.min(plane.width - 1, box.col + box.width);
        col += stride
      ) {
        const [x, y] = [(col + 0.5) / shrink + rect.col, (row + 0.5) / shrink + rect.row]
        if (
          !insidePolygon(this.#polygon, x, y) ||
          this.#holdouts.some((holdout) => insidePolygon(holdout, x, y))
        )
          continue
        places.push(col + 0.5 - originX, row + 0.5 - originY)
      }
    }
    const weights = new Float32Array(places.length / 2).fill(1)
    return cutTemplate(
      plane,
      originX,
      originY,
      Float32Array.from(places),
      weights,
      model,
      this.#unitPx(level),
    )
  }

  #unitPx(level: number): number {
    const { left, top, right, bottom } = this.#bounds
    return Math.max(right - left, bottom - top, 8) / (2 << level)
  }

  advance([window]: readonly FrameWindow[]): Observation {
    if (!window) return { state: 'left-picture', values: [], sure: 0 }
    const found = withResidentWindow(window, (resident) => this.#find(resident))
    if (!found) return this.#miss()
    const back = invert(this.#pictureFromStart)
    const step = back ? compose(found.pictureFromStart, back) : this.#velocity
    // After a gap the last step is several frames long: better none than a wrong one.
    this.#velocity = this.#missing === 0 ? step : [1, 0, 0, 0, 1, 0, 0, 0, 1]
    this.#missing = 0
    this.#pictureFromStart = found.pictureFromStart
    return { state: 'held', values: cornersThrough(found.pictureFromStart, this.corners), sure: found.sure }
  }

  #miss(): Observation {
    this.#missing++
    if (this.#missing > this.#settings.bridgeFrames) return { state: 'lost', values: [], sure: 0 }
    return { state: 'covered', values: cornersThrough(this.#pictureFromStart, this.corners), sure: 0 }
  }

  #find(window: FrameWindow): { pictureFromStart: Matrix3; sure: number } | null {
    const { left, top, right, bottom } = this.#bounds
    const [middleX, middleY] = [(left + right) / 2, (top + bottom) / 2]
    const toPatch = translationBy(middleX, middleY)
    let matrix = compose(
      translationBy(-window.rect.col, -window.rect.row),
      compose(compose(this.#velocity, this.#pictureFromStart), toPatch),
    )
    let last: Alignment | null = null
    for (let level = Math.min(this.#templates.length, window.levels.length) - 1; level >= 0; level--) {
      const template = this.#templates[level]!
      const plane = window.levels[level]!
      const shrunk = resized(matrix, 1 / (1 << level))
      const unitPx = this.#unitPx(level)
      const first = alignTemplate(template, plane, shrunk, {
        iterations: 4,
        unitPx,
        robustScale: ROBUST * 4 * MIN_SCALE,
      })
      if (!first) continue
      const robustScale = ROBUST * Math.max(MIN_SCALE, Math.min(first.residual, 6 * MIN_SCALE))
      const next = alignTemplate(template, plane, first.windowFromTemplate, {
        iterations: level === 0 ? 15 : 8,
        unitPx,
        robustScale,
      })
      if (!next || !this.#isPlausible(next.windowFromTemplate, shrunk, 1 << level)) continue
      matrix = resized(next.windowFromTemplate, 1 << level)
      if (level === 0) last = next
    }
    if (!last || last.inside < 0.4) return null
    const agreement = agreementOf(this.#templates[0]!, window.levels[0]!, last)
    if (agreement < LOST_BELOW) return null
    const pictureFromStart = compose(
      translationBy(window.rect.col, window.rect.row),
      compose(matrix, translationBy(-middleX, -middleY)),
    )
    return { pictureFromStart, sure: sureOf(agreement) }
  }

  /** No corner goes further in one frame than the search allows. */
  #isPlausible(now: Matrix3, before: Matrix3, grow: number): boolean {
    const { left, top, right, bottom } = this.#bounds
    const [halfX, halfY] = [(right - left) / 2 / grow, (bottom - top) / 2 / grow]
    return [-1, 1].every((sx) =>
      [-1, 1].every((sy) => {
        const [a, b] = [apply(now, sx * halfX, sy * halfY), apply(before, sx * halfX, sy * halfY)]
        const [dx, dy] = [(a.x - b.x) * grow, (a.y - b.y) * grow]
        return dx * dx + dy * dy < 4 * this.#settings.searchPx * this.#settings.searchPx
      }),
    )
  }
}

export function cornersThrough(m: Matrix3, corners: readonly number[]): number[] {
  const out: number[] = []
  for (let i = 0; i < corners.length; i += 2) {
    const { x, y } = apply(m, corners[i]!, corners[i + 1]!)
    out.push(x, y)
  }
  return out
}

/** The same transform where both sides are counted in px `factor` times as many. */
const resized = (m: Matrix3, factor: number): Matrix3 => [
  m[0],
  m[1],
  m[2] * factor,
  m[3],
  m[4],
  m[5] * factor,
  m[6] / factor,
  m[7] / factor,
  m[8],
]

const simplerThan = (model: MotionModel, steps: number): MotionModel =>
  motionModels[Math.max(0, Math.min(motionModels.indexOf(model), 2) - steps + 1)]!

/**
 * Correlation over the half of the pieces that agree best: a plane that is half covered still holds.
 * Pieces are a 4 × 4 grid over the template.
 */
function agreementOf(template: Template, plane: Plane, { windowFromTemplate }: Alignment): number {
  const grid = 4
  const box = boundsOfPolygon(Array.from(template.places))
  const sums = Array.from({ length: grid * grid }, () => ({ n: 0, t: 0, v: 0, tt: 0, vv: 0, tv: 0 }))
  const stride = Math.max(1, Math.floor(template.count / 3000))
  for (let i = 0; i < template.count; i += stride) {
    const [x, y] = [template.places[2 * i]!, template.places[2 * i + 1]!]
    const at = apply(windowFromTemplate, x, y)
    if (at.x < 0.5 || at.y < 0.5 || at.x > plane.width - 0.5 || at.y > plane.height - 0.5) continue
    const value = plane.data[Math.floor(at.y) * plane.width + Math.floor(at.x)]!
    const t = template.values[i]!
    const gridX = Math.min(grid - 1, Math.floor((grid * (x - box.left)) / (box.right - box.left)))
    const gridY = Math.min(grid - 1, Math.floor((grid * (y - box.top)) / (box.bottom - box.top)))
    const sum = sums[gridY * grid + gridX]!
    sum.n++
    sum.t += t
    sum.v += value
    sum.tt += t * t
    sum.vv += value * value
    sum.tv += t * value
  }
  const scores = sums
    .filter((sum) => sum.n >= 8)
    .map(({ n, t, v, tt, vv, tv }) => {
      const [varT, varV] = [tt - (t * t) / n, vv - (v * v) / n]
      return varT > 1e-9 && varV > 1e-9 ? (tv - (t * v) / n) / Math.sqrt(varT * varV) : 0
    })
    .sort((a, b) => b - a)
  if (scores.length === 0) return 0
  const half = scores.slice(0, Math.ceil(scores.length / 2))
  return half.reduce((a, b) => a + b, 0) / half.length
}
