/**
 * Where a line stops: the place along it up to which its middle looks like the line before what lies beside, and beyond which like what lies
 * beside alone.
 *
 * Each row tells by a likelihood ratio how well either explains its middle. A line lets some of its ground through where it is thin or
 * blurred: its middle is a share of what lies beside plus a colour, fitted on the line itself. Where line and ground look alike a row tells nothing.
 * Source: the generalised likelihood ratio, J. Neyman and E. S. Pearson, 1933; the sum of the rows up to the end is E. S. Page's
 * "Continuous inspection schemes", Biometrika 41, 1954.
 */
import { medianOf } from '../../image/median'
import type { Raster } from '../../image/raster'
import { log } from '../../kernels/exact'
import { ACROSS_PX, type Straightened } from './ruler'

/** What lies beside begins so far outside the line's edge, and is so wide, px. */
const [BESIDE_FROM_PX, BESIDE_WIDE_PX] = [1.5, 5] as const
/** Share of the half width that is the middle, px at least. */
const [MIDDLE_SHARE, LEAST_MIDDLE_PX] = [0.5, 0.5] as const
/** The ground without a line is looked at so far aside, px beyond the line's width. */
const ASIDE_PX = 8
const MIN_DEVIATION = 3 / 255
/** Of a line whose ground is all alike, how much comes through is not told: then so much; and how strongly, in rows. */
const [USUAL_SHARE, USUAL_ROWS] = [0.3, 4] as const
/** Rows beside each other share their grain and their blur: each counts for so much, and no row for more than so many nats. */
const [ROW_SHARE, MOST_TOLD] = [0.3, 1] as const

/** Columns to either side that are looked at to tell a row, and to learn what the ground aside looks like, px. */
export const besideReachPx = (widthPx: number): number => widthPx / 2 + BESIDE_FROM_PX + BESIDE_WIDE_PX + 1
export const asideReachPx = (widthPx: number): number => widthPx + ASIDE_PX + besideReachPx(widthPx)

/** Mean colours of rows' middles, and of what lies to both sides of them: channels interleaved, one row after the other. */
interface Rows {
  readonly count: number
  readonly colours: number
  readonly middles: Float64Array
  readonly besides: Float64Array
}

/** Explains the middle of rows, with the line and without. */
export class LineLook {
  readonly #widthPx: number
  /** The middle is a share of what lies beside, and something added to each channel. */
  readonly #fit: Fit
  /** Variances of the middle around that, and of ground around what lies beside it. */
  readonly #onLine: number
  readonly #onGround: number

