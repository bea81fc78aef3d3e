import type { Rect } from '../image/rect'
import { kernels } from '../kernels/module'
import { withKernelMemory } from '../kernels/memory'

/** The layer of each cell of a part of a frame, with those seen near it. */
export interface LayerMap {
  readonly cellPx: number
  /** Of the first cell, counted in cells. */
  readonly firstCol: number
  readonly firstRow: number
  readonly cols: number
  readonly rows: number
  /** Three bytes for each cell: its layer; and as bits, the layers seen within NEAR_PX and within BESIDE_PX of it. */
  readonly cells: Uint8Array
  /** For each layer, those that pass in front of it. */
  readonly hiddenBy: readonly (readonly number[])[]
}

/** It is not known, or the cell is covered. */
export const NO_LAYER = 255
export const CELL_BYTES = 3
/** A map is no finer than its cells, and what is in front looks wider in it than it is. Set on the demo film. */
const NEAR_PX = 8
const BESIDE_PX = 12

/** The cells of a whole frame from the layer of each. */
export function cellsFromLabels(labels: Uint8Array, cols: number, rows: number, cellPx: number): Uint8Array {
  const bytes = CELL_BYTES * labels.length
  const [near, beside] = [Math.floor(NEAR_PX / cellPx), Math.floor(BESIDE_PX / cellPx)]
  const scratch = (cols + 2 * beside) * (rows + 2 * beside) + 16
  return withKernelMemory(labels.length + bytes + scratch + 256, (scope) => {
    const out = scope.reserve(bytes)
    kernels().labelsAround(scope.pointerTo(labels), cols, rows, near, beside, scope.reserve(scratch), out)
    return new Uint8Array(kernels().memory.buffer, out, bytes).slice()
  })
}

/** @param x, y  Px of the full picture. */
export function layerAt(
  { cellPx, firstCol, firstRow, cols, rows, cells }: LayerMap,
  x: number,
  y: number,
): number {
  const [col, row] = [Math.floor(x / cellPx) - firstCol, Math.floor(y / cellPx) - firstRow]
  return col < 0 || row < 0 || col >= cols || row >= rows ? NO_LAYER : cells[CELL_BYTES * (row * cols + col)]!
}

/** Tells the layer of each stretch of a crop's rows that lies in one cell, where it is known: pixels from `begin` to before `end`. */
export function forEachCell(
  { cellPx, firstCol, firstRow, cols, rows, cells }: LayerMap,
  { col, row, width, height }: Rect,
  tell: (label: number, begin: number, end: number) => void,
): void {
  const [left, right] = [
    Math.floor(col / cellPx) - firstCol,
    Math.floor((col + width - 1) / cellPx) - firstCol,
  ]
  for (let y = 0; y < height; y++) {
    const cellRow = Math.floor((row + y) / cellPx) - firstRow
    if (cellRow < 0 || cellRow >= rows) continue
    for (let cellCol = Math.max(0, left); cellCol <= Math.min(right, cols - 1); cellCol++) {
      const label = cells[CELL_BYTES * (cellRow * cols + cellCol)]!
      if (label === NO_LAYER) continue
      const begin = Math.max(0, (cellCol + firstCol) * cellPx - col)
      const end = Math.min(width, (cellCol + firstCol + 1) * cellPx - col)
      tell(label, y * width + begin, y * width + end)
    }
  }
}
