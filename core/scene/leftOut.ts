/**
 * What was left out when a scene was worked out, in large cells: enough to tell whether mends have changed what matters to it,
 * and where.
 */
import type { Scene } from './scene'
import { cellsFromRuns, runsFromCells } from './cellRuns'

export type LeftOut = NonNullable<Scene['leftOut']>

const CELL_PX = 32
/** A cell of which less is covered still shows the background. */
const COVERED_FROM = 0.5
/** Share of a frame's cells that must have changed; less hides nothing that the scene was learnt from. */
const MATTERS_FROM = 0.004
/** Cells around a changed one that may have learnt from it. */
const AROUND = 1

export const leftOutGrid = (width: number, height: number): Omit<LeftOut, 'frames'> => ({
  cellPx: CELL_PX,
  cols: Math.ceil(width / CELL_PX),
  rows: Math.ceil(height / CELL_PX),
})

/** One frame's cells as runs. @param mask  Of the full size: 1 where something is left out; null: nowhere. */
export const leftOutOn = (mask: Uint8Array | null, width: number, height: number): string =>
  runsFromCells(cellsOf(mask, width, height))

function cellsOf(mask: Uint8Array | null, width: number, height: number): Uint8Array {
  const { cols, rows } = leftOutGrid(width, height)
  const counts = new Uint16Array(cols * rows)
  if (mask) {
    for (let row = 0, i = 0; row < height; row++) {
      const line = Math.floor(row / CELL_PX) * cols
      for (let col = 0; col < width; col++, i++)
        if (mask[i] === 1) counts[line + Math.floor(col / CELL_PX)]!++
    }
  }
  return Uint8Array.from(counts, (count, cell) => {
    const [cellCol, cellRow] = [cell % cols, Math.floor(cell / cols)]
    const whole = Math.min(CELL_PX, width - cellCol * CELL_PX) * Math.min(CELL_PX, height - cellRow * CELL_PX)
    return count >= COVERED_FROM * whole ? 1 : 0
  })
}

/** @returns For each frame, 1 for each cell that was left out and is no more, or the other way round. */
export function changedCells(before: LeftOut | undefined, now: LeftOut): Uint8Array[] {
  const count = now.cols * now.rows
  return now.frames.map((runs, i) => {
    const [was, is] = [cellsFromRuns(before?.frames[i] ?? `0*${count}`, count), cellsFromRuns(runs, count)]
    return is.map((value, cell) => (value === was[cell] ? 0 : 1))
  })
}

/** Whether some frame's change is large enough to be worth working the scene out again. */
export const mattersToScene = (changed: readonly Uint8Array[]): boolean =>
  changed.some((cells) => cells.reduce((sum, one) => sum + one, 0) > MATTERS_FROM * cells.length)

/** The changed cells with those around them. */
export function widened(
  cells: Uint8Array,
  { cols, rows }: { readonly cols: number; readonly rows: number },
): Uint8Array {
  const out = new Uint8Array(cells.length)
  cells.forEach((value, cell) => {
    if (value === 0) return
    const [col, row] = [cell % cols, Math.floor(cell / cols)]
    for (let y = Math.max(0, row - AROUND); y <= Math.min(rows - 1, row + AROUND); y++) {
      for (let x = Math.max(0, col - AROUND); x <= Math.min(cols - 1, col + AROUND); x++)
        out[y * cols + x] = 1
    }
  })
  return out
}
