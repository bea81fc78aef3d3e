/**
 * What shows on the finished picture of an area: the rim, the grain, the cells that flicker is told from.
 * All of them take the pixels near the area with their distance from its edge, and the mended picture.
 */
import type { Raster } from '../image/raster'
import type { EdgeField } from '../matte/edge'
import type { MendMeasure } from './mendMeasure'

export interface MeasuredArea {
  readonly picture: Raster
  readonly field: EdgeField
  readonly coverage: Float32Array
  /** From the drawn edge to where coverage begins to fall, and to where it ends, px. */
  readonly innerPx: number
  readonly outerPx: number
  /** Which of `SECTORS` parts of the area each entry belongs to: by angle, or along a path. */
  sectorOf(entry: number): number
  /** Pixels of the picture that are not 0 belong to others and are left out; null where none does. */
  readonly taboo: Uint8Array | null
}

export const SECTORS = 16
const BAND_PX = 3
const MIN_IN_BAND = 12
/** Of more entries every n-th is looked at: means become no better by more. */
const ENOUGH = 12_000
/** A difference that nobody sees, in the plate's scale: about two and a half 8-bit steps. */
const UNSEEN = 0.01

/** Means of bands along an area's edge, each for every sector; NaN where the band is hardly there. */
export interface BandMeans {
  /** Just inside of where coverage begins to fall, just outside of where it ends, and as far apart again. */
  readonly rim: readonly [inside: Float64Array, outside: Float64Array, further: Float64Array]
  /** All inside, and the surroundings; NaN too where less than nearly all of it is the area's own. */
  readonly cells: readonly [inside: Float64Array, around: Float64Array]
}

/** What passes in front changes a cell without any flicker: then it is left out. */
const OWN_SHARE = 0.97
/** How wide the surroundings are that a cell is compared with. */
const CELL_PX = 8

/** One pass over the pixels near the area. */
export function bandsOf({ field, picture, sectorOf, taboo, innerPx, outerPx }: MeasuredArea): BandMeans {
  const beyondPx = outerPx + (outerPx - innerPx + BAND_PX)
  const from = Float64Array.of(innerPx - BAND_PX, outerPx, beyondPx, -Infinity, outerPx)
  const to = Float64Array.of(innerPx, outerPx + BAND_PX, beyondPx + BAND_PX, innerPx, outerPx + CELL_PX)
  const list = () => new Float64Array(from.length * SECTORS)
  const [sums, counts, all] = [list(), list(), list()]
  const { count, edges, pixels } = field
  const { channels, data } = picture
  const isColour = channels >= 3
  const farthest = Math.max(beyondPx + BAND_PX, outerPx + CELL_PX)
  const step = 1 + 2 * Math.floor(count / (2 * ENOUGH)) // odd: it falls in step with nothing
  for (let i = 0; i < count; i += step) {
    const edge = edges[i]!
    if (edge > farthest) continue
    const pixel = pixels[i]!
    const isOwn = taboo === null || taboo[pixel] === 0
    const at = pixel * channels
    const value = isColour ? (data[at]! + data[at + 1]! + data[at + 2]!) / 3 : data[at]!
    for (let band = 0, cell = sectorOf(i); band < 5; band++, cell += SECTORS) {
      if (edge <= from[band]! || edge > to[band]!) continue
      all[cell] = all[cell]! + 1
      if (!isOwn) continue
      sums[cell] = sums[cell]! + value
      counts[cell] = counts[cell]! + 1
    }
  }
  const meansOf = (band: number, share: number) =>
    Float64Array.from({ length: SECTORS }, (_, sector) => {
      const cell = band * SECTORS + sector
      const isKnown = counts[cell]! >= MIN_IN_BAND && counts[cell]! >= share * all[cell]!
      return isKnown ? sums[cell]! / counts[cell]! : NaN
    })
  return {
    rim: [meansOf(0, 0), meansOf(1, 0), meansOf(2, 0)],
    cells: [meansOf(3, OWN_SHARE), meansOf(4, OWN_SHARE)],
  }
}

