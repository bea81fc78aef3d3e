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
  readonly sectors: Uint8Array
  /** Entries that belong to others are left out. */
  isOther(entry: number): boolean
}

export const SECTORS = 16
const BAND_PX = 3
const MIN_IN_BAND = 12
/** A difference that nobody sees, in the plate's scale: about two and a half 8-bit steps. */
const UNSEEN = 0.01

const brightnessAt = ({ channels, data }: Raster, pixel: number): number =>
  channels >= 3
    ? (data[pixel * channels]! + data[pixel * channels + 1]! + data[pixel * channels + 2]!) / 3
    : data[pixel * channels]!

/** Means of one band for each sector; NaN where the band is hardly there, or less of it than `share` is the area's own. */
function bandMeans(area: MeasuredArea, fromPx: number, toPx: number, share = 0): Float64Array {
  const sums = new Float64Array(SECTORS)
  const counts = new Int32Array(SECTORS)
  const all = new Int32Array(SECTORS)
  const { field, picture } = area
  for (let i = 0; i < field.count; i++) {
    const edge = field.edges[i]!
    if (edge <= fromPx || edge > toPx) continue
    const sector = area.sectors[i]!
    all[sector]!++
    if (area.isOther(i)) continue
    sums[sector]! += brightnessAt(picture, field.pixels[i]!)
    counts[sector]!++
  }
  return sums.map((sum, sector) =>
    counts[sector]! >= MIN_IN_BAND && counts[sector]! >= share * all[sector]! ? sum / counts[sector]! : NaN,
  )
}

/**
 * The step across the rim against steps just outside it, as far apart: where it is largest against the largest beside.
 * 1 is usual; a rim that shows is well above.
 */
export function measureRimStep(area: MeasuredArea): number | null {
  const { innerPx, outerPx } = area
  const apart = outerPx - innerPx + BAND_PX
  const inside = bandMeans(area, innerPx - BAND_PX, innerPx)
  const outside = bandMeans(area, outerPx, outerPx + BAND_PX)
  const further = bandMeans(area, outerPx + apart, outerPx + apart + BAND_PX)
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
  isOther,
}: MeasuredArea): number | null {
  const { width, height, channels, data } = picture
  const inside: number[] = []
  const around: number[] = []
  const down = width * channels
  const stride = Math.max(1, Math.floor(field.count / MAX_PLACES))
  for (let i = 0; i < field.count; i += stride) {
    const edge = field.edges[i]!
    const isInside = edge < innerPx - 1 && coverage[i]! > 0.98
    if (!isInside && !(edge > outerPx + 1.5 && !isOther(i))) continue
    const pixel = field.pixels[i]!
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

/** What passes in front changes a cell without any flicker: then it is left out. */
const OWN_SHARE = 0.97

/** Mean brightness of each sector, inside and just outside. */
export function measureCells(area: MeasuredArea): MendMeasure['cells'] {
  const plain = (means: Float64Array) =>
    Array.from(means, (mean) => (Number.isNaN(mean) ? null : Math.round(mean * 1e5) / 1e5))
  const inside = plain(bandMeans(area, -Infinity, area.innerPx, OWN_SHARE))
  const around = plain(bandMeans(area, area.outerPx, area.outerPx + 8, OWN_SHARE))
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
