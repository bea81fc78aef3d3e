/**
 * Which layer each part of a frame belongs to: the one through which it looks as it does a few frames earlier or later.
 * Either of the two is enough: what is hidden on one side is seen on the other.
 */
import { guidedBytes, openGuided, padded } from '../image/guided'
import { apply, type Matrix3 } from '../geometry/transform'
import type { Plane } from '../image/raster'
import { withKernelMemory, type KernelScope } from '../kernels/memory'
import { kernels } from '../kernels/module'
import { NO_LAYER } from './layerMap'

/** A frame at half size, with what of it shows something else. */
export interface HalfFrame {
  readonly plane: Plane
  /** Not 0 where a mend's area or holdout lies; of the half size. Null: nowhere. */
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

/** The loops are in `kernels/assembly/cells.ts`. */
export function labelCells(here: HalfFrame, neighbours: readonly Neighbour[], layers: number): LabelledCells {
  const { width, height } = here.plane
  const [cols, rows] = [Math.ceil(width / HALF_CELL_PX), Math.ceil(height / HALF_CELL_PX)]
  const labels = new Uint8Array(cols * rows).fill(NO_LAYER)
  // Of each cell the layers that are not clearly worse than another, as bits.
  const open = new Uint8Array(cols * rows).fill((1 << layers) - 1)
  const cells = { cols, rows, labels, open, isMasked: isMaskedCell(here, cols, rows) }
  const maps = 1 + layers + 3 * layers * neighbours.length
  const frames = (1 + neighbours.length) * (here.plane.data.byteLength + width * height + 64)
  withKernelMemory(frames + 4 * maps * padded(cols * rows) + guidedBytes(cols, rows) + 8192, (scope) => {
    const map = () => scope.floats(padded(cols * rows)).fill(0)
    const guide = map()
    const open = openHalf(here, scope)
    kernels().cellMeans(open.plane, width, height, cols, rows, guide.byteOffset)
    const others = neighbours.map((other) => ({ ...other, open: openHalf(other, scope) }))
    const off = Array.from({ length: layers }, (_, layer) =>
      others.map((other) => {
        const [means, known] = [map(), map()]
        const matrix = scope.pointerTo(Float64Array.from(halved(other.thereFromHere[layer]!)))
        // prettier-ignore
        kernels().cellDifferences(
          open.plane, open.mask, other.open.plane, other.open.mask, width, height, matrix, other.gain, MAX_OFF,
          cols, rows, means.byteOffset, known.byteOffset,
        )
        return { means, known }
      }),
    )
    const costs = off.map(() => map())
    const [mean, work] = [map(), openGuided(scope, cols, rows)]
    for (const radius of WINDOWS_CELLS) {
      off.forEach((ofLayer, layer) => {
        costs[layer]!.fill(Infinity)
        for (const { means, known } of ofLayer) {
          // prettier-ignore
          kernels().guidedMean(
            guide.byteOffset, means.byteOffset, known.byteOffset, cols, rows, radius, EDGE_DEVIATION * EDGE_DEVIATION,
            WINDOW_SHARE * radius * radius, work.maps, work.across, work.columns, mean.byteOffset,
          )
          kernels().keepLeast(costs[layer]!.byteOffset, mean.byteOffset, padded(cols * rows))
        }
      })
      decide(cells, costs)
    }
  })
  return cells
}

/** A frame in kernel memory. @returns Addresses; 0 for no mask. */
function openHalf({ plane, masked }: HalfFrame, scope: KernelScope): { plane: number; mask: number } {
  return { plane: scope.pointerTo(plane.data), mask: masked ? scope.pointerTo(masked) : 0 }
}

/** Puts out layers that are clearly worse than another; a cell with one left is told. */
function decide({ labels, open, isMasked }: LabelledCells, costs: readonly Float32Array[]): void {
  for (let cell = 0; cell < labels.length; cell++) {
    if (labels[cell] !== NO_LAYER || isMasked[cell] === 1) continue
    let bits = open[cell]!
    let [best, min] = [NO_LAYER, Infinity]
    for (let layer = 0; layer < costs.length; layer++) {
      const cost = costs[layer]![cell]!
      if ((bits & (1 << layer)) === 0 || cost >= min) continue
      min = cost
      best = layer
    }
    if (min === Infinity) continue
    for (let layer = 0; layer < costs.length; layer++)
      if (min + GRAIN < CLEARLY * (costs[layer]![cell]! + GRAIN)) bits &= ~(1 << layer)
    open[cell] = bits
    if (bits === 1 << best) labels[cell] = best
  }
}

const isOpen = (bits: number, layer: number): boolean => (bits & (1 << layer)) !== 0

/** The same transform between pictures of half the size. */
const halved = (m: Matrix3): Matrix3 => [m[0], m[1], m[2] / 2, m[3], m[4], m[5] / 2, m[6] * 2, m[7] * 2, m[8]]

function isMaskedCell({ plane, masked }: HalfFrame, cols: number, rows: number): Uint8Array {
  const out = new Uint8Array(cols * rows)
  if (!masked) return out
  for (let row = 0; row < plane.height; row++) {
    const line = (row >> 1) * cols
    for (let col = 0; col < plane.width; col++)
      if (masked[row * plane.width + col] !== 0) out[line + (col >> 1)] = 1
  }
  return out
}

/** Cells that do not tell take the label that most of their neighbours have; what is covered stays unknown. */
export function filledUp(labels: Uint8Array, cells: LabelledCells): Uint8Array {
  const { isMasked } = cells
  const now = labels.slice()
  let unknown: number[] = []
  for (let cell = 0; cell < now.length; cell++)
    if (now[cell] === NO_LAYER && isMasked[cell] === 0) unknown.push(cell)
  for (let round = 0; round < FILL_ROUNDS && unknown.length > 0; round++) {
    // All cells of a round see the labels of the last.
    const told = unknown.map((cell) => usualAround(now, cell, cells))
    const left: number[] = []
    unknown.forEach((cell, i) => {
      if (told[i] === NO_LAYER) left.push(cell)
      else now[cell] = told[i]!
    })
    if (left.length === unknown.length) break
    unknown = left
  }
  return now
}

const counts = new Int32Array(8)

/** The label that most cells around have, of those that the cell may have; of equal ones the first. */
function usualAround(labels: Uint8Array, cell: number, { open, cols, rows }: LabelledCells): number {
  counts.fill(0)
  const row = Math.floor(cell / cols)
  const col = cell - row * cols
  for (let y = Math.max(0, row - 1); y <= Math.min(rows - 1, row + 1); y++) {
    for (let x = Math.max(0, col - 1); x <= Math.min(cols - 1, col + 1); x++) {
      const label = labels[y * cols + x]!
      if (label !== NO_LAYER && isOpen(open[cell]!, label)) counts[label]!++
    }
  }
  let [best, max] = [NO_LAYER, 0]
  for (let label = 0; label < counts.length; label++) {
    if (counts[label]! <= max) continue
    best = label
    max = counts[label]!
  }
  return best
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
