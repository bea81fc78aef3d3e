/**
 * The rim of a spot is fine structure too, and must not stay with the pores. It runs round the area, which pores do not: what is the same
 * along a contour, a line of one distance from the area's edge, belongs to the spot.
 */
import { atan2, exp } from '../../kernels/exact'
import type { FillInput } from '../method'

const SECTORS = 24
/** Contours as far apart are told apart, px. */
const STEP_PX = 1
/** Places that a mean along a contour is taken over, at least: fewer, and pores would go with the rim. */
const TAKEN = 24

/**
 * Takes means along contours out of values, in place. A mean reaches over a part of the contour, so that a spot that does not sit in the
 * middle of its area goes as well.
 *
 * @param values  Channels interleaved, for each entry of the field. @param isUsed  1 for entries that have a value.
 */
export function takeContoursOut(values: Float32Array, isUsed: Uint8Array, input: FillInput): void {
  const { field, picture } = input
  const { channels } = picture
  const places = contourPlaces(input, isUsed)
  if (!places) return
  const { across, around, rows, perSector } = places
  const stride = channels + 1
  const table = new Float64Array(rows * SECTORS * stride)
  const [cells, shares] = [new Int32Array(CORNERS), new Float64Array(CORNERS)]
  for (let i = 0; i < field.count; i++) {
    if (isUsed[i] === 0) continue
    cornersInto(cells, shares, across[i]!, around[i]!, rows)
    for (let k = 0; k < CORNERS; k++) {
      const at = cells[k]! * stride
      for (let c = 0; c < channels; c++) table[at + c]! += shares[k]! * values[i * channels + c]!
      table[at + channels]! += shares[k]!
    }
  }
  const means = blurredAround(table, rows, stride, perSector)
  for (let i = 0; i < field.count; i++) {
    if (isUsed[i] === 0) continue
    cornersInto(cells, shares, across[i]!, around[i]!, rows)
    for (let k = 0; k < CORNERS; k++) {
      const at = cells[k]! * stride
      const count = means[at + channels]!
      if (count <= 0) continue
      for (let c = 0; c < channels; c++) values[i * channels + c]! -= (shares[k]! * means[at + c]!) / count
    }
  }
}

/** Where each entry lies in the table: across contours, and around, in sectors. */
function contourPlaces({ field, picture }: FillInput, isUsed: Uint8Array) {
  let [nearest, farthest, sumX, sumY, inside] = [Infinity, -Infinity, 0, 0, 0]
  for (let i = 0; i < field.count; i++) {
    if (isUsed[i] === 0) continue
    nearest = Math.min(nearest, field.edges[i]!)
    farthest = Math.max(farthest, field.edges[i]!)
    if (field.edges[i]! > 0) continue
    sumX += field.pixels[i]! % picture.width
    sumY += (field.pixels[i]! / picture.width) | 0
    inside++
  }
  if (inside === 0) return null
  const [x, y] = [sumX / inside, sumY / inside]
  const [across, around] = [new Float32Array(field.count), new Float32Array(field.count)]
  for (let i = 0; i < field.count; i++) {
    across[i] = (field.edges[i]! - nearest) / STEP_PX
    const row = (field.pixels[i]! / picture.width) | 0
    const turn = atan2(row - y, field.pixels[i]! - row * picture.width - x) / (2 * Math.PI) + 0.5
    around[i] = turn * SECTORS
  }
  const rows = Math.floor((farthest - nearest) / STEP_PX) + 2
  // Of a contour halfway in, as a circle of the same size would have.
  const perSector = (Math.PI * Math.sqrt(inside / Math.PI)) / SECTORS
  return { across, around, rows, perSector }
}

const CORNERS = 4

/** The four cells around a place, and how much each has of it. */
function cornersInto(
  cells: Int32Array,
  shares: Float64Array,
  across: number,
  around: number,
  rows: number,
): void {
  const row = Math.min(Math.floor(across), rows - 2)
  const sector = Math.floor(around)
  const [down, on] = [across - row, around - sector]
  const [left, right] = [sector % SECTORS, (sector + 1) % SECTORS]
  cells[0] = row * SECTORS + left
  cells[1] = row * SECTORS + right
  cells[2] = cells[0] + SECTORS
  cells[3] = cells[1] + SECTORS
  shares[0] = (1 - down) * (1 - on)
  shares[1] = (1 - down) * on
  shares[2] = down * (1 - on)
  shares[3] = down * on
}

/** Sums over enough of the contour to each side, nearer sectors counting more. */
function blurredAround(table: Float64Array, rows: number, stride: number, perSector: number): Float64Array {
  // A Gaussian of deviation s takes in 2 √π s places as many as count fully.
  const deviation = TAKEN / perSector / (2 * Math.sqrt(Math.PI))
  const weights = Float64Array.from({ length: SECTORS }, (_, k) => {
    const off = Math.min(k, SECTORS - k) / deviation
    return exp(-0.5 * off * off)
  })
  const out = new Float64Array(table.length)
  for (let row = 0; row < rows; row++)
    for (let sector = 0; sector < SECTORS; sector++)
      for (let k = 0; k < SECTORS; k++) {
        const from = (row * SECTORS + ((sector + k) % SECTORS)) * stride
        const to = (row * SECTORS + sector) * stride
        for (let c = 0; c < stride; c++) out[to + c]! += weights[k]! * table[from + c]!
      }
  return out
}
