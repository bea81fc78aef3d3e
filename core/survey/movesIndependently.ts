/** Whether a thin line goes where the picture beside it goes, from a frame to a later one. */
import type { Plane } from '../image/raster'
import { ridgesOf, type RidgePath } from './ridges'

const { abs, floor } = Math // looked up once: they run for every cell

export interface Way {
  readonly x: number
  readonly y: number
}

/** A picture and its ridges; each worked out once. */
export interface RidgeView {
  readonly plane: Plane
  ridges(isDark: boolean): Plane
}

export function viewRidges(plane: Plane): RidgeView {
  const known: [Plane?, Plane?] = []
  return { plane, ridges: (isDark) => (known[isDark ? 0 : 1] ??= ridgesOf(plane, isDark)) }
}

/** Rows around one that speak for it. */
const SMOOTH_ROWS = 6
/** Of the ridge so much is left where it went with the picture: less, and the row goes alone. */
const STAYS = 0.5
/** Fewer such rows are not worth a second look. */
const MIN_ROWS = 8

/**
 * Rows of a path that are not where they would be if they went with the picture as a whole, with what lies to their left, or with what
 * lies to their right: 1 for each, and 0 for the others. What lies beside a joint or an edge goes with it on one side at least.
 *
 * @param later  The same line on the later frame. @param went  How far the picture as a whole has gone, cells.
 * @returns null where no row does.
 */
export function rowsAlone(
  path: RidgePath,
  later: RidgePath,
  then: RidgeView,
  now: RidgeView,
  went: Way,
): Uint8Array | null {
  const ridges = ridgesAlong(path, then)
  const left = new Float32Array(ridges.length)
  addLeft(left, ridges, path, now, went)
  if (aloneOf(ridges, left, path, later).count < MIN_ROWS) return null
  const right = offBetween(path, later)
  const guesses = right === Infinity ? [went] : [went, { x: right, y: went.y }]
  for (const side of [-1, 1] as const)
    addLeft(left, ridges, path, now, besideWent(path, later, side, then.plane, now.plane, guesses))
  const { isAlone, count } = aloneOf(ridges, left, path, later)
  return count < MIN_ROWS ? null : isAlone
}

/** How far one path lies to the right of another, cells, where both run; Infinity where that is little of the shorter one. */
export function offBetween(a: RidgePath, b: RidgePath): number {
  const [from, to] = [
    Math.max(a.first, b.first),
    Math.min(a.first + a.places.length, b.first + b.places.length),
  ]
  if (to - from < MIN_SHARED * Math.min(a.places.length, b.places.length)) return Infinity
  let sum = 0
  for (let row = from; row < to; row++) sum += b.places[row - b.first]! - a.places[row - a.first]!
  return sum / (to - from)
}
const MIN_SHARED = 0.6

function ridgesAlong({ isDark, first, places }: RidgePath, view: RidgeView): Float32Array {
  const { data, width } = view.ridges(isDark)
  return Float32Array.from(places, (place, k) => data[(first + k) * width + floor(place)]!)
}

/** How much of the ridge is found where it would be; the most of all ways is kept. */
function addLeft(
  left: Float32Array,
  ridges: Float32Array,
  { isDark, first, places }: RidgePath,
  now: RidgeView,
  way: Way,
): void {
  const { data, width, height } = now.ridges(isDark)
  const down = Math.round(way.y)
  for (let k = 0; k < places.length; k++) {
    const [row, col] = [first + k + down, floor(places[k]! + way.x)]
    // What has left the picture may have gone with it.
    if (row < 0 || row >= height || col < 3 || col >= width - 3) {
      left[k] = ridges[k]!
      continue
    }
    const at = row * width + col
    const found = Math.max(data[at - 1]!, data[at]!, data[at + 1]!)
    left[k] = Math.max(left[k]!, Math.min(found, ridges[k]!))
  }
}

function aloneOf(
  ridges: Float32Array,
  left: Float32Array,
  path: RidgePath,
  later: RidgePath,
): { isAlone: Uint8Array; count: number } {
  const isAlone = new Uint8Array(ridges.length)
  const [from, to] = [later.first - path.first, later.first + later.places.length - path.first]
  let count = 0
  for (let k = Math.max(0, from); k < Math.min(ridges.length, to); k++) {
    let [stays, all] = [0, 0]
    for (let i = Math.max(0, k - SMOOTH_ROWS); i <= Math.min(ridges.length - 1, k + SMOOTH_ROWS); i++) {
      stays += left[i]!
      all += ridges[i]!
    }
    if (stays >= STAYS * all) continue
    isAlone[k] = 1
    count++
  }
  return { isAlone, count }
}

/** The stretch beside a path that is compared, cells from it; how far around a guess it is looked for. */
const BESIDE = { from: 3, to: 9 } as const
const REACH = { x: 5, y: 2 } as const
/** What differs by more is not the same thing: it counts no further. */
const MAX_STOPS = 0.3

/** The shift through which what lies on one side of a path looks most like a later frame, near one of some guesses. */
function besideWent(
  path: RidgePath,
  later: RidgePath,
  side: -1 | 1,
  then: Plane,
  now: Plane,
  guesses: readonly Way[],
): Way {
  let best = guesses[0]!
  let min = Infinity
  for (const guess of guesses) {
    const [aroundX, aroundY] = [Math.round(guess.x), Math.round(guess.y)]
    for (let y = aroundY - REACH.y; y <= aroundY + REACH.y; y++) {
      for (let x = aroundX - REACH.x; x <= aroundX + REACH.x; x++) {
        const off = besideOff(path, later, side, then, now, x, y)
        if (off < min) [min, best] = [off, { x, y }]
      }
    }
  }
  return best
}

/** Cells to either side of where the line is now: what lies there is the line. */
const COVERED = 2

/** Every other row tells as much. */
function besideOff(
  { first, places }: RidgePath,
  later: RidgePath,
  side: -1 | 1,
  then: Plane,
  now: Plane,
  x: number,
  y: number,
): number {
  let [sum, count] = [0, 0]
  for (let k = 0; k < places.length; k += 2) {
    const [row, rowNow] = [first + k, first + k + y]
    if (rowNow < 0 || rowNow >= now.height) continue
    const middle = floor(places[k]!)
    const covered = later.places[rowNow - later.first] ?? -Infinity
    for (let j = BESIDE.from; j <= BESIDE.to; j++) {
      const col = middle + side * j
      const to = col + x
      if (col < 0 || col >= then.width || to < 0 || to >= now.width || abs(to + 0.5 - covered) < COVERED)
        continue
      const off = abs(then.data[row * then.width + col]! - now.data[rowNow * now.width + to]!)
      sum += off < MAX_STOPS ? off : MAX_STOPS
      count++
    }
  }
  return count < places.length ? Infinity : sum / count
}
