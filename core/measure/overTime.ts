/**
 * A finished frame against the finished frames around it, along the background's motion: whatever a mend gets wrong on some frames,
 * or takes along with it over the background, differs there from what the same place of the background shows on other frames.
 */
import type { Matrix3 } from '../geometry/transform'
import { deltaE2000, labOf, type Lab } from '../colour/lab'
import { srgb } from '../colour/transfer'
import { COARSE_PX, COARSE_VALUES, type CoarseFrame } from './coarseFrame'

/** Another frame, and for each layer of the scene where places of this one lie on it. */
export interface OtherFrame {
  readonly coarse: CoarseFrame
  readonly motions: readonly Matrix3[]
}

/** A spot of 9 px that differs from what is expected there. */
export interface OffSpot {
  /** CIEDE2000. */
  readonly e: number
  /** Px of the picture. */
  readonly x: number
  readonly y: number
}

export interface OverTime {
  /** The largest difference within the mended pixels, where nothing that goes its own way passes close by. */
  readonly inside: OffSpot | null
  /** The same beside them, and where mends lie a few frames before and after: something may be left there, or pass by. */
  readonly beside: OffSpot | null
  /** Around: nine of ten spots differ by less. */
  readonly usualE: number
  /** Structure of about 6 px, and of 1 px, in parts of what the other frames have at the same places; each in parts of the same around. Null where there is none. */
  readonly sharpness: number | null
  readonly grain: number | null
}

/** Cells of so many around mended ones belong to them: something left beside an area shows there. */
const NEAR_CELLS = 3
/** From there on so many more are the surroundings. */
const RING_CELLS = 9
const MIN_CELLS = 24
const MIN_OTHERS = 2
/** From which difference on something may go its own way, CIEDE2000: what is just seen, three times. */
const PASSING_E = 3

