/** The layer of each cell of a part of a frame. */
export interface LayerMap {
  readonly cellPx: number
  /** Of the first cell, counted in cells. */
  readonly firstCol: number
  readonly firstRow: number
  readonly cols: number
  readonly rows: number
  readonly labels: readonly number[]
  /** For each layer, those that pass in front of it. */
  readonly hiddenBy: readonly (readonly number[])[]
}

/** It is not known, or the cell is covered. */
export const NO_LAYER = 255

/** @param x, y  Px of the full picture. */
export function layerAt(
  { cellPx, firstCol, firstRow, cols, rows, labels }: LayerMap,
  x: number,
  y: number,
): number {
  const [col, row] = [Math.floor(x / cellPx) - firstCol, Math.floor(y / cellPx) - firstRow]
  return col < 0 || row < 0 || col >= cols || row >= rows ? NO_LAYER : labels[row * cols + col]!
}