  /** @param along  Straightened along the line: it runs down the middle. */
  constructor(along: Straightened, widthPx: number, isUsed: (row: number) => boolean) {
    this.#widthPx = widthPx
    const all = rowsAt(along, widthPx, 0)
    const used = Uint8Array.from({ length: all.count }, (_, row) => (isUsed(row) ? 1 : 0))
    const kept = withoutOthers(all, used)
    this.#fit = fitted(all, kept)
    this.#onLine = meanWhere(kept, (row) => offLine(all, row, this.#fit))
    const aside = widthPx + ASIDE_PX
    const grounds = [-aside, aside].map((offPx) => rowsAt(along, widthPx, offPx))
    this.#onGround = grounds.reduce(
      (sum, rows) => sum + meanWhere(used, (row) => offGround(rows, row)) / 2,
      0,
    )
  }

  /** How much more likely each row is with the line than without, nats. */
  toldBy(strip: Straightened): Float64Array {
    const rows = rowsAt(strip, this.#widthPx, 0)
    const [onLine, onGround] = [Math.max(LEAST, this.#onLine), Math.max(LEAST, this.#onGround)]
    const spread = 0.5 * log(onGround / onLine)
    const told = new Float64Array(rows.count)
    for (let row = 0; row < rows.count; row++) {
      if (strip.isSeen[row] === 0) continue // beyond the picture nothing tells
      const more =
        offGround(rows, row) / (2 * onGround) - offLine(rows, row, this.#fit) / (2 * onLine) + spread
      told[row] = Math.min(MOST_TOLD, Math.max(-MOST_TOLD, rows.colours * ROW_SHARE * more))
    }
    return told
  }
}

interface Fit {
  readonly share: number
  readonly added: Float64Array
}

const LEAST = MIN_DEVIATION * MIN_DEVIATION

/** Mean square over the channels of what the middle of a row is off the line, and off the ground. */
function offLine({ colours, middles, besides }: Rows, row: number, { share, added }: Fit): number {
  let sum = 0
  for (let c = 0; c < colours; c++) {
    const off = middles[row * colours + c]! - share * besides[row * colours + c]! - added[c]!
    sum += off * off
  }
  return sum / colours
}

function offGround({ colours, middles, besides }: Rows, row: number): number {
  let sum = 0
  for (let at = row * colours; at < (row + 1) * colours; at++) {
    const off = middles[at]! - besides[at]!
    sum += off * off
  }
  return sum / colours
}

function meanWhere(kept: Uint8Array, of: (row: number) => number): number {
  let [sum, count] = [0, 0]
  for (let row = 0; row < kept.length; row++) {
    if (kept[row] === 0) continue
    sum += of(row)
    count++
  }
  return count > 0 ? sum / count : 0
}

/** @param offPx  How far aside of the strip's middle a line of this width is taken to be. */
function rowsAt({ raster, middle }: Straightened, widthPx: number, offPx: number): Rows {
  const colours = Math.min(raster.channels, 3)
  const count = raster.height
  const at = middle + offPx / ACROSS_PX
  const half = widthPx / 2 / ACROSS_PX
  const inner = Math.max(LEAST_MIDDLE_PX / ACROSS_PX, MIDDLE_SHARE * half)
  const [from, to] = [half + BESIDE_FROM_PX / ACROSS_PX, half + (BESIDE_FROM_PX + BESIDE_WIDE_PX) / ACROSS_PX]
  const [middles, besides] = [new Float64Array(count * colours), new Float64Array(count * colours)]
  for (let row = 0; row < count; row++) {
    for (let c = 0; c < colours; c++) {
      middles[row * colours + c] = meanAcross(raster, row, c, at - inner, at + inner)
      besides[row * colours + c] =
        (meanAcross(raster, row, c, at - to, at - from) + meanAcross(raster, row, c, at + from, at + to)) / 2
    }
  }
  return { count, colours, middles, besides }
}

/** Least squares of middle = share · beside + added over all channels, the share drawn towards the usual one. */
function fitted({ count, colours, middles, besides }: Rows, kept: Uint8Array): Fit {
  const [ofMiddles, ofBesides] = [new Float64Array(colours), new Float64Array(colours)]
  let used = 0
  for (let row = 0; row < count; row++) {
    if (kept[row] === 0) continue
    used++
    for (let c = 0; c < colours; c++) {
      ofMiddles[c]! += middles[row * colours + c]!
      ofBesides[c]! += besides[row * colours + c]!
    }
  }
  const weight = USUAL_ROWS * LEAST * colours
  let [both, own] = [USUAL_SHARE * weight, weight]
  for (let row = 0; row < count; row++) {
    if (kept[row] === 0) continue
    for (let c = 0; c < colours; c++) {
      const off = besides[row * colours + c]! - ofBesides[c]! / used
      both += off * (middles[row * colours + c]! - ofMiddles[c]! / used)
      own += off * off
    }
  }
  const share = Math.min(1, Math.max(0, both / own))
  const added = ofMiddles.map((sum, c) => (used > 0 ? (sum - share * ofBesides[c]!) / used : 0))
  return { share, added }
}

const [ROUNDS, FAR_VARIANCES] = [3, 9] as const

/** Rows that the others do not explain are no line, or something lies before it. */
function withoutOthers(rows: Rows, used: Uint8Array): Uint8Array {
  let kept = used
  for (let round = 0; round < ROUNDS; round++) {
    const fit = fitted(rows, kept)
    const offs = Float64Array.from({ length: rows.count }, (_, row) => offLine(rows, row, fit))
    const usual = Math.max(LEAST, medianOf([...offs.filter((_, row) => used[row] === 1)]))
    kept = used.map((one, row) => (one === 1 && offs[row]! <= FAR_VARIANCES * usual ? 1 : 0))
  }
  return kept
}

function meanAcross(
  { width, channels, data }: Raster,
  row: number,
  channel: number,
  from: number,
  to: number,
): number {
  const begin = Math.max(0, Math.round(from))
  const end = Math.min(width - 1, Math.round(to))
  let sum = 0
  for (let column = begin; column <= end; column++) sum += data[(row * width + column) * channels + channel]!
  return sum / Math.max(end - begin + 1, 1)
}

export interface FoundEnd {
  /** Length along the path at which the line stops. */
  readonly arcPx: number
  /** 0 to 1: how clear it is. */
  readonly sure: number
}

/**
 * What it costs, in nats, that the line stops between each row and the next: what rows beyond it tell for the line, and rows before it against
 * it. The least is 0.
 * @param direction  1: the line stops towards greater lengths, −1: towards smaller ones.
 */
export function stopCosts(told: Float64Array, direction: 1 | -1): Float64Array {
  const costs = new Float64Array(told.length)
  let sum = 0
  for (let row = 0; row < told.length; row++) {
    sum += told[row]!
    costs[row] = -direction * sum
  }
  const least = costs.reduce((a, b) => Math.min(a, b), Infinity)
  return costs.map((cost) => cost - least)
}

/** Deviation of the end from where it is expected, px. */
const AWAY_PX = 6
/** Rows within so many px of the end tell whether there is one. */
const CLEAR_PX = 10
/** So many nats of them are as clear as can be. */
const CLEAR_NATS = 8

/** The likeliest end near where it is expected. */
export function findEnd(
  told: Float64Array,
  arcs: Float64Array,
  expectedPx: number,
  direction: 1 | -1,
  searchPx: number,
): FoundEnd | null {
  const costs = stopCosts(told, direction)
  let best: { cost: number; row: number } | null = null
  for (let row = 0; row + 1 < told.length; row++) {
    const away = (arcs[row]! + arcs[row + 1]!) / 2 - expectedPx
    if (Math.abs(away) > searchPx) continue
    const cost = costs[row]! + (away * away) / (2 * AWAY_PX * AWAY_PX)
    if (!best || cost < best.cost) best = { cost, row }
  }
  if (!best) return null
  const { row } = best
  const near = Math.round(CLEAR_PX / (arcs[1]! - arcs[0]!))
  let [before, after] = [0, 0]
  for (let k = 1; k <= near; k++) {
    before += told[row + 1 - k] ?? 0
    after += told[row + k] ?? 0
  }
  // Line on one side, ground on the other: the weaker of the two tells.
  const clear = direction === 1 ? Math.min(before, -after) : Math.min(after, -before)
  return { arcPx: (arcs[row]! + arcs[row + 1]!) / 2, sure: Math.min(1, Math.max(0, clear / CLEAR_NATS)) }
}