/**
 * The step across the rim against steps just outside it, as far apart: where it is largest against the largest beside.
 * 1 is usual; a rim that shows is well above.
 */
export function measureRimStep({ rim: [inside, outside, further] }: BandMeans): number | null {
  let [step, usual, seen] = [0, UNSEEN, 0]
  for (let sector = 0; sector < SECTORS; sector++) {
    const across = Math.abs(inside[sector]! - outside[sector]!)
    if (across >= 0) {
      seen++
      step = Math.max(step, across)
    }
    const beside = Math.abs(outside[sector]! - further[sector]!)
    if (beside >= 0) usual = Math.max(usual, beside)
  }
  return seen === 0 ? null : step / usual
}

const MIN_PLACES = 48
const MAX_PLACES = 6000

/** Fine detail inside against fine detail around: the lower quartile of second differences of both. */
export function measureGrainRatio({
  picture,
  field,
  coverage,
  innerPx,
  outerPx,
  taboo,
}: MeasuredArea): number | null {
  const { width, height, channels, data } = picture
  const inside: number[] = []
  const around: number[] = []
  const down = width * channels
  const stride = Math.max(1, Math.floor(field.count / MAX_PLACES))
  for (let i = 0; i < field.count; i += stride) {
    const edge = field.edges[i]!
    const isInside = edge < innerPx - 1 && coverage[i]! > 0.98
    const pixel = field.pixels[i]!
    if (!isInside && !(edge > outerPx + 1.5 && !(taboo && taboo[pixel] !== 0))) continue
    const col = pixel % width
    const row = (pixel / width) | 0
    if (col < 1 || row < 1 || col > width - 2 || row > height - 2) continue
    const at = pixel * channels + (channels >= 3 ? 1 : 0) // green: most of brightness
    const above = data[at - down - channels]! - 2 * data[at - down]! + data[at - down + channels]!
    const here = data[at - channels]! - 2 * data[at]! + data[at + channels]!
    const below = data[at + down - channels]! - 2 * data[at + down]! + data[at + down + channels]!
    ;(isInside ? inside : around).push(Math.abs(above - 2 * here + below))
  }
  if (inside.length < MIN_PLACES || around.length < MIN_PLACES) return null
  const quartile = (sizes: number[]) => Float32Array.from(sizes).sort()[Math.floor(sizes.length / 4)]!
  const there = quartile(around)
  return there > 1e-4 ? quartile(inside) / there : null
}

/** Mean brightness of each sector, inside and just outside. */
export function measureCells({ cells }: BandMeans): MendMeasure['cells'] {
  const [inside, around] = cells.map((means) =>
    Array.from(means, (mean) => (Number.isNaN(mean) ? null : Math.round(mean * 1e5) / 1e5)),
  ) as [(number | null)[], (number | null)[]]
  return inside.some((mean) => mean !== null) ? { inside, around } : null
}

export interface Flicker {
  /** Change inside against change around, from one frame to the next: 1 is usual. */
  readonly ratio: number
  /** Change inside, in the plate's scale. */
  readonly inside: number
}

/** How much more an area changes from one frame to the next than what is around it. */
export function flickerBetween(
  a: NonNullable<MendMeasure['cells']>,
  b: NonNullable<MendMeasure['cells']>,
): Flicker | null {
  const change = (one: readonly (number | null)[], other: readonly (number | null)[]) => {
    let [sum, count] = [0, 0]
    one.forEach((value, i) => {
      const next = other[i] ?? null
      if (value === null || next === null) return
      sum += (next - value) * (next - value)
      count++
    })
    return count === 0 ? null : Math.sqrt(sum / count)
  }
  const [inside, around] = [change(a.inside, b.inside), change(a.around, b.around)]
  return inside === null || around === null ? null : { ratio: inside / Math.max(around, UNSEEN / 4), inside }
}
