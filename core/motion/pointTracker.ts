/**
 * Follows one point: a patch around it, registered from frame to frame with turn, scale and exposure.
 *
 * Coarse to fine by shifts alone, then with turn and scale on the full size; where that disagrees, the
 * whole search range is tried by correlation. A patch that is covered is waited for; one that does not
 * come back is reported lost from the first frame it was missing.
 */
import type { MotionModel } from '../geometry/estimate'
import { compose, localParts, translationBy, type Matrix3 } from '../geometry/transform'
import { addEquation } from '../geometry/linear'
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { warpProjective } from '../image/sample'
import type { Plane } from '../image/raster'
import type { Rect, Size } from '../image/rect'
import { exp } from '../kernels/exact'
import type { TrackSettings } from './settings'
import { alignTemplate, cutTemplate, searchTemplate, type Alignment, type Template } from './template'
import { LOST_BELOW, sureOf, type Observation, type Tracker } from './tracker'
import { windowRect, withResidentWindow, type FrameWindow } from './window'

const LEVELS = 3
const GOOD = 0.85 // correlation from which a step needs no second opinion
const REFOUND = 0.8 // a covered patch counts as found again from this correlation on
const MIN_DEVIATION = 0.004 // about one 8-bit step: flatter patches hold nothing
const MIN_CORNERNESS = 2e-6 // below, the patch slides along itself or is grain
const MAX_SCALE_STEP = 1.25 // between neighbouring frames
const MODEL: MotionModel = 'affine'

/** Deviations of the blurs that a patch is also tried with: fast things smear, focus shifts. */
const BLURS_PX = [0.7, 1.1, 1.6, 2.2, 3] as const
const MIN_LOSS = 0.001 // of the best correlation so far; with less, nothing has become more blurred
const STILL_ALIKE = 0.97 // correlation with the start from which a refreshed track goes on with it

// The patch's turn and scale change slowly: an alpha-beta filter takes most of their noise away.
const [FOLLOW_SHARE, TREND_SHARE] = [0.4, 0.1]
const MAX_LOSS = 0.01 // of correlation; a larger one means that they did not change slowly

interface Pose {
  /** Picture px from patch px; its last column is the point itself. */
  readonly pictureFromPatch: Matrix3
}

export class PointTracker implements Tracker {
  readonly levels = LEVELS
  readonly #settings: TrackSettings
  #pose: Pose
  #velocity = { x: 0, y: 0 }
  #missing = 0
  #start: Template[] = []
  #recent: Template[] | null = null
  /** The start's surroundings, for templates with more blur, made when they are needed. */
  #startPatch: { plane: Plane; x: number; y: number } | null = null
  readonly #blurred = new Map<number, Template>()
  #blur = 0
  /** The best correlation without blur so far: what grain alone leaves. */
  #clearest = 0
  #trend = [0, 0, 0, 0]

  constructor(x: number, y: number, settings: TrackSettings) {
    this.#settings = settings
    this.#pose = { pictureFromPatch: translationBy(x, y) }
  }

  get #radiusPx(): number {
    return Math.floor(this.#settings.patchPx / 2)
  }

  windows(picture: Size): Rect[] {
    const { x, y } = this.#expected()
    if (x < 0 || y < 0 || x > picture.width || y > picture.height) return []
    const reach = this.#radiusPx * 2 + this.#settings.searchPx + this.#wandered() + 4
    const rect = windowRect(x, y, x, y, reach, picture)
    return rect ? [rect] : []
  }

