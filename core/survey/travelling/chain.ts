/**
 * One thing that goes its own way, from frame to frame: a pattern of strangers that keeps its shape. Where it lies next is where it looks
 * most like the mean of what it has looked like so far. Source: normalised correlation, common practice.
 */
import { apply, compose, IDENTITY, type Matrix3 } from '../../geometry/transform'
import type { Plane } from '../../image/raster'
import type { Rect } from '../../image/rect'
import { pow } from '../../kernels/exact'
import type { Frame } from '../../time'
import { lowestBetween } from '../parabola'
import { energyIn, type Strange, type Strangers } from './strangers'

export interface ChainPlace {
  readonly frame: Frame
  /** Upper left corner of its window, cells. */
  readonly x: number
  readonly y: number
  /** -1 to 1: how much it looked like the mean. */
  readonly alike: number
}

/** Cells of the mean that have less of the strongest are not its own. */
const OWN_SHARE = 0.3
/** So much of the strongest is still more than chance, where so large a share of a line has it. */
const FAINT_SHARE = 0.08
const FAINT_LINE = 0.3
/** More alike, it is the same. */
const SAME = 0.5
/** And so much more alike, nowhere else is looked for it. */
const SURE = 0.85
/** Somewhere else it must be more alike by so much than where it is expected. */
const BY_CHANCE = 0.08
/** From one frame to the next it goes no further than this, cells; where its pace is known, so far off it. */
const FASTEST = 40
const OFF_PACE = 3
/** Cells by which the first look for it is made, at most. */
const ROUGH = 64
/** So much of it has to be within the picture. */
const MIN_INSIDE = 0.6
/** It may be unseen for so many frames: over what looks like it. */
const MAX_UNSEEN = 8

export class Chain {
  #places: ChainPlace[]
  readonly window: Rect
  readonly #sum: Float32Array
  /** Cells of its window that are its own: where they lie in it, and what they look like. */
  #own: Cells = NO_CELLS
  #rough: Cells = NO_CELLS
  readonly #through: Through
  readonly #way = { with: 0, scene: 0, own: 0, sceneLength: 0 }
  /** How alike it usually is. */
  #usual = 1
  #unseen = 0
  /** How the scene has gone since it was last seen. */
  #scene: Matrix3 = IDENTITY

  /** @param pattern  What it looks like, in the window. @param weight  Of how many frames that is the mean. */
  constructor(frame: Frame, window: Rect, pattern: Plane, weight: number) {
    this.window = window
    this.#places = [{ frame, x: window.col, y: window.row, alike: 1 }]
    this.#sum = new Float32Array(window.width * window.height)
    this.#through = new Through(window.width * window.height)
    this.#add(window.col, window.row, pattern, weight)
  }

  /** In the order of time, or against it until it is turned round. */
  get places(): readonly ChainPlace[] {
    return this.#places
  }

  get last(): ChainPlace {
    return this.#places.at(-1)!
  }

  /** After it was followed to one side of time, it goes on to the other from where it was found. */
  turnRound(): void {
    this.#places.reverse()
    this.#unseen = 0
    this.#scene = IDENTITY
  }

