/**
 * What a line looks like across: the colours from one outer edge to the other, whatever shading lies between. Along the line
 * they stay the same, while what lies beside it changes; each column tells as much as it differs in that from the ground.
 *
 * What a column tells is the Kullback-Leibler divergence of its colours along the line from those of the ground beside.
 * Source: S. Kullback, R. A. Leibler, "On information and sufficiency", 1951; the stretch of columns with the highest sum:
 * J. Bentley, "Programming pearls: algorithm design techniques", CACM 27(9), 1984.
 */
import { log } from '../../kernels/exact'
import { kernels } from '../../kernels/module'
import { withKernelMemory } from '../../kernels/memory'
import { ACROSS_PX, type Straightened } from './ruler'

export interface LineProfile {
  /** Odd; `ACROSS_PX` apart, the middle one on the centreline. */
  readonly columns: number
  readonly channels: number
  /** For each column and channel. */
  readonly levels: Float32Array
  /** 1 / variance, shared out over the channels. */
  readonly scales: Float32Array
  /** How much each column counts: they sum to 1. */
  readonly weights: Float32Array
}

export interface LearnedProfile {
  readonly profile: LineProfile
  /** From one outer edge to the other. */
  readonly widthPx: number
  /** How far right of where the centreline was taken to be its middle lies. */
  readonly shiftPx: number
  /** What all its columns tell, in nats times px. */
  readonly information: number
}

/** Rounding, compression and grain leave at least so much, in the plate's scale. */
const MIN_DEVIATION = 3 / 255
/** The ground that a line is told from lies so far beyond the columns that may be its own, px. */
const [GROUND_FROM_PX, GROUND_TO_PX] = [2, 8]
const CLIPPED_DEVIATIONS = 2.5
/** Fewer tell nothing. */
const MIN_ROWS = 4
/** Of what the better columns tell, what one must tell to belong to the line. */
const BELONGS_SHARE = 0.22
/** In nats; below it is chance. */
const MIN_TOLD = 0.12
/** At an edge line and ground mix: it lies where they do so half and half. */
const EDGE_COVER = 0.5
const EDGE_LOOK_PX = 2.5
const MIN_WIDTH_PX = 1
/** Columns of the soft rim that are matched too. */
const RIM_COLUMNS = 1

/** Colours of columns over the used rows: mean and variance, one after the other for each column and channel. */
interface Colours {
  readonly means: Float64Array
  readonly variances: Float64Array
}

/**
 * Learns a profile where a line was found.
 * @param offsets  Of its centre from the middle column, px, for each row. @param halfPx  Its edges lie no further from there.
 * @returns null where nothing tells it from the ground.
 */
export function learnProfile(
  strip: Straightened,
  offsets: ArrayLike<number>,
  isUsed: (row: number) => boolean,
  halfPx: number,
): LearnedProfile | null {
  const channels = Math.min(strip.raster.channels, 3)
  const half = Math.ceil(halfPx / ACROSS_PX)
  const [from, to] = [half + GROUND_FROM_PX / ACROSS_PX, half + GROUND_TO_PX / ACROSS_PX]
  const all = coloursOf(strip, offsets, isUsed, to, channels)
  if (!all) return null
  const ground = groundOf(all, to, from, channels)
  const told = new Float64Array(2 * half + 1)
  for (let i = 0; i < told.length; i++) told[i] = toldBy(all, (i - half + to) * channels, ground, channels)
  const stretch = bestStretch(told)
  if (!stretch) return null
  const edges = { all, ground, told, half, reach: to, channels }
  const [left, right] = [edgeAt(edges, stretch.first, -1) - half, edgeAt(edges, stretch.last, 1) - half]
  const widthPx = Math.max(MIN_WIDTH_PX, (right - left) * ACROSS_PX)
  const shiftPx = ((left + right) / 2) * ACROSS_PX
  return {
    widthPx,
    shiftPx,
    information: stretch.told * ACROSS_PX,
    profile: profileOf(all, told, half, to, Math.round((left + right) / 2), widthPx, channels),
  }
}

