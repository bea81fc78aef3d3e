/**
 * Which layer each part of a frame belongs to: the one through which it looks as it does a few frames earlier or later.
 * Either of the two is enough: what is hidden on one side is seen on the other.
 */
import { guidedMean, type GuideInput } from '../image/guided'
import { apply, type Matrix3 } from '../geometry/transform'
import type { Plane } from '../image/raster'
import { warpProjective } from '../image/sample'
import { NO_LAYER } from './layerMap'

/** A frame at half size, with what of it shows something else. */
export interface HalfFrame {
  readonly plane: Plane
  /** 1 where a mend's area or holdout lies; of the half size. Null: nowhere. */
  readonly masked: Uint8Array | null
}

export interface Neighbour extends HalfFrame {
  /** For each layer, in px of the full size. */
  readonly thereFromHere: readonly Matrix3[]
  readonly gain: number
}

/** What one frame tells of its cells. */
export interface LabelledCells {
  readonly cols: number
  readonly rows: number
  /** The layer of each cell; NO_LAYER where the frame does not tell. */
  readonly labels: Uint8Array
  /** Of each cell the layers that it may belong to, as bits. */
  readonly open: Uint8Array
  /** 1 where something else is seen. */
  readonly isMasked: Uint8Array
}

export const CELL_PX = 4
const HALF_CELL_PX = CELL_PX / 2
/** Cells to each side over which differences are averaged: what the small windows leave open, the large ones decide. */
const WINDOWS_CELLS = [3, 6] as const
/** Deviation of brightness below which it shows no edge. */
const EDGE_DEVIATION = 0.01
/** A window must know so many cells for each one of its radius squared. */
const WINDOW_SHARE = 1
/** A single place differs by no more than this: one bright speck is not a layer. */
const MAX_OFF = 0.08
/** A layer is out when another is better by this share, grain left aside. */
const CLEARLY = 0.75
const GRAIN = 0.004
const FILL_ROUNDS = 24

export function labelCells(here: HalfFrame, neighbours: readonly Neighbour[], layers: number): LabelledCells {
  const { width, height } = here.plane
  const [cols, rows] = [Math.ceil(width / HALF_CELL_PX), Math.ceil(height / HALF_CELL_PX)]
  const labels = new Uint8Array(cols * rows).fill(NO_LAYER)
  // Of each cell the layers that are not clearly worse than another, as bits.
  const open = new Uint8Array(cols * rows).fill((1 << layers) - 1)
  const isMasked = isMaskedCell(here, cols, rows)
  const guide = inCells(here.plane.data, null, here.plane, cols, rows).means
  const off = Array.from({ length: layers }, (_, layer) =>
    neighbours.map((other) => differences(here, other, layer, cols, rows)),
  )
  for (const radiusPx of WINDOWS_CELLS) {
    const costs = off.map((ofLayer) =>
      minOf(ofLayer, { guide, width: cols, height: rows, radiusPx, edgeDeviation: EDGE_DEVIATION }),
    )
    for (let cell = 0; cell < labels.length; cell++) {
      if (labels[cell] !== NO_LAYER || isMasked[cell] === 1) continue
      let [best, min] = [NO_LAYER, Infinity]
      costs.forEach((cost, layer) => {
        if (isOpen(open[cell]!, layer) && cost[cell]! < min) [best, min] = [layer, cost[cell]!]
      })
      if (min === Infinity) continue
      costs.forEach((cost, layer) => {
        if (min + GRAIN < CLEARLY * (cost[cell]! + GRAIN)) open[cell]! &= ~(1 << layer)
      })
      if (open[cell] === 1 << best) labels[cell] = best
    }
  }
  return { cols, rows, labels, open, isMasked }
}

const isOpen = (bits: number, layer: number): boolean => (bits & (1 << layer)) !== 0

/** Means over cells, and the share of each that is known. */
interface InCells {
  readonly means: Float32Array
  readonly known: Float32Array
}

/** How far a frame is from what its neighbour shows of it through a layer. */
function differences(
  { plane, masked }: HalfFrame,
  other: Neighbour,
  layer: number,
  cols: number,
  rows: number,
): InCells {
  const { width, height } = plane
  const halfMotion = halved(other.thereFromHere[layer]!)
  const moved = warpProjective({ ...other.plane, channels: 1 }, halfMotion, plane, 'bilinear')
  const [off, isKnown] = [new Float32Array(width * height), new Uint8Array(width * height)]
  const [a, b, c, d, e, f, g, h, k] = halfMotion
  for (let row = 0, i = 0; row < height; row++) {
    for (let col = 0; col < width; col++, i++) {
      const w = 1 / (g * (col + 0.5) + h * (row + 0.5) + k)
      const [x, y] = [
        Math.floor((a * (col + 0.5) + b * (row + 0.5) + c) * w),
        Math.floor((d * (col + 0.5) + e * (row + 0.5) + f) * w),
      ]
      if (x < 1 || y < 1 || x >= width - 1 || y >= height - 1) continue
      if (masked?.[i] === 1 || other.masked?.[y * width + x] === 1) continue
      off[i] = Math.min(MAX_OFF, Math.abs(other.gain * moved.data[i]! - plane.data[i]!))
      isKnown[i] = 1
    }
  }
  return inCells(off, isKnown, plane, cols, rows)
}

