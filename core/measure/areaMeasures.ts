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

/** A band along an area's edge, and the least share of it that has to be the area's own. */
interface Band {
  readonly fromPx: number
  readonly toPx: number
  readonly share: number
}

/** Means of each band for each sector; NaN where the band is hardly there, or less of it than its share is the area's own. */
function bandMeans({ field, picture, sectors, taboo }: MeasuredArea, bands: readonly Band[]): Float64Array[] {
  const [sums, counts, all] = [0, 1, 2].map(() => new Float64Array(bands.length * SECTORS)) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ]
  const { count, edges, pixels } = field
  const step = 1 + 2 * Math.floor(count / (2 * ENOUGH)) // odd: it falls in step with nothing
  const { channels, data } = picture
  const isColour = channels >= 3
  bands.forEach(({ fromPx, toPx }, band) => {
    for (let i = 0; i < count; i += step) {
      const edge = edges[i]!
      if (edge <= fromPx || edge > toPx) continue
      const at = band * SECTORS + sectors[i]!
      all[at] = all[at]! + 1
      const pixel = pixels[i]!
      if (taboo !== null && taboo[pixel] !== 0) continue
      const from = pixel * channels
      sums[at] = sums[at]! + (isColour ? (data[from]! + data[from + 1]! + data[from + 2]!) / 3 : data[from]!)
      counts[at] = counts[at]! + 1
    }
  })
  const means = sums.map((sum, at) => {
    const isKnown =
      counts[at]! >= MIN_IN_BAND && counts[at]! >= bands[Math.floor(at / SECTORS)]!.share * all[at]!
    return isKnown ? sum / counts[at]! : NaN
  })
  return bands.map((_, band) => means.subarray(band * SECTORS, (band + 1) * SECTORS))
}

/**
 * The step across the rim against steps just outside it, as far apart: where it is largest against the largest beside.
 * 1 is usual; a rim that shows is well above.
 */
export function measureRimStep(area: MeasuredArea): number | null {
  const { innerPx, outerPx } = area
  const apart = outerPx - innerPx + BAND_PX
  const bandFrom = (fromPx: number): Band => ({ fromPx, toPx: fromPx + BAND_PX, share: 0 })
  const bands = [bandFrom(innerPx - BAND_PX), bandFrom(outerPx), bandFrom(outerPx + apart)]
  const [inside, outside, further] = bandMeans(area, bands) as [Float64Array, Float64Array, Float64Array]
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

/** What passes in front changes a cell without any flicker: then it is left out. */
const OWN_SHARE = 0.97
/** How wide the surroundings are that a cell is compared with. */
const CELL_PX = 8

/** Mean brightness of each sector, inside and just outside. */
export function measureCells(area: MeasuredArea): MendMeasure['cells'] {
  const plain = (means: Float64Array) =>
    Array.from(means, (mean) => (Number.isNaN(mean) ? null : Math.round(mean * 1e5) / 1e5))
  const [inside, around] = bandMeans(area, [
    { fromPx: -Infinity, toPx: area.innerPx, share: OWN_SHARE },
    { fromPx: area.outerPx, toPx: area.outerPx + CELL_PX, share: OWN_SHARE },
  ]).map(plain) as [(number | null)[], (number | null)[]]
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
