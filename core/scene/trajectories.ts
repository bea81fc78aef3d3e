/**
 * Many points of a shot followed from frame to frame: what the motion of its background is told from.
 *
 * Each point keeps the patch it was chosen with, so that it cannot drift; one that no longer looks alike ends, and
 * new ones begin where there are none. Nothing is begun or followed on pixels that are shut.
 */
import { IDENTITY, localParts, translationBy, type Matrix3 } from '../geometry/transform'
import type { Plane } from '../image/raster'
import { chooseCorners } from '../motion/chooseCorners'
import { alignTemplate, cutTemplate, searchTemplate, type Template } from '../motion/template'
import { halved } from '../motion/window'
import { withKernelMemory } from '../kernels/memory'

export interface Trajectory {
  readonly firstFrame: number
  /** x, y pairs in px of the full picture, one for each frame from the first. */
  readonly places: number[]
}

export const framesOf = ({ places }: Trajectory): number => places.length / 2
export const lastFrameOf = (one: Trajectory): number => one.firstFrame + framesOf(one) - 1

/** One frame as trackers see it: full size, half, quarter, eighth. */
export interface ScenePlanes {
  readonly frame: number
  readonly levels: readonly Plane[]
  /** 1 where nothing may be followed; of the full size. Null: nowhere. */
  readonly masked: Uint8Array | null
}

export function pyramidOf(plane: Plane): Plane[] {
  const levels = [plane]
  while (levels.length < LEVELS) levels.push(halved(levels[levels.length - 1]!))
  return levels
}

const LEVELS = 4
const RADIUS_PX = 7
const COARSE_RADIUS_PX = 5
/** One point begins in each cell that has none; of small pictures cells are smaller. */
const cellPxOf = ({ width, height }: Plane): number =>
  Math.max(24, Math.min(64, Math.round(Math.min(width, height) / 8)))
const MAX_NEW = 400
const ALIKE = 0.86 // correlation below which a point has ended
const FIRST_SEARCH_PX = 3 // on the coarsest level, where no motion is known yet

interface Point {
  readonly trajectory: Trajectory
  readonly fine: Template
  /** On half the size, for the first step. */
  readonly coarse: Template
  /** Picture px from patch px: its last column is the point itself. */
  pose: Matrix3
  /** Of the last step: where it is looked for next. */
  dx: number
  dy: number
}

export class SceneFollower {
  readonly #all: Trajectory[] = []
  #living: Point[] = []

  /** All that was seen so far. */
  get trajectories(): readonly Trajectory[] {
    return this.#all
  }

  /** The next frame in order. */
  advance(planes: ScenePlanes): void {
    const guess = this.#living.length > 0 ? this.#guess(planes) : { dx: 0, dy: 0 }
    const bytes = planes.levels.reduce((sum, plane) => sum + plane.data.byteLength + 64, 1 << 20)
    withKernelMemory(bytes, (scope) => {
      const resident = planes.levels.map((plane) => {
        const data = scope.take(plane.data.length)
        data.set(plane.data)
        return { ...plane, data }
      })
      this.#living = this.#living.filter((point) => follow(point, resident, planes, guess))
    })
    this.#begin(planes)
  }

  /** By how much most of the picture has gone beyond what each point expects, from the coarsest level. */
  #guess({ levels }: ScenePlanes): { dx: number; dy: number } {
    const coarsest = levels[LEVELS - 1]!
    const scale = 1 << (LEVELS - 1)
    const last = this.#lastCoarsest
    this.#lastCoarsest = coarsest
    if (!last) return { dx: 0, dy: 0 }
    const places: number[] = []
    for (let y = 4; y < last.height - 4; y += 2)
      for (let x = 4; x < last.width - 4; x += 2) places.push(x + 0.5, y + 0.5)
    const template = cutTemplate(
      last,
      0,
      0,
      Float32Array.from(places),
      new Float32Array(places.length / 2).fill(1),
      'translation',
      1,
    )
    const found = searchTemplate(template, coarsest, IDENTITY, FIRST_SEARCH_PX, 1)
    return found.correlation < 0.5 ? { dx: 0, dy: 0 } : { dx: found.dx * scale, dy: found.dy * scale }
  }
  #lastCoarsest: Plane | null = null

  #begin(planes: ScenePlanes): void {
    this.#lastCoarsest ??= planes.levels[LEVELS - 1]!
    const [full, half] = [planes.levels[0]!, planes.levels[1]!]
    const cellPx = cellPxOf(full)
    const cols = Math.ceil(full.width / cellPx)
    const taken = new Uint8Array(cols * Math.ceil(full.height / cellPx))
    for (const { pose } of this.#living)
      taken[Math.floor(pose[5] / cellPx) * cols + Math.floor(pose[2] / cellPx)] = 1
    const isFree = (x: number, y: number) => {
      const [fx, fy] = [2 * x, 2 * y]
      if (
        fx < 2 * RADIUS_PX ||
        fy < 2 * RADIUS_PX ||
        fx > full.width - 2 * RADIUS_PX ||
        fy > full.height - 2 * RADIUS_PX
      )
        return false
      return (
        taken[Math.floor(fy / cellPx) * cols + Math.floor(fx / cellPx)] === 0 &&
        !isMaskedAround(planes, fx, fy)
      )
    }
    if (taken.every((one) => one === 1)) return
    for (const { x, y } of bestOfCells(chooseCorners(half, isFree, MAX_NEW), cols, cellPx)) {
      const [fx, fy] = [Math.floor(2 * x) + 0.5, Math.floor(2 * y) + 0.5]
      const trajectory: Trajectory = { firstFrame: planes.frame, places: [fx, fy] }
      const fine = squareTemplate(full, fx, fy, RADIUS_PX, 'affine')
      if (fine.cornerness < 4e-6) continue
      const coarse = squareTemplate(half, fx / 2, fy / 2, COARSE_RADIUS_PX, 'translation')
      const point: Point = { trajectory, fine, coarse, pose: translationBy(fx, fy), dx: 0, dy: 0 }
      this.#living.push(point)
      this.#all.push(trajectory)
    }
  }
}

