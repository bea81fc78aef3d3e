/** Places of a map that lie near each other, as one. */
import type { Rect } from './rect'

/**
 * Clusters of the places that are 1, told apart on a grid of cells of so many px: what lies in cells that touch belongs together; by 1 px, pixels that touch by a side or a
 * corner. In the order of rows. Cost: one pass.
 */
export function clustersOf(map: Uint8Array, width: number, height: number, joinPx: number): number[][] {
  const [cols, rows] = [Math.ceil(width / joinPx), Math.ceil(height / joinPx)]
  const cells = new Map<number, number[]>()
  for (let at = 0; at < map.length; at++) {
    if (map[at] !== 1) continue
    const cell = Math.floor(Math.floor(at / width) / joinPx) * cols + Math.floor((at % width) / joinPx)
    const places = cells.get(cell)
    if (places) places.push(at)
    else cells.set(cell, [at])
  }
  const taken = new Set<number>()
  const clusters: number[][] = []
  for (const seed of [...cells.keys()].sort((one, other) => one - other)) {
    if (taken.has(seed)) continue
    taken.add(seed)
    const queue = [seed]
    for (let k = 0; k < queue.length; k++) {
      const [col, row] = [queue[k]! % cols, Math.floor(queue[k]! / cols)]
      for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++) {
        for (let c = Math.max(0, col - 1); c <= Math.min(cols - 1, col + 1); c++) {
          const next = r * cols + c
          if (taken.has(next) || !cells.has(next)) continue
          taken.add(next)
          queue.push(next)
        }
      }
    }
    clusters.push(queue.flatMap((cell) => cells.get(cell)!))
  }
  return clusters
}

/** The smallest rectangle of whole places that has all of them. @param width  Of the map they lie in. */
export function extentOf(places: Iterable<number>, width: number): Rect {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const at of places) {
    const [col, row] = [at % width, Math.floor(at / width)]
    left = Math.min(left, col)
    right = Math.max(right, col)
    top = Math.min(top, row)
    bottom = Math.max(bottom, row)
  }
  return { col: left, row: top, width: right - left + 1, height: bottom - top + 1 }
}
