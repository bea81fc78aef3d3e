/**
 * Ridges: thin stretches of a picture that are darker, or brighter, than what lies on both sides of them, as paths over many rows.
 *
 * The best path is found by dynamic programming, as an alignment of sequences finds the best stretch: what is a ridge counts for it, what
 * is none against it. Sources: Smith and Waterman, "Identification of common molecular subsequences", J. Mol. Biol. 147, 1981, for the
 * score that begins anew at 0; Amini, Weymouth and Jain, IEEE PAMI 12(9), 1990, for paths in pictures.
 */
import { createPlane, type Plane } from '../image/raster'

export interface RidgePath {
  readonly isDark: boolean
  /** Row of its first cell. */
  readonly first: number
  /** Where it runs in each row from there on, cells, middles of cells at +0.5. */
  readonly places: Float32Array
  /** Of how much it differs from both its sides, mean over its rows, in stops. */
  readonly strength: number
}

/** How far to either side its surroundings lie, cells. */
const EDGE = 3
/** What counts for a path: no row more than this, and less than this counts against it, in stops. */
const MAX_STOPS = 0.3
const MIN_STOPS = 0.15
/** Beyond that it still keeps the path on the crest. */
const CREST = 0.1
/** A step to the side, in stops. */
const STEP_COST = 0.03
const MIN_ROWS = 24
/** Of one sort, in one frame. */
const MAX_PATHS = 4
/** No other path runs as near. */
const APART_CELLS = 4

/** By how much each cell differs from both its sides in its row, stops; 0 where it is not between them. */
export function ridgesOf({ width, height, data }: Plane, isDark: boolean): Plane {
  const out = createPlane(width, height)
  const sign = isDark ? 0.5 : -0.5
  for (let row = 0; row < height; row++) {
    for (let at = row * width + EDGE; at < (row + 1) * width - EDGE; at++) {
      const here = 2 * data[at]!
      const left = sign * (data[at - 2]! + data[at - 3]! - here)
      const right = sign * (data[at + 2]! + data[at + 3]! - here)
      const min = left < right ? left : right
      out.data[at] = min > 0 ? min : 0
    }
  }
  return out
}

/** Paths that run down a plane, within 45 degrees of upright; the strongest first. */
export function ridgePaths(plane: Plane): RidgePath[] {
  return [true, false].flatMap((isDark) => {
    const ridges = ridgesOf(plane, isDark)
    const search = createSearch(ridges)
    const found: RidgePath[] = []
    for (let searched = 0; searched < MAX_PATHS; searched++) {
      const cells = search.best()
      if (cells.length < MIN_ROWS) break
      found.push(...smoothStretches(pathOf(plane, ridges, cells, isDark), ridges))
      clearAround(ridges, cells)
    }
    return found
  })
}

/** Cells of the best path from top to bottom, as often as it is asked. */
function createSearch(ridges: Plane) {
  const scores = new Float32Array(ridges.data.length)
  const came = new Int8Array(ridges.data.length)
  return {
    best(): number[] {
      const end = fillScores(ridges, scores, came)
      const cells: number[] = []
      for (let at = end; at >= 0;) {
        cells.push(at)
        const step = came[at]!
        if (step === BEGINS) break
        at += step - ridges.width
      }
      return cells.reverse()
    },
  }
}
const BEGINS = 9

/** Each cell's best score, and by how many columns the path to it came. @returns The cell where the best path ends; -1 where there is none. */
function fillScores({ width, height, data }: Plane, scores: Float32Array, came: Int8Array): number {
  let max = 0
  let end = -1
  for (let row = 0; row < height; row++) {
    for (let at = row * width + EDGE; at < (row + 1) * width - EDGE; at++) {
      const ridge = data[at]!
      let before = 0
      let step = BEGINS
      if (row > 0) {
        const above = scores[at - width]!
        const left = scores[at - width - 1]! - STEP_COST
        const right = scores[at - width + 1]! - STEP_COST
        if (above > before) {
          before = above
          step = 0
        }
        if (left > before) {
          before = left
          step = -1
        }
        if (right > before) {
          before = right
          step = 1
        }
      }
      const score = before + (ridge < MAX_STOPS ? ridge : MAX_STOPS) + CREST * ridge - MIN_STOPS
      scores[at] = score > 0 ? score : 0
      came[at] = score > 0 ? step : BEGINS
      if (score > max) {
        max = score
        end = at
      }
    }
  }
  return end
}

function clearAround({ data }: Plane, cells: readonly number[]): void {
  for (const at of cells) data.fill(0, Math.max(0, at - APART_CELLS), at + APART_CELLS + 1)
}

function pathOf({ width, data }: Plane, ridges: Plane, cells: readonly number[], isDark: boolean): RidgePath {
  let sum = 0
  const places = new Float32Array(cells.length)
  for (const [i, at] of cells.entries()) {
    sum += ridges.data[at]!
    places[i] = (at % width) + 0.5 + between(data[at - 1]!, data[at]!, data[at + 1]!)
  }
  return { isDark, first: Math.floor(cells[0]! / width), places, strength: sum / cells.length }
}

/** Rows to either side over which a line is straight, and by how much a path may be off that, cells. */
const STRAIGHT_ROWS = 8
const MAX_OFF_CELLS = 0.35

/** Gaps between stones lead a path to and fro; a wire runs smoothly. */
function smoothStretches(path: RidgePath, ridges: Plane): RidgePath[] {
  const out: RidgePath[] = []
  let from = 0
  for (let k = 0; k <= path.places.length; k++) {
    if (k < path.places.length && offStraight(path.places, k) <= MAX_OFF_CELLS) continue
    if (k - from >= MIN_ROWS) out.push(stretchOf(path, from, k, ridges))
    from = k + 1
  }
  return out
}

/** Deviation of a path from the straight line through its rows around one. */
function offStraight(places: Float32Array, k: number): number {
  const [from, to] = [Math.max(0, k - STRAIGHT_ROWS), Math.min(places.length - 1, k + STRAIGHT_ROWS)]
  const count = to - from + 1
  const middle = (from + to) / 2
  let [sum, along, square, off] = [0, 0, 0, 0]
  for (let i = from; i <= to; i++) {
    sum += places[i]!
    along += (i - middle) * places[i]!
    square += (i - middle) * (i - middle)
  }
  for (let i = from; i <= to; i++) {
    const left = places[i]! - sum / count - ((i - middle) * along) / square
    off += left * left
  }
  return Math.sqrt(off / count)
}

function stretchOf({ isDark, first, places }: RidgePath, from: number, to: number, ridges: Plane): RidgePath {
  let sum = 0
  for (let k = from; k < to; k++) sum += ridges.data[(first + k) * ridges.width + Math.floor(places[k]!)]!
  return { isDark, first: first + from, places: places.slice(from, to), strength: sum / (to - from) }
}

/** Where between cells the parabola through three of them is highest, or lowest. */
function between(before: number, here: number, after: number): number {
  const bend = before - 2 * here + after
  if (Math.abs(bend) < 1e-6) return 0
  return Math.max(-0.5, Math.min(0.5, (before - after) / (2 * bend)))
}
