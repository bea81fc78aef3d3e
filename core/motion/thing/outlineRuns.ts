/** Outlines on a grid of cells. */
import { boundsOfPolygon } from '../../geometry/polygon'
import type { Size } from '../../image/rect'

/** An outline as runs of cells: row, first column, column after the last of each, in cells of the picture. */
export type OutlineRuns = Int32Array

/** Cells whose middle lies in a polygon of px. */
export function runsOf(polygon: readonly number[], cellPx: number): OutlineRuns {
  const { top, bottom } = boundsOfPolygon(polygon)
  const runs: number[] = []
  for (let row = Math.floor(top / cellPx); row * cellPx < bottom; row++) {
    const crossings = crossingsOf(polygon, (row + 0.5) * cellPx)
    for (let i = 0; i + 1 < crossings.length; i += 2) {
      const begin = Math.ceil(crossings[i]! / cellPx - 0.5)
      const end = Math.ceil(crossings[i + 1]! / cellPx - 0.5)
      if (end > begin) runs.push(row, begin, end)
    }
  }
  return Int32Array.from(runs)
}

/** Where a polygon crosses a line across the picture, from left to right. */
function crossingsOf(polygon: readonly number[], y: number): number[] {
  const crossings: number[] = []
  for (let i = 0, j = polygon.length - 2; i < polygon.length; j = i, i += 2) {
    const [x1, y1, x2, y2] = [polygon[i]!, polygon[i + 1]!, polygon[j]!, polygon[j + 1]!]
    if (y1 > y !== y2 > y) crossings.push(x1 + ((y - y1) * (x2 - x1)) / (y2 - y1))
  }
  return crossings.sort((a, b) => a - b)
}

/** 1 for each cell of a grid that an outline covers, shifted by whole cells. */
export function maskOfRuns(runs: OutlineRuns, { width, height }: Size, dx = 0, dy = 0): Uint8Array {
  const mask = new Uint8Array(width * height)
  const within = (col: number) => Math.min(width, Math.max(0, col + dx))
  for (let i = 0; i < runs.length; i += 3) {
    const row = runs[i]! + dy
    if (row < 0 || row >= height) continue
    mask.fill(1, row * width + within(runs[i + 1]!), row * width + within(runs[i + 2]!))
  }
  return mask
}
