/**
 * A finished frame against the finished frames around it, along the background's motion: whatever a mend gets wrong on some frames,
 * or takes along with it over the background, differs there from what the same place of the background shows on other frames.
 */
import { deltaE2000, labOf, type Lab } from '../colour/lab'
import { medianOf } from '../image/median'
import { srgb } from '../colour/transfer'
import { COARSE_PX, COARSE_VALUES, type CoarseFrame } from './coarseFrame'
import { expectedIn, midAt, MIN_OTHERS, type Box, type Expected, type OtherFrame } from './expectedCells'

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
/** From which difference on something may go its own way, CIEDE2000: what is just seen, three times. */
const PASSING_E = 3
/** And so many times what half of the surroundings differ by. */
const PASSING_TIMES = 3

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
  const expected = expectedIn(now, box, (cell) => near[cell]! <= NEAR_CELLS + RING_CELLS, others)
  const places = placesIn(box, now)
  const around = new Uint8Array(size)
  for (let cell = 0; cell < size; cell++) {
    const place = places[cell]!
    if (near[cell]! <= NEAR_CELLS + 1 || expected.known[cell] !== 1) continue
    if (mended.all[place] === 0 && mended.expected[place] === 0) around[cell] = 1
  }
  const gains = gainsOver(now, places, expected, around)
  const there = softened(box, expected.known, expected.colours, gains)
  const here = softened(box, expected.known, coloursAt(now, places, expected.known), [1, 1, 1])
  const errors = new Float64Array(size).fill(-1)
  for (let cell = 0; cell < size; cell++) {
    const [a, b] = [there[cell], here[cell]]
    if (a && b) errors[cell] = differenceOf(a, b)
  }
  const ring: number[] = []
  for (let cell = 0; cell < size; cell++)
    if (errors[cell]! >= 0 && around[cell] === 1) ring.push(errors[cell]!)
  if (ring.length < MIN_CELLS) return null
  ring.sort((a, b) => a - b)
  const usualE = ring[Math.floor(0.9 * ring.length)]!
  const passingFrom = Math.max(PASSING_E, PASSING_TIMES * ring[ring.length >> 1]!)
  const passing = passingIn(box, errors, passingFrom, (cell) => near[cell]!)
  const spotOf = (counts: (cell: number) => boolean): OffSpot | null => {
    let worst = -1
    for (let cell = 0; cell < size; cell++)
      if (errors[cell]! >= 0 && counts(cell) && (worst < 0 || errors[cell]! > errors[worst]!)) worst = cell
    if (worst < 0) return null
    const place = places[worst]!
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
        (near[cell]! > 0 && mended.expected[places[cell]!] !== 0),
    ),
    usualE,
    ...structureIn(now, places, near, expected, around),
  }
}

/** Structure inside against the same places on other frames, in parts of the same around. */
function structureIn(
  now: CoarseFrame,
  places: Uint32Array,
  near: Uint8Array,
  expected: Expected,
  around: Uint8Array,
): Pick<OverTime, 'sharpness' | 'grain'> {
  const sums = { mid: [0, 0, 0, 0], fine: [0, 0, 0, 0], inside: 0 }
  for (let cell = 0; cell < near.length; cell++) {
    const kind = near[cell] === 0 && expected.known[cell] === 1 ? 0 : around[cell] === 1 ? 1 : -1
    if (kind < 0) continue
    if (kind === 0) sums.inside++
    const at = places[cell]!
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

/** How much brighter the surroundings are than on the other frames, for each colour: light that changes is nobody's fault. The median, as something may pass by. */
function gainsOver(
  now: CoarseFrame,
  places: Uint32Array,
  { colours }: Expected,
  around: Uint8Array,
): number[] {
  const ratios: [number[], number[], number[]] = [[], [], []]
  for (let cell = 0; cell < around.length; cell++) {
    if (around[cell] === 0) continue
    const at = COARSE_VALUES * places[cell]!
    for (let c = 0; c < 3; c++) {
      const there = colours[3 * cell + c]!
      if (there > 0) ratios[c]!.push(now.values[at + c]! / there)
    }
  }
  return ratios.map((all) => (all.length === 0 ? 1 : medianOf(all)))
}

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
  const places = placesIn(box, now)
  for (let cell = 0; cell < far.length; cell++) if (mended[places[cell]!] !== 0) far[cell] = 0
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

/** Where the cells of a box lie in their frame. */
function placesIn({ left, top, width, height }: Box, { cols }: CoarseFrame): Uint32Array {
  const places = new Uint32Array(width * height)
  for (let row = 0, cell = 0; row < height; row++)
    for (let col = 0; col < width; col++, cell++) places[cell] = (top + row) * cols + left + col
  return places
}

/** Three values for each cell that is known. */
function coloursAt({ values }: CoarseFrame, places: Uint32Array, known: Uint8Array): Float32Array {
  const colours = new Float32Array(3 * places.length)
  for (let cell = 0, to = 0; cell < places.length; cell++, to += 3) {
    if (known[cell] !== 1) continue
    const at = COARSE_VALUES * places[cell]!
    colours[to] = values[at]!
    colours[to + 1] = values[at + 1]!
    colours[to + 2] = values[at + 2]!
  }
  return colours
}

/** Means of three by three cells as colours that can be told apart; undefined where one of them is not known. */
function softened(
  { width, height }: Box,
  known: Uint8Array,
  colours: Float32Array,
  gains: readonly number[],
): (Lab | undefined)[] {
  const out: (Lab | undefined)[] = Array.from({ length: width * height })
  const mean = (cell: number, c: number): number => {
    const at = 3 * cell + c
    const down = 3 * width
    let sum = 0
    for (let line = at - down; line <= at + down; line += down)
      sum += colours[line - 3]! + colours[line]! + colours[line + 3]!
    return lightOf((gains[c]! * sum) / (9 * 65535))
  }
  for (let row = 1; row < height - 1; row++) {
    for (let col = 1; col < width - 1; col++) {
      const cell = row * width + col
      let count = 0
      for (let line = cell - width; line <= cell + width; line += width)
        count += known[line - 1]! + known[line]! + known[line + 1]!
      if (count === 9) out[cell] = labOf(mean(cell, 0), mean(cell, 1), mean(cell, 2))
    }
  }
  return out
}

/** So near that nobody sees it, the plain distance does: it is a fraction of the work. */
const PLAIN_BELOW = 0.5

function differenceOf(a: Lab, b: Lab): number {
  const [l, x, y] = [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
  const plain = Math.sqrt(l * l + x * x + y * y)
  return plain < PLAIN_BELOW ? plain : deltaE2000(a, b)
}

const LIGHT_STEPS = 4096
let lightTable: Float64Array | null = null

/** Light of a code value, 0 to 1, from a table: it errs by less than a ten thousandth. */
function lightOf(encoded: number): number {
  lightTable ??= Float64Array.from({ length: LIGHT_STEPS + 2 }, (_, i) => srgb.decode(i / LIGHT_STEPS))
  const at = Math.min(Math.max(encoded, 0), 1) * LIGHT_STEPS
  const step = Math.floor(at)
  return lightTable[step]! + (at - step) * (lightTable[step + 1]! - lightTable[step]!)
}