/** Colours of the columns up to `reach` on either side, twice: the second time without what the first found far off. */
function coloursOf(
  { raster, middle }: Straightened,
  offsets: ArrayLike<number>,
  isUsed: (row: number) => boolean,
  reach: number,
  channels: number,
): Colours | null {
  const { width, height, data } = raster
  const size = (2 * reach + 1) * channels
  const centres = Float64Array.from({ length: height }, (_, row) => middle + offsets[row]! / ACROSS_PX)
  const used = Uint8Array.from({ length: height }, (_, row) => (isUsed(row) ? 1 : 0))
  return withKernelMemory(data.byteLength + 9 * height + 10 * 8 * size + 1024, (scope) => {
    const [strip, rows, places] = [scope.pointerTo(data), scope.pointerTo(used), scope.pointerTo(centres)]
    let colours: Colours | null = null
    for (let round = 0; round < 2; round++) {
      const all = scope.reserve(3 * 8 * size)
      const moments = new Float64Array(kernels().memory.buffer, all, 3 * size).fill(0)
      const [means, variances]: [number, number] = colours
        ? [scope.pointerTo(colours.means), scope.pointerTo(colours.variances)]
        : [0, 0]
      // prettier-ignore
      kernels().columnSums(
        strip, width, height, raster.channels, channels, rows, places, reach, means, variances, CLIPPED_DEVIATIONS,
        all, all + 8 * size, all + 16 * size,
      )
      const next = momentsOf(moments, size)
      if (!next) return colours
      colours = next
    }
    return colours
  })
}

/** @returns null where some column was hardly seen. */
function momentsOf(moments: Float64Array, size: number): Colours | null {
  const [means, variances] = [new Float64Array(size), new Float64Array(size)]
  for (let k = 0; k < size; k++) {
    const count = moments[2 * size + k]!
    if (count < MIN_ROWS) return null
    means[k] = moments[k]! / count
    const variance = moments[size + k]! / count - means[k]! * means[k]!
    variances[k] = Math.max(MIN_DEVIATION * MIN_DEVIATION, variance)
  }
  return { means, variances }
}

/** The ground on both sides together, for each channel. */
function groundOf({ means, variances }: Colours, reach: number, from: number, channels: number): Colours {
  const out = { means: new Float64Array(channels), variances: new Float64Array(channels) }
  let count = 0
  for (let column = -reach; column <= reach; column++) {
    if (Math.abs(column) < from) continue
    count++
    for (let c = 0; c < channels; c++) {
      const k = (column + reach) * channels + c
      out.means[c]! += means[k]!
      out.variances[c]! += variances[k]! + means[k]! * means[k]!
    }
  }
  for (let c = 0; c < channels; c++) {
    out.means[c]! /= count
    out.variances[c] = Math.max(
      MIN_DEVIATION * MIN_DEVIATION,
      out.variances[c]! / count - out.means[c]! * out.means[c]!,
    )
  }
  return out
}

/** In nats, the mean over the channels. */
function toldBy({ means, variances }: Colours, at: number, ground: Colours, channels: number): number {
  let sum = 0
  for (let c = 0; c < channels; c++) {
    const [v, g, off] = [variances[at + c]!, ground.variances[c]!, means[at + c]! - ground.means[c]!]
    sum += 0.5 * (log(g / v) + (v + off * off) / g - 1)
  }
  return sum / channels
}

/** The columns that tell most together; each costs a little, so that ground is left out and gaps in the shading are bridged. */
function bestStretch(told: Float64Array): { first: number; last: number; told: number } | null {
  const sorted = Float64Array.from(told).sort()
  const most = sorted[Math.floor(0.95 * (sorted.length - 1))]!
  const cost = Math.max(MIN_TOLD, BELONGS_SHARE * most)
  let best = { first: 0, last: -1, told: 0 }
  let [first, sum] = [0, 0]
  for (let i = 0; i < told.length; i++) {
    if (sum <= 0) [first, sum] = [i, 0]
    sum += told[i]! - cost
    if (sum > best.told) best = { first, last: i, told: sum }
  }
  return best.last < best.first ? null : best
}

