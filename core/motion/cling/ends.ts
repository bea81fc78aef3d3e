/** Where a line stops: the place along it beyond which it no longer looks like itself. */
import type { FoundLine } from './findLine'
import { ACROSS_PX, ALONG_PX, type Straightened } from './ruler'
import type { Raster } from '../../image/raster'

/**
 * How much each row looks like the line: 1 where its middle has the line's usual colour, 0 and below where
 * it is as far from that as the surroundings are, or further.
 */
export function presence({ raster, middle }: Straightened, { offsets, widths }: FoundLine, isUsed: (row: number) => boolean): Float64Array {
  const colours = Math.min(raster.channels, 3)
  const centres = new Float64Array(raster.height * colours)
  const usual = Array.from({ length: colours }, (): number[] => [])
  const beside = Array.from({ length: colours }, (): number[] => [])
  for (let row = 0; row < raster.height; row++) {
    const centre = middle + offsets[row]! / ACROSS_PX
    const half = widths[row]! / 2 / ACROSS_PX
    const inner = Math.max(1, 0.5 * half)
    for (let c = 0; c < colours; c++) {
      centres[row * colours + c] = mean(raster, row, c, centre - inner, centre + inner)
      if (!isUsed(row)) continue
      usual[c]!.push(centres[row * colours + c]!)
      beside[c]!.push(mean(raster, row, c, centre - half - 9, centre - half - 3), mean(raster, row, c, centre + half + 3, centre + half + 9))
    }
  }
  const level = usual.map(medianOf)
  const around = beside.map(medianOf)
  let gap = 0
  for (let c = 0; c < colours; c++) gap += (around[c]! - level[c]!) * (around[c]! - level[c]!)
  const out = new Float64Array(raster.height)
  for (let row = 0; row < raster.height; row++) {
    let off = 0
    for (let c = 0; c < colours; c++) off += (centres[row * colours + c]! - level[c]!) * (centres[row * colours + c]! - level[c]!)
    out[row] = 1 - Math.sqrt(off / Math.max(gap, 1e-9))
  }
  return out
}

function medianOf(values: number[]): number {
  values.sort((a, b) => a - b)
  return values[values.length >> 1] ?? 0
}

function mean({ width, channels, data }: Raster, row: number, channel: number, from: number, to: number): number {
  const begin = Math.max(0, Math.round(from))
  const end = Math.min(width - 1, Math.round(to))
  let sum = 0
  for (let column = begin; column <= end; column++) sum += data[(row * width + column) * channels + channel]!
  return sum / Math.max(end - begin + 1, 1)
}

export interface FoundEnd {
  /** Length along the path at which the line stops. */
  readonly arcPx: number
  /** 0 to 1: how clear the step is. */
  readonly sure: number
}

/**
 * The end nearest to where it is expected: the step from line to no line that divides the rows best.
 * @param direction  1: the line stops towards greater lengths, −1: towards smaller ones.
 */
export function findEnd(levels: Float64Array, arcs: Float64Array, expectedPx: number, direction: 1 | -1, searchPx: number): FoundEnd | null {
  const MEMORY = Math.ceil(14 / ALONG_PX)
  const level = typicalLevel(levels, arcs, expectedPx, direction)
  if (!(level > 0.05)) return null
  let best: { cost: number; row: number } | null = null
  let without = Infinity
  const clipped = (row: number) => Math.min(Math.max(levels[row]! / level, -0.2), 1.2)
  for (let row = 0; row + 1 < levels.length; row++) {
    const edge = (arcs[row]! + arcs[row + 1]!) / 2
    if (Math.abs(edge - expectedPx) > searchPx) continue
    // Rows before the step should be 1, rows after it 0.
    let cost = 0
    let flat = 0
    for (let k = -MEMORY + 1; k <= MEMORY; k++) {
      const at = row + k
      if (at < 0 || at >= levels.length) continue
      const isLine = direction === 1 ? k <= 0 : k > 0
      const value = clipped(at)
      cost += (value - (isLine ? 1 : 0)) * (value - (isLine ? 1 : 0))
      flat += (value - 1) * (value - 1)
    }
    const away = (edge - expectedPx) / searchPx
    cost += 0.5 * away * away
    if (!best || cost < best.cost) best = { cost, row }
    without = Math.min(without, flat)
  }
  if (!best) return null
  // Between rows: where the level passes one half.
  const [a, b] = [clipped(best.row), clipped(best.row + 1)]
  const f = Math.abs(a - b) > 1e-6 ? Math.min(Math.max((a - 0.5) / (a - b), 0), 1) : 0.5
  const arcPx = arcs[best.row]! + f * (arcs[best.row + 1]! - arcs[best.row]!)
  const sure = Math.min(1, Math.max(0, 1 - best.cost / (0.35 * 2 * MEMORY)))
  return { arcPx, sure }
}

/** The line's usual level: the median of the rows on its side of the end. */
function typicalLevel(levels: Float64Array, arcs: Float64Array, expectedPx: number, direction: 1 | -1): number {
  const values: number[] = []
  for (let row = 0; row < levels.length; row++) {
    const inside = (expectedPx - arcs[row]!) * direction
    if (inside > 10 && inside < 90) values.push(levels[row]!)
  }
  values.sort((a, b) => a - b)
  return values[values.length >> 1] ?? 0
}
