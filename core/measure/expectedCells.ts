/** What the frames around one show at its places, along the background's motion. */
import type { Matrix3 } from '../geometry/transform'
import { COARSE_PX, COARSE_VALUES, type CoarseFrame } from './coarseFrame'

/** Another frame, and for each layer of the scene where places of this one lie on it. */
export interface OtherFrame {
  readonly coarse: CoarseFrame
  readonly motions: readonly Matrix3[]
}

/** Fewer frames tell nothing: one alone may be the one that is wrong. */
export const MIN_OTHERS = 2

/** A rectangle of cells. */
export interface Box {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

/** For each cell of a box. */
export interface Expected {
  readonly known: Uint8Array
  /** Three values each, in the scale of the frames. */
  readonly colours: Float32Array
  /** How far it stands out of those beside it, and fine structure, mean of the other frames. */
  readonly mid: Float32Array
  readonly fine: Float32Array
}

/**
 * The median of the other frames through the layer on which they agree best.
 * @param isAsked  Cells that are looked at. @param others  A handful. Cost: for each cell one reading of each other frame and layer, and three of the best one.
 */
export function expectedIn(
  now: CoarseFrame,
  box: Box,
  isAsked: (cell: number) => boolean,
  others: readonly OtherFrame[],
): Expected {
  const size = box.width * box.height
  const out: Expected = {
    known: new Uint8Array(size),
    colours: new Float32Array(3 * size),
    mid: new Float32Array(size),
    fine: new Float32Array(size),
  }
  const layers = Math.max(...others.map(({ motions }) => motions.length))
  const readings = new Readings(others)
  for (let cell = 0; cell < size; cell++) {
    if (!isAsked(cell)) continue
    const x = (box.left + (cell % box.width) + 0.5) * COARSE_PX
    const y = (box.top + Math.floor(cell / box.width) + 0.5) * COARSE_PX
    // Green tells which layer it is; only of that one the rest is read.
    let [best, least] = [-1, Infinity]
    for (let layer = 0; layer < layers; layer++) {
      if (readings.look(layer, x, y) < MIN_OTHERS) continue
      const spread = layers === 1 ? 0 : readings.spread(1)
      if (spread < least) [best, least] = [layer, spread]
    }
    if (best < 0) continue
    readings.look(best, x, y)
    out.known[cell] = 1
    for (let c = 0; c < 3; c++) out.colours[3 * cell + c] = readings.median(c)
    out.mid[cell] = readings.mid()
    out.fine[cell] = readings.fine()
  }
  return out
}

/** One place on all other frames that show it. Where it lies there is worked out once, and read for each channel. */
class Readings {
  readonly #others: readonly OtherFrame[]
  /** Of each that shows the place: its values, where in them the cell up and to the left begins, how far beyond its middle the place lies, in cells. */
  readonly #of: Uint16Array[] = []
  readonly #from: Int32Array
  readonly #right: Float64Array
  readonly #down: Float64Array
  readonly #which: Int32Array
  readonly #values: Float64Array
  #count = 0

  constructor(others: readonly OtherFrame[]) {
    this.#others = others
    this.#from = new Int32Array(others.length)
    this.#right = new Float64Array(others.length)
    this.#down = new Float64Array(others.length)
    this.#which = new Int32Array(others.length)
    this.#values = new Float64Array(others.length)
  }

  /** Looks at a place through a layer. @returns How many frames show it. */
  look(layer: number, x: number, y: number): number {
    const others = this.#others
    let count = 0
    for (let i = 0; i < others.length; i++) {
      const { coarse, motions } = others[i]!
      const m = motions[Math.min(layer, motions.length - 1)]!
      const w = m[6] * x + m[7] * y + m[8]
      const u = (m[0] * x + m[1] * y + m[2]) / (w * COARSE_PX) - 0.5
      const v = (m[3] * x + m[4] * y + m[5]) / (w * COARSE_PX) - 0.5
      if (!(u >= 0 && v >= 0 && u < coarse.cols - 1 && v < coarse.rows - 1)) continue
      const [col, row] = [Math.floor(u), Math.floor(v)]
      this.#of[count] = coarse.values
      this.#from[count] = COARSE_VALUES * (row * coarse.cols + col)
      this.#right[count] = u - col
      this.#down[count] = v - row
      this.#which[count] = i
      count++
    }
    return (this.#count = count)
  }

  median(channel: number): number {
    this.#read(channel)
    const [values, count] = [this.#values, this.#count]
    return (values[(count - 1) >> 1]! + values[count >> 1]!) / 2
  }

  /** Mean distance from the median. */
  spread(channel: number): number {
    const median = this.median(channel)
    const values = this.#values
    let sum = 0
    for (let i = 0; i < this.#count; i++) sum += Math.abs(values[i]! - median)
    return sum / this.#count
  }

  mid(): number {
    let sum = 0
    for (let i = 0; i < this.#count; i++)
      sum += midAt(this.#others[this.#which[i]!]!.coarse, this.#nearest(i) / COARSE_VALUES)
    return sum / this.#count
  }

  fine(): number {
    let sum = 0
    for (let i = 0; i < this.#count; i++) sum += this.#of[i]![this.#nearest(i) + 3]!
    return sum / this.#count
  }

  /** Where the values of the nearest cell begin. */
  #nearest(i: number): number {
    const right = this.#right[i]! >= 0.5 ? COARSE_VALUES : 0
    return this.#from[i]! + right + (this.#down[i]! >= 0.5 ? this.#lineOf(i) : 0)
  }

  #lineOf(i: number): number {
    return COARSE_VALUES * this.#others[this.#which[i]!]!.coarse.cols
  }

  /** Reads one channel between cells, into order: by insertion, as there is only a handful. */
  #read(channel: number): void {
    const [values, count] = [this.#values, this.#count]
    for (let i = 0; i < count; i++) {
      const of = this.#of[i]!
      const from = this.#from[i]! + channel
      const low = from + this.#lineOf(i)
      const right = this.#right[i]!
      const above = of[from]! + right * (of[from + COARSE_VALUES]! - of[from]!)
      const below = of[low]! + right * (of[low + COARSE_VALUES]! - of[low]!)
      const value = above + this.#down[i]! * (below - above)
      let at = i
      while (at > 0 && values[at - 1]! > value) {
        values[at] = values[at - 1]!
        at--
      }
      values[at] = value
    }
  }
}

/** How far a cell's green stands out of those beside it; 0 at the picture's edge. */
export function midAt({ cols, rows, values }: CoarseFrame, at: number): number {
  const [col, row] = [at % cols, Math.floor(at / cols)]
  if (col < 1 || row < 1 || col > cols - 2 || row > rows - 2) return 0
  // Written out: it runs for every cell and frame, where a function of its own is made each time.
  const i = COARSE_VALUES * at + 1
  const down = COARSE_VALUES * cols
  const beside =
    values[i - COARSE_VALUES]! + values[i + COARSE_VALUES]! + values[i - down]! + values[i + down]!
  return Math.abs(4 * values[i]! - beside)
}