function inCells(
  data: Float32Array,
  isKnown: Uint8Array | null,
  { width, height }: { width: number; height: number },
  cols: number,
  rows: number,
): InCells {
  const [means, known] = [new Float32Array(cols * rows), new Float32Array(cols * rows)]
  for (let row = 0, i = 0; row < height; row++) {
    for (let col = 0; col < width; col++, i++) {
      if (isKnown?.[i] === 0) continue
      const cell = Math.floor(row / HALF_CELL_PX) * cols + Math.floor(col / HALF_CELL_PX)
      means[cell]! += data[i]!
      known[cell]!++
    }
  }
  for (let cell = 0; cell < means.length; cell++) {
    if (known[cell]! === 0) continue
    means[cell]! /= known[cell]!
    known[cell]! /= HALF_CELL_PX * HALF_CELL_PX
  }
  return { means, known }
}

/** The least that any neighbour differs by around each cell. */
function minOf(neighbours: readonly InCells[], guide: GuideInput): Float32Array {
  const min = new Float32Array(guide.width * guide.height).fill(Infinity)
  for (const { means, known } of neighbours) {
    const costs = guidedMean(guide, means, known, WINDOW_SHARE * guide.radiusPx * guide.radiusPx)
    for (let cell = 0; cell < min.length; cell++) min[cell] = Math.min(min[cell]!, Math.max(0, costs[cell]!))
  }
  return min
}

/** The same transform between pictures of half the size. */
const halved = (m: Matrix3): Matrix3 => [m[0], m[1], m[2] / 2, m[3], m[4], m[5] / 2, m[6] * 2, m[7] * 2, m[8]]

function isMaskedCell({ plane, masked }: HalfFrame, cols: number, rows: number): Uint8Array {
  const out = new Uint8Array(cols * rows)
  if (!masked) return out
  for (let i = 0; i < masked.length; i++) {
    if (masked[i] === 1)
      out[
        Math.floor(Math.floor(i / plane.width) / HALF_CELL_PX) * cols +
          Math.floor((i % plane.width) / HALF_CELL_PX)
      ] = 1
  }
  return out
}

/** Cells that do not tell take the label that most of their neighbours have; what is covered stays unknown. */
export function filledUp(labels: Uint8Array, { open, isMasked, cols, rows }: LabelledCells): Uint8Array {
  let now = labels
  for (let round = 0; round < FILL_ROUNDS; round++) {
    const next = now.slice()
    let isChanged = false
    for (let row = 0; row < rows; row++) {
      for (let col = 0; col < cols; col++) {
        const cell = row * cols + col
        if (now[cell] !== NO_LAYER || isMasked[cell] === 1) continue
        const counts = new Map<number, number>()
        for (let y = Math.max(0, row - 1); y <= Math.min(rows - 1, row + 1); y++) {
          for (let x = Math.max(0, col - 1); x <= Math.min(cols - 1, col + 1); x++) {
            const label = now[y * cols + x]!
            if (label !== NO_LAYER && isOpen(open[cell]!, label))
              counts.set(label, (counts.get(label) ?? 0) + 1)
          }
        }
        const [max] = [...counts].sort((p, q) => q[1] - p[1] || p[0] - q[0])
        if (!max) continue
        next[cell] = max[0]
        isChanged = true
      }
    }
    now = next
    if (!isChanged) break
  }
  return now
}

/** Edges of labels are surer than this, in cells. */
const PLAIN_CELLS = 2
const MIN_HIDDEN = 6 // cells
const ALIKE_PX = 4
const CLEARLY_MORE = 1.5

/**
 * Which layers pass in front of each: where a place goes out of sight, what is seen there instead is nearer.
 * @param cellsAt  Labels of the cells of a frame. @param frames  Pairs of frames to compare.
 */
export function orderLayers(
  layers: number,
  cols: number,
  rows: number,
  frames: readonly {
    readonly here: Uint8Array
    readonly there: Uint8Array
    readonly thereFromHere: readonly Matrix3[]
  }[],
): number[][] {
  const gone = Array.from({ length: layers }, () => new Array<number>(layers).fill(0))
  for (const { here, there, thereFromHere } of frames) {
    for (let row = PLAIN_CELLS; row < rows - PLAIN_CELLS; row++) {
      for (let col = PLAIN_CELLS; col < cols - PLAIN_CELLS; col++) {
        const label = here[row * cols + col]!
        if (label === NO_LAYER || !isPlain(here, row, col, cols)) continue
        const to = apply(thereFromHere[label]!, (col + 0.5) * CELL_PX, (row + 0.5) * CELL_PX)
        const [toCol, toRow] = [Math.floor(to.x / CELL_PX), Math.floor(to.y / CELL_PX)]
        if (
          toCol < PLAIN_CELLS ||
          toRow < PLAIN_CELLS ||
          toCol >= cols - PLAIN_CELLS ||
          toRow >= rows - PLAIN_CELLS
        )
          continue
        const seen = there[toRow * cols + toCol]!
        if (seen === NO_LAYER || seen === label || !isPlain(there, toRow, toCol, cols)) continue
        // Where both move alike, the one label is as good as the other.
        const other = apply(thereFromHere[seen]!, (col + 0.5) * CELL_PX, (row + 0.5) * CELL_PX)
        if ((other.x - to.x) * (other.x - to.x) + (other.y - to.y) * (other.y - to.y) > ALIKE_PX * ALIKE_PX)
          gone[label]![seen]!++
      }
    }
  }
  return gone.map((counts, layer) =>
    counts.flatMap((count, other) =>
      count >= MIN_HIDDEN && count > CLEARLY_MORE * gone[other]![layer]! ? [other] : [],
    ),
  )
}

/** All cells around are of the same layer: edges of labels are not sure. */
function isPlain(labels: Uint8Array, row: number, col: number, cols: number): boolean {
  const label = labels[row * cols + col]!
  for (let y = row - PLAIN_CELLS; y <= row + PLAIN_CELLS; y++) {
    for (let x = col - PLAIN_CELLS; x <= col + PLAIN_CELLS; x++)
      if (labels[y * cols + x] !== label) return false
  }
  return true
}