/** Places of an area in cells; past is excluded. */
interface Box {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

/** Cells, not 0 where they are meant. */
export interface MendedCells {
  /** Of what is asked about. */
  readonly own: Uint8Array
  /** Of all mends: they are no surroundings. */
  readonly all: Uint8Array
  /** Where mends lie some frames before and after. */
  readonly expected: Uint8Array
}

/**
 * @param others  Frames some way off, before and after.
 * @returns null where fewer than two of the other frames show the place. Cost: one reading of each other frame and layer for each cell near.
 */
export function measureOverTime(
  now: CoarseFrame,
  mended: MendedCells,
  others: readonly OtherFrame[],
): OverTime | null {
  const box = boxOf([mended.own, mended.expected], now)
  if (!box || others.length < MIN_OTHERS) return null
  const size = box.width * box.height
  const near = distancesFrom(mended.own, now, box)
  const expected = expectedIn(now, box, others)
  const isAround = (cell: number) =>
    near[cell]! > NEAR_CELLS + 1 &&
    expected.known[cell] === 1 &&
    mended.all[placeIn(box, cell, now)] === 0 &&
    mended.expected[placeIn(box, cell, now)] === 0
  const gains = gainsOver(now, box, expected, isAround)
  const there = softened(box, expected.known, (cell, c) => gains[c]! * expected.colours[3 * cell + c]!)
  const here = softened(
    box,
    expected.known,
    (cell, c) => now.values[COARSE_VALUES * placeIn(box, cell, now) + c]!,
  )
  const errors = new Float64Array(size).fill(-1)
  for (let cell = 0; cell < size; cell++) {
    const [a, b] = [there[cell], here[cell]]
    if (a && b) errors[cell] = deltaE2000(a, b)
  }
  const ring: number[] = []
  for (let cell = 0; cell < size; cell++) if (errors[cell]! >= 0 && isAround(cell)) ring.push(errors[cell]!)
  if (ring.length < MIN_CELLS) return null
  ring.sort((a, b) => a - b)
  const usualE = ring[Math.floor(0.9 * ring.length)]!
  const passing = passingIn(box, errors, Math.max(PASSING_E, 2 * usualE), (cell) => near[cell]!)
  const spotOf = (counts: (cell: number) => boolean): OffSpot | null => {
    let worst = -1
    for (let cell = 0; cell < size; cell++)
      if (errors[cell]! >= 0 && counts(cell) && (worst < 0 || errors[cell]! > errors[worst]!)) worst = cell
    if (worst < 0) return null
    const place = placeIn(box, worst, now)
    return {
      e: errors[worst]!,
      x: ((place % now.cols) + 0.5) * COARSE_PX,
      y: (Math.floor(place / now.cols) + 0.5) * COARSE_PX,
    }
  }
  return {
    inside: spotOf((cell) => near[cell] === 0 && !touches(passing, cell, box)),
    beside: spotOf(
      (cell) =>
        (near[cell]! > 0 && near[cell]! <= NEAR_CELLS) ||
        (near[cell]! > 0 && mended.expected[placeIn(box, cell, now)] !== 0),
    ),
    usualE,
    ...structureIn(now, box, near, expected, isAround),
  }
}

/** Structure inside against the same places on other frames, in parts of the same around. */
function structureIn(
  now: CoarseFrame,
  box: Box,
  near: Uint8Array,
  expected: Expected,
  isAround: (cell: number) => boolean,
): Pick<OverTime, 'sharpness' | 'grain'> {
  const sums = { mid: [0, 0, 0, 0], fine: [0, 0, 0, 0], inside: 0 }
  for (let cell = 0; cell < near.length; cell++) {
    const kind = near[cell] === 0 && expected.known[cell] === 1 ? 0 : isAround(cell) ? 1 : -1
    if (kind < 0) continue
    if (kind === 0) sums.inside++
    const at = placeIn(box, cell, now)
    sums.mid[kind]! += midAt(now, at)
    sums.mid[2 + kind]! += expected.mid[cell]!
    sums.fine[kind]! += now.values[COARSE_VALUES * at + 3]!
    sums.fine[2 + kind]! += expected.fine[cell]!
  }
  const ratio = ([inside, around, insideThere, aroundThere]: number[]) =>
    sums.inside < MIN_CELLS || insideThere! <= 0 || around! <= 0 || aroundThere! <= 0
      ? null
      : inside! / insideThere! / (around! / aroundThere!)
  return { sharpness: ratio(sums.mid), grain: ratio(sums.fine) }
}

/** Cells of what goes its own way: differences that reach from beside the area out into its surroundings. */
function passingIn(
  { width }: Box,
  errors: Float64Array,
  from: number,
  farOf: (cell: number) => number,
): Uint8Array {
  const passing = new Uint8Array(errors.length)
  const open: number[] = []
  const look = (cell: number) => {
    if (passing[cell] !== 0 || errors[cell]! < from || farOf(cell) === 0) return
    passing[cell] = 1
    open.push(cell)
  }
  for (let cell = 0; cell < errors.length; cell++) if (farOf(cell) > NEAR_CELLS + 1) look(cell)
  while (open.length > 0) {
    const cell = open.pop()!
    const col = cell % width
    if (col > 0) look(cell - 1)
    if (col < width - 1) look(cell + 1)
    if (cell >= width) look(cell - width)
    if (cell + width < errors.length) look(cell + width)
  }
  return passing
}

/** Whether any cell within two of one is marked: a spot's mean looks so far. */
function touches(marks: Uint8Array, cell: number, { width, height }: Box): boolean {
  const [col, row] = [cell % width, Math.floor(cell / width)]
  for (let y = Math.max(0, row - 2); y <= Math.min(height - 1, row + 2); y++)
    for (let x = Math.max(0, col - 2); x <= Math.min(width - 1, col + 2); x++)
      if (marks[y * width + x] !== 0) return true
  return false
}

/** How much brighter the surroundings are than on the other frames, for each colour: light that changes is nobody's fault. */
function gainsOver(
  now: CoarseFrame,
  box: Box,
  { colours }: Expected,
  isAround: (cell: number) => boolean,
): number[] {
  const [here, there] = [
    [0, 0, 0],
    [0, 0, 0],
  ]
  for (let cell = 0; cell < box.width * box.height; cell++) {
    if (!isAround(cell)) continue
    for (let c = 0; c < 3; c++) {
      here[c]! += now.values[COARSE_VALUES * placeIn(box, cell, now) + c]!
      there[c]! += colours[3 * cell + c]!
    }
  }
  return here.map((sum, c) => (there[c]! > 0 ? sum / there[c]! : 1))
}

const placeIn = ({ left, top, width }: Box, cell: number, { cols }: CoarseFrame): number =>
  (top + Math.floor(cell / width)) * cols + left + (cell % width)

/** The cells around what is marked, with its surroundings; null where nothing is. */
function boxOf(marked: readonly Uint8Array[], { cols, rows }: CoarseFrame): Box | null {
  let [left, top, right, bottom] = [cols, rows, -1, -1]
  for (const marks of marked) {
    for (let at = marks.indexOf(1); at >= 0; at = marks.indexOf(1, at + 1)) {
      const [col, row] = [at % cols, Math.floor(at / cols)]
      left = Math.min(left, col)
      right = Math.max(right, col)
      top = Math.min(top, row)
      bottom = Math.max(bottom, row)
    }
  }
  if (right < 0) return null
  const margin = NEAR_CELLS + RING_CELLS
  const [l, t] = [Math.max(0, left - margin), Math.max(0, top - margin)]
  return {
    left: l,
    top: t,
    width: Math.min(cols, right + margin + 1) - l,
    height: Math.min(rows, bottom + margin + 1) - t,
  }
}

/** For each cell of the box how many cells away the nearest marked one is, along rows and columns, up to the surroundings' end. */
function distancesFrom(mended: Uint8Array, now: CoarseFrame, box: Box): Uint8Array {
  const { width, height } = box
  const far = new Uint8Array(width * height).fill(255)
  for (let cell = 0; cell < far.length; cell++) if (mended[placeIn(box, cell, now)] !== 0) far[cell] = 0
  // Two sweeps: the larger of the ways along rows and columns is what one step of either kind adds to.
  const look = (cell: number, other: number, isInside: boolean) => {
    if (isInside && far[other]! + 1 < far[cell]!) far[cell] = far[other]! + 1
  }
  for (let cell = 0; cell < far.length; cell++) {
    const col = cell % width
    look(cell, cell - 1, col > 0)
    look(cell, cell - width, cell >= width)
    look(cell, cell - width - 1, cell >= width && col > 0)
    look(cell, cell - width + 1, cell >= width && col < width - 1)
  }
  for (let cell = far.length - 1; cell >= 0; cell--) {
    const col = cell % width
    const hasBelow = cell + width < far.length
    look(cell, cell + 1, col < width - 1)
    look(cell, cell + width, hasBelow)
    look(cell, cell + width + 1, hasBelow && col < width - 1)
    look(cell, cell + width - 1, hasBelow && col > 0)
  }
  return far
}

interface Expected {
  readonly known: Uint8Array
  readonly colours: Float32Array
  readonly mid: Float32Array
  readonly fine: Float32Array
}

/** What the other frames show at each cell: the median through the layer on which they agree best. */
function expectedIn(now: CoarseFrame, box: Box, others: readonly OtherFrame[]): Expected {
  const size = box.width * box.height
  const out: Expected = {
    known: new Uint8Array(size),
    colours: new Float32Array(3 * size),
    mid: new Float32Array(size),
    fine: new Float32Array(size),
  }
  const layers = Math.max(...others.map(({ motions }) => motions.length))
  const readings = new Float64Array(5 * others.length)
  const sorted = new Float64Array(others.length)
  const place = new Float64Array(2)
  for (let cell = 0; cell < size; cell++) {
    const x = (box.left + (cell % box.width) + 0.5) * COARSE_PX
    const y = (box.top + Math.floor(cell / box.width) + 0.5) * COARSE_PX
    let least = Infinity
    for (let layer = 0; layer < layers; layer++) {
      let count = 0
      for (const { coarse, motions } of others) {
        const motion = motions[Math.min(layer, motions.length - 1)]!
        moveInto(place, motion, x, y)
        if (readInto(readings, 5 * count, coarse, place[0]!, place[1]!)) count++
      }
      if (count < MIN_OTHERS) continue
      let spread = 0
      const median = [0, 0, 0]
      for (let c = 0; c < 3; c++) {
        sortInto(sorted, readings, c, count)
        median[c] = (sorted[(count - 1) >> 1]! + sorted[count >> 1]!) / 2
        for (let i = 0; i < count; i++) spread += Math.abs(sorted[i]! - median[c]!)
      }
      spread /= count
      if (spread >= least) continue
      least = spread
      out.known[cell] = 1
      let [mid, fine] = [0, 0]
      for (let i = 0; i < count; i++) {
        mid += readings[5 * i + 3]!
        fine += readings[5 * i + 4]!
      }
      out.colours.set(median, 3 * cell)
      out.mid[cell] = mid / count
      out.fine[cell] = fine / count
    }
  }
  return out
}

/** A handful of values in order: by insertion, many times faster than a general sort. */
function sortInto(sorted: Float64Array, readings: Float64Array, c: number, count: number): void {
  for (let i = 0; i < count; i++) {
    const value = readings[5 * i + c]!
    let at = i
    while (at > 0 && sorted[at - 1]! > value) {
      sorted[at] = sorted[at - 1]!
      at--
    }
    sorted[at] = value
  }
}

function moveInto(place: Float64Array, m: Matrix3, x: number, y: number): void {
  const w = m[6] * x + m[7] * y + m[8]
  place[0] = (m[0] * x + m[1] * y + m[2]) / w
  place[1] = (m[3] * x + m[4] * y + m[5]) / w
}

/** Colours between cells; structure of the nearest one. @returns Whether the place lies in the picture. */
function readInto(to: Float64Array, at: number, frame: CoarseFrame, x: number, y: number): boolean {
  const { cols, rows, values } = frame
  const [u, v] = [x / COARSE_PX - 0.5, y / COARSE_PX - 0.5]
  const [col, row] = [Math.floor(u), Math.floor(v)]
  if (col < 0 || row < 0 || col > cols - 2 || row > rows - 2) return false
  const [right, below] = [u - col, v - row]
  const from = COARSE_VALUES * (row * cols + col)
  const down = COARSE_VALUES * cols
  for (let c = 0; c < 3; c++) {
    const i = from + c
    const top = values[i]! + right * (values[i + COARSE_VALUES]! - values[i]!)
    const low = values[i + down]! + right * (values[i + down + COARSE_VALUES]! - values[i + down]!)
    to[at + c] = top + below * (low - top)
  }
  const nearest = (row + (below >= 0.5 ? 1 : 0)) * cols + col + (right >= 0.5 ? 1 : 0)
  to[at + 3] = midAt(frame, nearest)
  to[at + 4] = values[COARSE_VALUES * nearest + 3]!
  return true
}

/** How far a cell's green stands out of those beside it. */
function midAt({ cols, rows, values }: CoarseFrame, at: number): number {
  const [col, row] = [at % cols, Math.floor(at / cols)]
  if (col < 1 || row < 1 || col > cols - 2 || row > rows - 2) return 0
  const green = (place: number) => values[COARSE_VALUES * place + 1]!
  return Math.abs(4 * green(at) - green(at - 1) - green(at + 1) - green(at - cols) - green(at + cols))
}

/** Means of three by three cells as colours that can be told apart; undefined where one of them is not known. */
function softened(
  { width, height }: Box,
  known: Uint8Array,
  valueOf: (cell: number, channel: number) => number,
): (Lab | undefined)[] {
  const out: (Lab | undefined)[] = Array.from({ length: width * height })
  const linear = [0, 0, 0]
  for (let row = 1; row < height - 1; row++) {
    for (let col = 1; col < width - 1; col++) {
      const cell = row * width + col
      let isKnown = true
      for (let c = 0; c < 3; c++) {
        let sum = 0
        for (let y = -width; y <= width; y += width)
          for (let x = -1; x <= 1; x++) {
            isKnown &&= known[cell + y + x] === 1
            sum += valueOf(cell + y + x, c)
          }
        linear[c] = srgb.decode(sum / (9 * 65535))
      }
      if (isKnown) out[cell] = labOf(linear[0]!, linear[1]!, linear[2]!)
    }
  }
  return out
}
