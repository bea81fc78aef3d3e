/** Where an outline may lie on a frame: the shifts with which what is strange under it is what was strange under it where it was drawn. */
import { boundsOfPolygon } from '../../geometry/polygon'
import type { Plane } from '../../image/raster'
import type { Rect } from '../../image/rect'

/** A shift of an outline, cells; what it catches as a share of what it caught where it was drawn. */
export interface Catch {
  readonly dx: number
  readonly dy: number
  readonly share: number
}

/** An outline as runs of cells. */
export interface OutlineRuns {
  /** row, first column, column after the last: of each run, cells of the picture. */
  readonly runs: Int32Array
}

/** Candidates of a frame. */
const MOST = 24
/** Shifts no further than this from a better one tell the same, and are looked at closely only where they are good, cells. */
const APART = 2
/** A cell that was strange for less than this says that there should be background. */
const HALF_STRANGE = 0.35

/** Of an outline so much must differ from the background: drawn twice as wide as the thing .14 do, of what hides the same on all frames .02. */
const LEAST_STRANGE = 0.05

/** Cells whose middle lies in a polygon of px, drawn out from its middle by a share of its size. */
export function runsOf(polygon: readonly number[], cellPx: number, drawnOut = 0): OutlineRuns {
  const bounds = boundsOfPolygon(polygon)
  const [x, y] = [(bounds.left + bounds.right) / 2, (bounds.top + bounds.bottom) / 2]
  const outer = polygon.map((value, i) => value + drawnOut * (value - (i % 2 ? y : x)))
  const { top, bottom } = boundsOfPolygon(outer)
  const runs: number[] = []
  for (let row = Math.floor(top / cellPx); row * cellPx < bottom; row++) {
    const crossings = crossingsOf(outer, (row + 0.5) * cellPx)
    for (let i = 0; i + 1 < crossings.length; i += 2) {
      // Cells whose middle lies between two crossings.
      const first = Math.ceil(crossings[i]! / cellPx - 0.5)
      const end = Math.ceil(crossings[i + 1]! / cellPx - 0.5)
      if (end > first) runs.push(row, first, end)
    }
  }
  return { runs: Int32Array.from(runs) }
}

/** Where a polygon crosses a line across the picture, from left to right. */
function crossingsOf(polygon: readonly number[], y: number): number[] {
  const crossings: number[] = []
  for (let i = 0, j = polygon.length - 2; i < polygon.length; j = i, i += 2) {
    const [x1, y1, x2, y2] = [polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!]
    if (y1 > y !== y2 > y) crossings.push(x1 + ((y - y1) * (x2 - x1)) / (y2 - y1))
  }
  return crossings.sort((a, b) => a - b)
}

/** What was strange under an outline where it was drawn, told from a cell that goes along with it. */
export class Likeness {
  readonly #rect: Rect
  /** Where in its cell the place that goes along lies, 0 to 1. */
  readonly partX: number
  readonly partY: number
  /** Above 0 where it was strange, below where it was background, 0 beyond the outline. */
  readonly #weights: Float32Array
  readonly #whole: number
  /** The share of the outline that was strange. */
  readonly #strangeShare: number

  /** @param part  The cells that `strange` is told for. @param anchor  The place that goes along, cells. */
  constructor(strange: Plane, part: Rect, { runs }: OutlineRuns, anchor: readonly [number, number]) {
    const [col, row] = [Math.floor(anchor[0]), Math.floor(anchor[1])]
    this.partX = anchor[0] - col
    this.partY = anchor[1] - row
    this.#rect = { ...part, col: part.col - col, row: part.row - row }
    this.#weights = new Float32Array(part.width * part.height)
    let [whole, strangeCells, cells] = [0, 0, 0]
    for (let i = 0; i < runs.length; i += 3) {
      const line = runs[i]! - part.row
      if (line < 0 || line >= part.height) continue
      const end = Math.min(part.width, runs[i + 2]! - part.col)
      for (
        let at = line * part.width + Math.max(0, runs[i + 1]! - part.col);
        at < line * part.width + end;
        at++
      ) {
        const weight = strange.data[at]! - HALF_STRANGE
        this.#weights[at] = weight
        whole += weight * strange.data[at]!
        strangeCells += strange.data[at]!
        cells++
      }
    }
    this.#whole = whole
    this.#strangeShare = cells > 0 ? strangeCells / cells : 0
  }

  /** Whether enough was strange: what is like the background, or hides the same of it on all frames, cannot be told from it. */
  get isTelling(): boolean {
    return this.#whole > 0 && this.#strangeShare >= LEAST_STRANGE
  }

  /** How much of it is under the outline where its cell lies at (col, row); about 1 where all is as it was. */
  shareAt(strange: Plane, part: Rect, col: number, row: number): number {
    const [left, top] = [this.#rect.col + col - part.col, this.#rect.row + row - part.row]
    const { width, height } = this.#rect
    const [first, end] = [Math.max(0, -left), Math.min(width, part.width - left)]
    let sum = 0
    for (let line = Math.max(0, -top); line < Math.min(height, part.height - top); line++) {
      let there = (line + top) * part.width + left + first
      for (let at = line * width + first; at < line * width + end; at++, there++)
        sum += this.#weights[at]! * strange.data[there]!
    }
    return this.#whole > 0 ? sum / this.#whole : 0
  }
}

/**
 * The best shifts of a frame, the best first, each apart from the others.
 * @param shareOf  What a shift catches. @param reach  How far it is looked for, cells.
 */
export function catchesOf(shareOf: (dx: number, dy: number) => number, reach: number): Catch[] {
  const priced = (dx: number, dy: number): Catch => ({ dx, dy, share: shareOf(dx, dy) })
  const found: Catch[] = []
  for (let dy = -reach; dy <= reach; dy += APART)
    for (let dx = -reach; dx <= reach; dx += APART) found.push(priced(dx, dy))
  found.sort((a, b) => b.share - a.share)
  const chosen: Catch[] = []
  for (const one of found) {
    if (chosen.length === MOST) break
    const isNear = (other: Catch) =>
      Math.abs(other.dx - one.dx) <= APART && Math.abs(other.dy - one.dy) <= APART
    if (!chosen.some(isNear)) chosen.push(one)
  }
  return chosen.map((one) => {
    let best = one
    for (let dy = one.dy - APART + 1; dy < one.dy + APART; dy++) {
      for (let dx = one.dx - APART + 1; dx < one.dx + APART; dx++) {
        const next = priced(dx, dy)
        if (next.share > best.share) best = next
      }
    }
    return best
  })
}

/** Between cells, by the parabola through the neighbours. */
export function between(shareOf: (dx: number, dy: number) => number, { dx, dy, share }: Catch): Catch {
  const here = shareOf(dx, dy)
  const off = (before: number, after: number): number => {
    const bend = before - 2 * here + after
    return bend < 0 ? Math.min(0.5, Math.max(-0.5, (before - after) / (2 * bend))) : 0
  }
  return {
    dx: dx + off(shareOf(dx - 1, dy), shareOf(dx + 1, dy)),
    dy: dy + off(shareOf(dx, dy - 1), shareOf(dx, dy + 1)),
    share,
  }
}