  /** @param toFrame  Takes places of the last frame to this one's, as the scene goes. @returns Whether it may be seen soon. */
  goOn(frame: Frame, { off, energy, ground }: Strangers, plate: Plane | null, toFrame: Matrix3): boolean {
    this.#scene = compose(toFrame, this.#scene)
    const { last, window } = this
    const found = this.#find(frame, { off, energy })
    if (!found) {
      this.#unseen++
      return this.isLive
    }
    const [x, y] = [last.x + window.width / 2, last.y + window.height / 2]
    const there = apply(this.#scene, x, y)
    const [scene, own] = [
      { x: there.x - x, y: there.y - y },
      { x: found.x - last.x, y: found.y - last.y },
    ]
    this.#way.with += scene.x * own.x + scene.y * own.y
    this.#way.scene += scene.x * scene.x + scene.y * scene.y
    this.#way.own += own.x * own.x + own.y * own.y
    this.#way.sceneLength += Math.sqrt(scene.x * scene.x + scene.y * scene.y)
    this.#unseen = 0
    this.#scene = IDENTITY
    this.#usual += (found.alike - this.#usual) / this.#places.length
    this.#places.push({ frame, ...found })
    this.#add(found.x, found.y, off, 1)
    if (plate && ground) this.#see(found.x, found.y, plate, ground)
    return true
  }

  /** Share of its way that is left when the scene's is taken off, times what it takes: of what belongs to the scene, nearer or further away, little is. */
  get ownShare(): number {
    const { with: both, scene, own } = this.#way
    if (own === 0) return 0
    return both > 0 && scene > 0 ? Math.max(0, 1 - (both * both) / (scene * own)) : 1
  }

  /** How many cells of its window are its own. */
  get cells(): number {
    return this.#own.at.length
  }

  /** How far the scene has gone behind it in all, cells. */
  get sceneTravel(): number {
    return this.#way.sceneLength
  }

  /** How much more it changes one way than the other: large for what lies along a line. */
  get lopsided(): number {
    const { width, height } = this.window
    let [across, down] = [0, 0]
    for (let row = 0; row + 1 < height; row++) {
      for (let col = 0; col + 1 < width; col++) {
        const here = this.#sum[row * width + col]!
        const [toRight, toBelow] = [
          this.#sum[row * width + col + 1]! - here,
          this.#sum[(row + 1) * width + col]! - here,
        ]
        across += toRight * toRight
        down += toBelow * toBelow
      }
    }
    return Math.max(across, down) / Math.max(1e-9, Math.min(across, down))
  }

  /** Whether its window covers the middle of another, as it was seen last. */
  covers({ col, row, width, height }: Rect): boolean {
    const { last, window } = this
    const [x, y] = [col + width / 2, row + height / 2]
    return x >= last.x && y >= last.y && x < last.x + window.width && y < last.y + window.height
  }

  /**
   * Whether what was found is this one, seen again: then it goes on from there.
   * @param pattern  What rests in the window.
   */
  comesBack(frame: Frame, pattern: Strange, { col, row, width, height }: Rect): boolean {
    const [x, y] = [col + (width - this.window.width) / 2, row + (height - this.window.height) / 2]
    const reach = Math.ceil(Math.max(width, height, this.window.width, this.window.height) / 2)
    const rough = bestAround(pattern, this.#rough, x, y, reach)
    const found = bestAround(pattern, this.#own, rough.x, rough.y, 1)
    if (found.alike < SAME) return false
    this.#places.push({ frame, ...found })
    this.#unseen = 0
    this.#scene = IDENTITY
    return true
  }

  /** Whether it was seen so lately that it may be seen any time. */
  get isLive(): boolean {
    return this.#unseen <= MAX_UNSEEN
  }

  /** Share of the ground that it hides, 0 to 1. */
  get opacity(): number {
    return 1 - this.#through.share(this.#own.at)
  }

  #find(frame: Frame, strange: Strange): Found | null {
    const { last } = this
    const before = this.#places.at(-2)
    let best = bestAround(strange, this.#own, last.x, last.y, OFF_PACE)
    if (before) {
      const share = (frame - last.frame) / (last.frame - before.frame)
      const [x, y] = [last.x + share * (last.x - before.x), last.y + share * (last.y - before.y)]
      best = better(best, bestAround(strange, this.#own, x, y, OFF_PACE))
    }
    if (best.alike < Math.min(SURE, this.#usual) && this.#unseen <= 1) {
      const rough = bestAround(strange, this.#rough, last.x, last.y, FASTEST)
      const far = bestAround(strange, this.#own, rough.x, rough.y, 1)
      if (far.alike > best.alike + BY_CHANCE) best = far
    }
    if (best.alike < SAME) return null
    const at = (dx: number, dy: number) => alikeAt(strange, best.x + dx, best.y + dy, this.#own)
    return {
      x: best.x + lowestBetween(-at(-1, 0), -best.alike, -at(1, 0)),
      y: best.y + lowestBetween(-at(0, -1), -best.alike, -at(0, 1)),
      alike: best.alike,
    }
  }

  #add(x: number, y: number, off: Plane, weight: number): void {
    const { width, height } = this.window
    const [wholeX, wholeY] = [Math.floor(x), Math.floor(y)]
    const [fx, fy] = [x - wholeX, y - wholeY]
    const weights = [(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy] as const
    const read = (col: number, row: number) =>
      col < 0 || row < 0 || col >= off.width || row >= off.height ? 0 : off.data[row * off.width + col]!
    let most = 0
    for (let row = 0, cell = 0; row < height; row++) {
      for (let col = 0; col < width; col++, cell++) {
        const [c, r] = [wholeX + col, wholeY + row]
        this.#sum[cell]! +=
          weight *
          (weights[0] * read(c, r) +
            weights[1] * read(c + 1, r) +
            weights[2] * read(c, r + 1) +
            weights[3] * read(c + 1, r + 1))
        most = Math.max(most, Math.abs(this.#sum[cell]!))
      }
    }
    this.#own = cellsOf(this.#sum, width, OWN_SHARE * most)
    this.#rough = someOf(this.#own, ROUGH)
  }

  #see(x: number, y: number, plate: Plane, ground: Plane): void {
    const [nearX, nearY] = [Math.round(x), Math.round(y)]
    for (const cell of this.#own.at) {
      const [col, row] = [nearX + (cell % this.window.width), nearY + Math.floor(cell / this.window.width)]
      if (col < 0 || row < 0 || col >= plate.width || row >= plate.height) continue
      const at = row * plate.width + col
      this.#through.add(cell, plate.data[at]!, ground.data[at]!)
    }
  }

  /**
   * What it takes up of its window: its own cells, and what is fainter around them, such as a field that letters stand on: lines of which a good
   * part is there, one beside the other.
   */
  get extent(): Rect {
    const { width, height } = this.window
    const faint = FAINT_SHARE * this.#sum.reduce((most, value) => Math.max(most, Math.abs(value)), 0)
    let { col: left, row: top } = this.#own.size
    let [right, bottom] = [left + this.#own.size.width - 1, top + this.#own.size.height - 1]
    const isThere = (col: number, row: number) => Math.abs(this.#sum[row * width + col]!) > faint
    const isFull = (length: number, at: (i: number) => boolean) => {
      let count = 0
      for (let i = 0; i < length; i++) if (at(i)) count++
      return count >= FAINT_LINE * length
    }
    const isRow = (row: number) => isFull(right - left + 1, (i) => isThere(left + i, row))
    const isCol = (col: number) => isFull(bottom - top + 1, (i) => isThere(col, top + i))
    while (top > 0 && isRow(top - 1)) top--
    while (bottom < height - 1 && isRow(bottom + 1)) bottom++
    while (left > 0 && isCol(left - 1)) left--
    while (right < width - 1 && isCol(right + 1)) right++
    return { col: left, row: top, width: right - left + 1, height: bottom - top + 1 }
  }
}

type Found = Pick<ChainPlace, 'x' | 'y' | 'alike'>

const better = (a: Found, b: Found): Found => (b.alike > a.alike ? b : a)

/** Some cells of a window: which, where in it, and what they look like. */
interface Cells {
  readonly at: Int32Array
  readonly cols: Int32Array
  readonly rows: Int32Array
  readonly values: Float32Array
  /** Root of the sum of squares. */
  readonly norm: number
  /** Their extent in the window. */
  readonly size: Rect
}
const NO_CELLS: Cells = {
  at: new Int32Array(0),
  cols: new Int32Array(0),
  rows: new Int32Array(0),
  values: new Float32Array(0),
  norm: 0,
  size: { col: 0, row: 0, width: 0, height: 0 },
}

/** Cells that have more than the limit. */
function cellsOf(sum: Float32Array, width: number, limit: number): Cells {
  const all: number[] = []
  for (let cell = 0; cell < sum.length; cell++) if (Math.abs(sum[cell]!) > limit) all.push(cell)
  const at = Int32Array.from(all)
  const values = Float32Array.from(at, (cell) => sum[cell]!)
  const [cols, rows] = [at.map((cell) => cell % width), at.map((cell) => Math.floor(cell / width))]
  const [left, top] = [
    cols.reduce((a, b) => Math.min(a, b), width),
    rows.reduce((a, b) => Math.min(a, b), sum.length),
  ]
  const [right, bottom] = [cols.reduce((a, b) => Math.max(a, b), 0), rows.reduce((a, b) => Math.max(a, b), 0)]
  return {
    at,
    cols,
    rows,
    values,
    norm: normOf(values),
    size: { col: left, row: top, width: right - left + 1, height: bottom - top + 1 },
  }
}

const normOf = (values: Float32Array): number =>
  Math.sqrt(values.reduce((squares, value) => squares + value * value, 0))

/** Every so-manieth of them, for a first look. */
function someOf({ at, cols, rows, values, norm, size }: Cells, most: number): Cells {
  const step = Math.max(1, Math.ceil(at.length / most))
  const isKept = (_: number, i: number) => i % step === 0
  const some = values.filter(isKept)
  // What is left out is taken to look as the rest does.
  const share = norm > 0 ? normOf(some) / norm : 0
  return {
    at: at.filter(isKept),
    cols: cols.filter(isKept),
    rows: rows.filter(isKept),
    values: some,
    norm: norm * share * share,
    size,
  }
}

function bestAround(strange: Strange, cells: Cells, x: number, y: number, reach: number): Found {
  const [nearX, nearY] = [Math.round(x), Math.round(y)]
  let best: Found = { x: nearX, y: nearY, alike: -1 }
  for (let row = nearY - reach; row <= nearY + reach; row++) {
    for (let col = nearX - reach; col <= nearX + reach; col++) {
      const alike = alikeAt(strange, col, row, cells)
      if (alike > best.alike) best = { x: col, y: row, alike }
    }
  }
  return best
}

/**
 * Normalised correlation: of its own cells with what lies there, against all strangers in its window. Those that its own cells do not explain count
 * against it. -1 where too little of it is within the picture.
 */
function alikeAt(
  { off, energy }: Strange,
  col: number,
  row: number,
  { cols, rows, values, norm, size }: Cells,
): number {
  const { width, height, data } = off
  let [product, inside] = [0, 0]
  for (let i = 0; i < values.length; i++) {
    const x = col + cols[i]!
    const y = row + rows[i]!
    if (x < 0 || y < 0 || x >= width || y >= height) continue
    inside++
    product += values[i]! * data[y * width + x]!
  }
  if (product <= 0 || inside < MIN_INSIDE * values.length) return -1
  return product / (norm * Math.sqrt(energyIn(energy, off, col, row, size)))
}

/** How much of the ground shines through: where the ground gets brighter, what is shown does too. Least squares, over frames and cells. */
class Through {
  readonly #count: Float64Array
  readonly #plate: Float64Array
  readonly #ground: Float64Array
  readonly #squares: Float64Array
  readonly #products: Float64Array

  constructor(cells: number) {
    this.#count = new Float64Array(cells)
    this.#plate = new Float64Array(cells)
    this.#ground = new Float64Array(cells)
    this.#squares = new Float64Array(cells)
    this.#products = new Float64Array(cells)
  }

  /** @param plateStops  What is shown. @param groundStops  What is there without it. */
  add(cell: number, plateStops: number, groundStops: number): void {
    const [shown, bare] = [codeOf(plateStops), codeOf(groundStops)]
    this.#count[cell]! += 1
    this.#plate[cell]! += shown
    this.#ground[cell]! += bare
    this.#squares[cell]! += bare * bare
    this.#products[cell]! += shown * bare
  }

  /** 0 to 1; 0 where the ground was always the same. */
  share(cells: ArrayLike<number>): number {
    let [through, of] = [0, 0]
    for (let i = 0; i < cells.length; i++) {
      const cell = cells[i]!
      const n = this.#count[cell]!
      if (n < 2) continue
      const mean = this.#ground[cell]! / n
      through += this.#products[cell]! - this.#plate[cell]! * mean
      of += this.#squares[cell]! - this.#ground[cell]! * mean
    }
    return of > 0 ? Math.min(1, Math.max(0, through / of)) : 0
  }
}

/** Stops of light as code values of a display, near enough to be mixed. */
const codeOf = (stops: number): number => pow(2, stops / 2.2)
