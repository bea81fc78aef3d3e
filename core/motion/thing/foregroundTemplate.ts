/** What was foreground under an outline where it was drawn: what is looked for on the other frames. */
import type { Plane } from '../../image/raster'
import type { Rect } from '../../image/rect'
import type { OutlineRuns } from './outlineRuns'

/** A cell that was less foreground than this says that there should be background. */
const BACKGROUND_BELOW = 0.35
/**
 * So much of an outline must be foreground. Of the practice set, things fixed before their background come to .006 (`fill_01`, `fill_02`), things that
 * pass before it to .07 and more (`object_01`, where the border leaves a sliver; else .19); of the demo film .02 and .14.
 */
const MIN_FOREGROUND = 0.05

/** Goes along with a place of the outline, told in cells. */
export class ForegroundTemplate {
  readonly #rect: Rect
  /** Where in its cell the place that goes along lies, 0 to 1. */
  readonly fractionX: number
  readonly fractionY: number
  /** Above 0 where it was foreground, below where it was background, 0 beyond the outline. */
  readonly #weights: Float32Array
  /** The score where all is as it was. */
  readonly #fullScore: number
  /** The share of the outline that was foreground. */
  readonly #foregroundShare: number

  /** @param part  The cells of `foreground`. @param anchor  The place that goes along, cells. */
  constructor(foreground: Plane, part: Rect, runs: OutlineRuns, anchor: readonly [number, number]) {
    const [col, row] = [Math.floor(anchor[0]), Math.floor(anchor[1])]
    this.fractionX = anchor[0] - col
    this.fractionY = anchor[1] - row
    this.#rect = { ...part, col: part.col - col, row: part.row - row }
    this.#weights = new Float32Array(part.width * part.height)
    let [fullScore, covered, cells] = [0, 0, 0]
    for (let i = 0; i < runs.length; i += 3) {
      const line = runs[i]! - part.row
      if (line < 0 || line >= part.height) continue
      const end = Math.min(part.width, runs[i + 2]! - part.col)
      for (
        let at = line * part.width + Math.max(0, runs[i + 1]! - part.col);
        at < line * part.width + end;
        at++
      ) {
        const value = foreground.data[at]!
        const weight = value - BACKGROUND_BELOW
        this.#weights[at] = weight
        fullScore += weight * value
        covered += value
        cells++
      }
    }
    this.#fullScore = fullScore
    this.#foregroundShare = cells > 0 ? covered / cells : 0
  }

  /** Whether enough was foreground: what is like the background, or hides the same of it on all frames, cannot be found again. */
  get isDistinct(): boolean {
    return this.#fullScore > 0 && this.#foregroundShare >= MIN_FOREGROUND
  }

  /** How well it fits where its cell lies at (col, row): about 1 where all is as it was. */
  scoreAt(foreground: Plane, part: Rect, col: number, row: number): number {
    const [left, top] = [this.#rect.col + col - part.col, this.#rect.row + row - part.row]
    const { width, height } = this.#rect
    const [first, end] = [Math.max(0, -left), Math.min(width, part.width - left)]
    let sum = 0
    for (let line = Math.max(0, -top); line < Math.min(height, part.height - top); line++) {
      let there = (line + top) * part.width + left + first
      for (let at = line * width + first; at < line * width + end; at++, there++)
        sum += this.#weights[at]! * foreground.data[there]!
    }
    return this.#fullScore > 0 ? sum / this.#fullScore : 0
  }
}