  begin([window]: readonly FrameWindow[]): boolean {
    const [, , x, , , y] = this.#pose.pictureFromPatch
    if (!window || !holds(window.rect, x, y)) return false
    this.#start = cutLevels(window, x - window.rect.col, y - window.rect.row, this.#radiusPx)
    this.#startPatch = cropAround(
      window.levels[0]!,
      x - window.rect.col,
      y - window.rect.row,
      this.#radiusPx + 3 * BLURS_PX[BLURS_PX.length - 1]!,
    )
    const finest = this.#start[0]!
    return finest.deviation > MIN_DEVIATION && finest.cornerness > MIN_CORNERNESS
  }

  /** Looks for the point here on the next frame: somebody else knows where it must be. */
  expectAt(x: number, y: number): void {
    this.#pose = { pictureFromPatch: movedTo(this.#pose.pictureFromPatch, x, y) }
    this.#velocity = { x: 0, y: 0 }
    this.#missing = 1
  }

  advance([window]: readonly FrameWindow[]): Observation {
    if (!window) return { state: 'left-picture', values: [], sure: 0 }
    const found = withResidentWindow(window, (resident) => this.#find(resident))
    if (!found) return this.#miss(window)
    const last = this.#pose.pictureFromPatch
    const gap = this.#missing + 1
    this.#velocity = {
      x: (found.pictureFromPatch[2] - last[2]) / gap,
      y: (found.pictureFromPatch[5] - last[5]) / gap,
    }
    this.#missing = 0
    this.#pose = { pictureFromPatch: found.pictureFromPatch }
    // While the start still looks alike there is nothing to refresh, and nothing to drift by.
    const isAlike = found.correlation >= STILL_ALIKE
    if (this.#settings.reference === 'refreshed') this.#recent = isAlike ? null : this.#refresh(window)
    return {
      state: 'held',
      values: [found.pictureFromPatch[2], found.pictureFromPatch[5]],
      sure: sureOf(found.correlation),
    }
  }

  #expected() {
    const [, , x, , , y] = this.#pose.pictureFromPatch
    const steps = Math.min(this.#missing + 1, 4)
    return { x: x + this.#velocity.x * steps, y: y + this.#velocity.y * steps }
  }

  /** A patch out of sight may have strayed from where it was heading. */
  #wandered(): number {
    return Math.min(this.#missing * 2, 24)
  }

  #miss(window: FrameWindow): Observation {
    this.#missing++
    const { x, y } = this.#expected()
    const isOut = x < 0 || y < 0 || x > window.picture.width || y > window.picture.height
    if (isOut) return { state: 'left-picture', values: [], sure: 0 }
    if (this.#missing > this.#settings.bridgeFrames) return { state: 'lost', values: [], sure: 0 }
    return { state: 'covered', values: [x, y], sure: 0 }
  }

  #find(window: FrameWindow): { pictureFromPatch: Matrix3; correlation: number } | null {
    const last = this.#pose.pictureFromPatch
    const expected = this.#expected()
    const start = movedTo(last, expected.x - window.rect.col, expected.y - window.rect.row)
    let best = this.#recent ? settle(this.#recent, window, start) : settle(this.#start, window, start)
    if (this.#recent && best) best = this.#drawnBack(window, best)
    if (!best || best.correlation < GOOD || !this.#isNear(window, best)) {
      const templates = this.#recent ?? this.#start
      const coarse = templates[1] ?? templates[0]!
      const level = templates[1] ? 1 : 0
      const plane = window.levels[level]!
      const shrink = 1 / (1 << level)
      const around = atLevel(start, shrink)
      const hit = searchTemplate(
        coarse,
        plane,
        around,
        (this.#settings.searchPx + this.#wandered()) * shrink,
        1,
      )
      if (hit.correlation > (best?.correlation ?? -1) - 0.1) {
        const again = settle(
          templates,
          window,
          movedTo(start, start[2] + hit.dx / shrink, start[5] + hit.dy / shrink),
        )
        if (again && again.correlation > (best?.correlation ?? -1)) best = again
      }
    }
    const min = this.#missing > 0 ? REFOUND : LOST_BELOW
    if (!best || best.correlation < min || best.inside < 0.7 || !this.#isNear(window, best)) return null
    best = this.#steadied(window, this.#matchBlur(window, best))
    return {
      pictureFromPatch: movedBy(best.windowFromTemplate, window.rect.col, window.rect.row),
      correlation: best.correlation,
    }
  }

  /** A patch that is more blurred than its start pulls the fit aside: compare it with a start as blurred. */
  #matchBlur(window: FrameWindow, found: Alignment): Alignment {
    const isClear = found.correlation >= this.#clearest - MIN_LOSS
    this.#clearest = Math.max(this.#clearest, found.correlation)
    if (this.#recent || (isClear && this.#blur === 0)) {
      this.#blur = 0
      return found
    }
    let [best, chosen] = [found, 0]
    for (const step of new Set([Math.max(this.#blur, 1), this.#blur + 1, this.#blur - 1])) {
      if (step < 1 || step > BLURS_PX.length) continue
      const tried = align(this.#blurredStart(step), window.levels[0]!, best.windowFromTemplate, 6)
      if (tried && tried.correlation > best.correlation) [best, chosen] = [tried, step]
    }
    this.#blur = chosen
    return best
  }

  #blurredStart(step: number): Template {
    let template = this.#blurred.get(step)
    if (!template) {
      const { plane, x, y } = this.#startPatch!
      const taps = gaussianTaps(BLURS_PX[step - 1]!)
      const { places, weights } = disc(x, y, this.#radiusPx)
      template = cutTemplate(
        convolveSeparable({ ...plane, channels: 1 }, taps, taps),
        x,
        y,
        places,
        weights,
        MODEL,
        1,
      )
      this.#blurred.set(step, template)
    }
    return template
  }

  /** The place with turn and scale held to their course, which leaves less to be decided by grain. */
  #steadied(window: FrameWindow, found: Alignment): Alignment {
    const at = [0, 1, 3, 4] as const
    const last = this.#pose.pictureFromPatch
    const ahead = at.map((i, k) => last[i] + this.#trend[k]! * (this.#missing + 1))
    const off = at.map((i, k) => found.windowFromTemplate[i] - ahead[k]!)
    const [xx, xy, yx, yy] = ahead.map((value, k) => value + FOLLOW_SHARE * off[k]!) as [
      number,
      number,
      number,
      number,
    ]
    const m = found.windowFromTemplate
    const template = this.#blur > 0 ? this.#blurredStart(this.#blur) : (this.#recent ?? this.#start)[0]!
    const steady = align(shiftsOnly(template), window.levels[0]!, [xx, xy, m[2], yx, yy, m[5], 0, 0, 1], 6)
    if (!steady || steady.correlation < found.correlation - MAX_LOSS) {
      this.#trend = [0, 0, 0, 0]
      return found
    }
    this.#trend = this.#trend.map((value, k) => value + TREND_SHARE * off[k]!)
    return steady
  }

  /** A step that goes further than the search, or swells at once, is no step. */
  #isNear({ rect }: FrameWindow, { windowFromTemplate: m }: Alignment): boolean {
    const expected = this.#expected()
    const reach = this.#settings.searchPx + this.#wandered() + 1
    const [dx, dy] = [m[2] + rect.col - expected.x, m[5] + rect.row - expected.y]
    const ratio = localParts(m, 0, 0).scale / localParts(this.#pose.pictureFromPatch, 0, 0).scale
    return dx * dx + dy * dy <= reach * reach && ratio < MAX_SCALE_STEP && ratio > 1 / MAX_SCALE_STEP
  }

  /** Drift correction: the start's own look is asked from where the last good frame has led. */
  #drawnBack(window: FrameWindow, found: Alignment): Alignment {
    const back = align(this.#start[0]!, window.levels[0]!, found.windowFromTemplate, 8)
    if (!back || back.correlation < REFOUND) return found
    const [dx, dy] = [
      back.windowFromTemplate[2] - found.windowFromTemplate[2],
      back.windowFromTemplate[5] - found.windowFromTemplate[5],
    ]
    return dx * dx + dy * dy < DRIFT_PX * DRIFT_PX ? back : found
  }

  #refresh(window: FrameWindow): Template[] {
    const m = this.#pose.pictureFromPatch
    return cutSeen(window, movedBy(m, -window.rect.col, -window.rect.row), this.#radiusPx)
  }
}

const DRIFT_PX = 1.5 // a start that lies further off has found something else

const movedTo = (m: Matrix3, x: number, y: number): Matrix3 => [
  m[0],
  m[1],
  x,
  m[3],
  m[4],
  y,
  m[6],
  m[7],
  m[8],
]
const movedBy = (m: Matrix3, x: number, y: number): Matrix3 =>
  m[6] === 0 && m[7] === 0 ? movedTo(m, m[2] + x, m[5] + y) : compose(translationBy(x, y), m)
const atLevel = (m: Matrix3, shrink: number): Matrix3 => movedTo(m, m[2] * shrink, m[5] * shrink)

const align = (template: Template, plane: Plane, start: Matrix3, iterations: number) =>
  alignTemplate(template, plane, start, { iterations, unitPx: 1 })

/** Coarse to fine by shifts, then with the patch's own turn and scale. Null when nothing held. */
function settle(templates: readonly Template[], window: FrameWindow, start: Matrix3): Alignment | null {
  let matrix = start
  for (let level = Math.min(templates.length, window.levels.length) - 1; level >= 0; level--) {
    const shrink = 1 / (1 << level)
    const template = level === 0 ? shiftsOnly(templates[0]!) : templates[level]!
    const found = align(template, window.levels[level]!, atLevel(matrix, shrink), level === 0 ? 4 : 6)
    if (found && found.correlation > 0.3)
      matrix = movedTo(matrix, found.windowFromTemplate[2] / shrink, found.windowFromTemplate[5] / shrink)
  }
  return align(templates[0]!, window.levels[0]!, matrix, 12)
}

/** Templates of all levels: the full model on level 0, shifts alone on the coarser ones. */
function cutLevels(window: FrameWindow, x: number, y: number, radiusPx: number): Template[] {
  return window.levels.map((plane, level) => {
    const shrink = 1 / (1 << level)
    const radius = Math.max(4, Math.round(radiusPx * (level === 0 ? 1 : level === 1 ? 0.75 : 0.55)))
    const { places, weights } = disc(x * shrink, y * shrink, radius)
    return cutTemplate(plane, x * shrink, y * shrink, places, weights, level === 0 ? MODEL : 'translation', 1)
  })
}

/** The same template with only its two shifts, tone included, to be decided. */
function shiftsOnly(template: Template): Template {
  const known = SHIFTS.get(template)
  if (known) return known
  const { count, parameters, descent, weights, values } = template
  const [x, y] = [2, 5] // of the affine unknowns
  const reduced = new Float32Array(count * 2)
  const normal = new Float64Array(10)
  const right = new Float64Array(4)
  for (let i = 0; i < count; i++) {
    reduced[2 * i] = descent[i * parameters + x]!
    reduced[2 * i + 1] = descent[i * parameters + y]!
    addEquation(normal, right, [reduced[2 * i]!, reduced[2 * i + 1]!, values[i]!, 1], 0, weights[i]!)
  }
  const shifts: Template = { ...template, model: 'translation', descent: reduced, parameters: 2, normal }
  SHIFTS.set(template, shifts)
  return shifts
}

const SHIFTS = new WeakMap<Template, Template>()

/** A window may have been cut to what was read: then the point can lie beside it. */
const holds = ({ col, row, width, height }: Rect, x: number, y: number): boolean =>
  x >= col && y >= row && x <= col + width && y <= row + height

function cropAround(
  plane: Plane,
  x: number,
  y: number,
  reachPx: number,
): { plane: Plane; x: number; y: number } {
  const [col, row] = [Math.max(0, Math.floor(x - reachPx)), Math.max(0, Math.floor(y - reachPx))]
  const width = Math.min(plane.width, Math.ceil(x + reachPx)) - col
  const height = Math.min(plane.height, Math.ceil(y + reachPx)) - row
  const data = new Float32Array(width * height)
  for (let r = 0; r < height; r++)
    data.set(
      plane.data.subarray((row + r) * plane.width + col, (row + r) * plane.width + col + width),
      r * width,
    )
  return { plane: { width, height, data }, x: x - col, y: y - row }
}

/** The same from a later frame, seen as the start saw it, so that the pose stays relative to the start. */
function cutSeen(window: FrameWindow, windowFromPatch: Matrix3, radiusPx: number): Template[] {
  return window.levels.map((plane, level) => {
    const radius = Math.max(4, Math.round(radiusPx * (level === 0 ? 1 : level === 1 ? 0.75 : 0.55)))
    return cutWarped(
      plane,
      atLevel(windowFromPatch, 1 / (1 << level)),
      radius,
      level === 0 ? MODEL : 'translation',
    )
  })
}

function cutWarped(plane: Plane, planeFromPatch: Matrix3, radius: number, model: MotionModel): Template {
  const middle = radius + 2
  const size = { width: 2 * middle, height: 2 * middle }
  const seen = warpProjective(
    { ...plane, channels: 1 },
    compose(planeFromPatch, translationBy(-middle, -middle)),
    size,
    'bicubic',
  )
  const { places, weights } = disc(middle, middle, radius)
  return cutTemplate(seen, middle, middle, places, weights, model, 1)
}

/** Pixel centres within a radius of (x, y), relative to it; their weights fall towards the rim. */
function disc(x: number, y: number, radius: number): { places: Float32Array; weights: Float32Array } {
  const places: number[] = []
  const weights: number[] = []
  const sigma = 1.5 * radius
  for (let row = Math.floor(y - radius); row <= y + radius; row++) {
    for (let col = Math.floor(x - radius); col <= x + radius; col++) {
      const [dx, dy] = [col + 0.5 - x, row + 0.5 - y]
      if (Math.abs(dx) > radius || Math.abs(dy) > radius) continue
      places.push(dx, dy)
      weights.push(exp((-0.5 * (dx * dx + dy * dy)) / (sigma * sigma)))
    }
  }
  return { places: Float32Array.from(places), weights: Float32Array.from(weights) }
}