/** The strongest of each cell; places are of half the size. */
function bestOfCells<T extends { x: number; y: number }>(
  corners: readonly T[],
  cols: number,
  cellPx: number,
): T[] {
  const seen = new Map<number, number>()
  return corners.filter(({ x, y }) => {
    const cell = Math.floor((2 * y) / cellPx) * cols + Math.floor((2 * x) / cellPx)
    const count = seen.get(cell) ?? 0
    seen.set(cell, count + 1)
    return count < 1
  })
}

function isMaskedAround({ masked, levels }: ScenePlanes, x: number, y: number): boolean {
  if (!masked) return false
  const { width, height } = levels[0]!
  for (let dy = -RADIUS_PX; dy <= RADIUS_PX; dy += RADIUS_PX) {
    for (let dx = -RADIUS_PX; dx <= RADIUS_PX; dx += RADIUS_PX) {
      const [col, row] = [Math.floor(x + dx), Math.floor(y + dy)]
      if (col >= 0 && row >= 0 && col < width && row < height && masked[row * width + col] === 1) return true
    }
  }
  return false
}

function squareTemplate(
  plane: Plane,
  x: number,
  y: number,
  radius: number,
  model: 'translation' | 'affine',
): Template {
  const side = 2 * radius + 1
  const places = new Float32Array(2 * side * side)
  for (let i = 0; i < side * side; i++) {
    places[2 * i] = (i % side) - radius
    places[2 * i + 1] = Math.floor(i / side) - radius
  }
  return cutTemplate(
    plane,
    x,
    y,
    places,
    new Float32Array(side * side).fill(1),
    model,
    model === 'affine' ? radius : 1,
  )
}

/** @returns Whether the point lives on. */
function follow(
  point: Point,
  levels: readonly Plane[],
  planes: ScenePlanes,
  guess: { dx: number; dy: number },
): boolean {
  const [full, half] = [levels[0]!, levels[1]!]
  const { pose, trajectory } = point
  // Its own course; or, where it has none yet, that of the whole picture.
  const isYoung = framesOf(trajectory) === 1
  const start = { x: pose[2] + (isYoung ? guess.dx : point.dx), y: pose[5] + (isYoung ? guess.dy : point.dy) }
  let at = alignAt(point.coarse, half, translationBy(start.x / 2, start.y / 2), 1)
  if (!at || at.correlation < 0.7) {
    const found = searchTemplate(point.coarse, half, translationBy(start.x / 2, start.y / 2), 6, 1)
    if (found.correlation < 0.6) return false
    at = alignAt(point.coarse, half, translationBy(start.x / 2 + found.dx, start.y / 2 + found.dy), 1)
  }
  const fine = at && alignAt(point.fine, full, movedTo(pose, 2 * at.pose[2], 2 * at.pose[5]), RADIUS_PX)
  if (!fine || fine.correlation < ALIKE || !isPlausible(fine.pose)) return false
  const [x, y] = [fine.pose[2], fine.pose[5]]
  const reach = RADIUS_PX + 2
  if (x < reach || y < reach || x > full.width - reach || y > full.height - reach) return false
  if (isMaskedAround(planes, x, y)) return false
  point.dx = x - pose[2]
  point.dy = y - pose[5]
  point.pose = fine.pose
  trajectory.places.push(x, y)
  return true
}

const movedTo = (m: Matrix3, x: number, y: number): Matrix3 => [m[0], m[1], x, m[3], m[4], y, 0, 0, 1]

const MAX_SCALE = 1.6 // of a patch against the one that it began as

function isPlausible(pose: Matrix3): boolean {
  const { scale } = localParts(pose, 0, 0)
  return scale < MAX_SCALE && scale > 1 / MAX_SCALE
}

function alignAt(template: Template, plane: Plane, start: Matrix3, unitPx: number) {
  const aligned = alignTemplate(template, plane, start, { iterations: 8, unitPx })
  if (!aligned || aligned.inside < 0.9) return null
  const pose = aligned.windowFromTemplate
  const [dx, dy] = [pose[2] - start[2], pose[5] - start[5]]
  return dx * dx + dy * dy > 36 ? null : { pose, correlation: aligned.correlation }
}
