/** Where a line stops: the place along it beyond which it no longer looks like itself. */
import { medianOf } from '../../image/median'
import { ACROSS_PX, type Straightened } from './ruler'
import type { Raster } from '../../image/raster'

/** The line's usual colour, and how far its surroundings are from it. */
export interface LineColour {
  readonly level: readonly number[]
  readonly gap: number
}

export function lineColour(
  { raster, middle }: Straightened,
  { offsets, widths }: { readonly offsets: Float64Array; readonly widths: Float64Array },
  isUsed: (row: number) => boolean,
): LineColour {
  const colours = Math.min(raster.channels, 3)
  const usual = Array.from({ length: colours }, (): number[] => [])
  const beside = Array.from({ length: colours }, (): number[] => [])
  for (let row = 0; row < raster.height; row++) {
    if (!isUsed(row)) continue
    const centre = middle + offsets[row]! / ACROSS_PX
    const half = widths[row]! / 2 / ACROSS_PX
    const inner = Math.max(1, 0.5 * half)
    for (let c = 0; c < colours; c++) {
      usual[c]!.push(mean(raster, row, c, centre - inner, centre + inner))
      beside[c]!.push(
        mean(raster, row, c, centre - half - 9, centre - half - 3),
        mean(raster, row, c, centre + half + 3, centre + half + 9),
      )
    }
  }
  const level = usual.map(medianOf)
  return { level, gap: distance(level, beside.map(medianOf)) }
}

const distance = (a: readonly number[], b: readonly number[]): number =>
  Math.sqrt(a.reduce((sum, value, c) => sum + (value - b[c]!) * (value - b[c]!), 0))

/**
 * How much each row of a path that lies on the line looks like it: 1 where its middle has the line's usual colour,
 * 0 and below where it is as far from that as the surroundings are, or further.
 */
export function presence(
  { raster, middle }: Straightened,
  { level, gap }: LineColour,
  widthPx: number,
): Float64Array {
  const inner = Math.max(1, (0.25 * widthPx) / ACROSS_PX)
  return Float64Array.from({ length: raster.height }, (_, row) => {
    const here = level.map((_level, c) => mean(raster, row, c, middle - inner, middle + inner))
    return 1 - distance(here, level) / Math.max(gap, 1e-9)
  })
}

function mean(
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
  /** 0 to 1: how clear the step is. */
  readonly sure: number
}

const MEMORY_PX = 14

/**
 * The end nearest to where it is expected: the step from line to no line that divides the rows best.
 * @param direction  1: the line stops towards greater lengths, −1: towards smaller ones.
 */
export function findEnd(
  levels: Float64Array,
  arcs: Float64Array,
  expectedPx: number,
  direction: 1 | -1,
  searchPx: number,
): FoundEnd | null {
  const memory = Math.round(MEMORY_PX / (arcs[1]! - arcs[0]!))
  const clipped = (row: number) => Math.min(Math.max(levels[row]!, -0.2), 1.1)
  let best: { cost: number; row: number } | null = null
  for (let row = memory - 1; row + memory < levels.length; row++) {
    const edge = (arcs[row]! + arcs[row + 1]!) / 2
    if (Math.abs(edge - expectedPx) > searchPx) continue
    // Rows before the step should be 1, rows after it 0.
    let cost = 0
    for (let k = -memory + 1; k <= memory; k++) {
      const off = clipped(row + k) - ((direction === 1 ? k <= 0 : k > 0) ? 1 : 0)
      cost += (off * off) / memory
    }
    const away = (edge - expectedPx) / searchPx
    cost += 0.1 * away * away
    if (!best || cost < best.cost) best = { cost, row }
  }
  if (!best) return null
  const arcPx = (arcs[best.row]! + arcs[best.row + 1]!) / 2
  return { arcPx, sure: Math.min(1, Math.max(0, 1 - best.cost / 0.7)) }
}