interface Edges {
  readonly all: Colours
  readonly ground: Colours
  readonly told: Float64Array
  readonly half: number
  readonly reach: number
  readonly channels: number
}

/** The place between columns, outwards from one that belongs to the line, where line and ground are half and half. */
function edgeAt(edges: Edges, belongs: number, direction: 1 | -1): number {
  const { told } = edges
  const look = Math.round(EDGE_LOOK_PX / ACROSS_PX)
  let own = belongs
  for (let i = 1; i <= look; i++)
    if ((told[belongs - direction * i] ?? 0) > told[own]!) own = belongs - direction * i
  let at = own
  while (
    at + direction >= 0 &&
    at + direction < told.length &&
    coverOf(edges, at + direction, own) >= EDGE_COVER
  )
    at += direction
  const [here, next] = [coverOf(edges, at, own), coverOf(edges, at + direction, own)]
  return at + direction * (here > next ? Math.min(1, Math.max(0, (here - EDGE_COVER) / (here - next))) : 0)
}

/**
 * How much of a column is line, told by its colour and by how much of the ground's variety it has: each counts as it tells the line's
 * own column from the ground.
 */
function coverOf({ all, ground, half, reach, channels }: Edges, column: number, own: number): number {
  const [at, from] = [(column - half + reach) * channels, (own - half + reach) * channels]
  let [cover, total] = [0, 0]
  for (let c = 0; c < channels; c++) {
    const [g, v] = [ground.means[c]!, ground.variances[c]!]
    const [gap, more] = [all.means[from + c]! - g, Math.max(1e-9, v - all.variances[from + c]!)]
    const byColour = (gap * gap) / v
    cover += byColour * (gap === 0 ? 0 : (all.means[at + c]! - g) / gap)
    const byVariety = Math.max(0, log(v / all.variances[from + c]!))
    const left = Math.max(0, all.variances[at + c]! - all.variances[from + c]!) / more
    cover += byVariety * (1 - Math.sqrt(Math.min(1, left)))
    total += byColour + byVariety
  }
  return total > 0 ? cover / total : 0
}

function profileOf(
  { means, variances }: Colours,
  told: Float64Array,
  half: number,
  reach: number,
  shift: number,
  widthPx: number,
  channels: number,
): LineProfile {
  const side = Math.min(Math.ceil(widthPx / 2 / ACROSS_PX) + RIM_COLUMNS, half)
  const columns = 2 * side + 1
  const levels = new Float32Array(columns * channels)
  const scales = new Float32Array(columns * channels)
  const weights = new Float32Array(columns)
  let total = 0
  for (let i = 0; i < columns; i++) {
    const column = i - side + shift
    weights[i] = Math.max(1e-3, told[column + half] ?? 0)
    total += weights[i]!
    for (let c = 0; c < channels; c++) {
      const k = Math.min(Math.max(column + reach, 0), 2 * reach) * channels + c
      levels[i * channels + c] = means[k]!
      scales[i * channels + c] = 1 / (channels * variances[k]!)
    }
  }
  for (let i = 0; i < columns; i++) weights[i]! /= total
  return { columns, channels, levels, scales, weights }
}

/** A profile drawn a little towards what it looks like now: light changes slowly. */
export function blended(last: LineProfile, now: LineProfile, share: number): LineProfile {
  if (last.columns !== now.columns) return last
  const mixed = (a: Float32Array, b: Float32Array) => a.map((value, i) => value + share * (b[i]! - value))
  return { ...last, levels: mixed(last.levels, now.levels) }
}
