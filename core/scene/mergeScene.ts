/**
 * A scene that was worked out again: what differs from the last one by less than can be measured stays as it was, so that nothing
 * that was made with it has to be made again.
 */
import { apply } from '../geometry/transform'
import { changedCells, widened } from './leftOut'
import { cellsFromRuns, runsFromCells } from './cellRuns'
import { motionBetween, type Scene } from './scene'

/** Motions that lie closer than this are the same. */
const ALIKE_PX = 0.15
/** How many times over the picture, along each side, motions are compared. */
const COMPARED = 3

/** @returns The last scene, with the cells of the new one where what is left out has changed; the new one where its motions are others. */
export function mergeScene(last: Scene, fresh: Scene): Scene {
  if (!sameMotions(last, fresh)) return fresh
  const { leftOut } = fresh
  if (!last.cells || !fresh.cells || !leftOut) return { ...last, ...(leftOut ? { leftOut } : {}) }
  const { cols, rows, cellPx } = last.cells
  if (fresh.cells.cols !== cols || fresh.cells.rows !== rows || fresh.cells.cellPx !== cellPx) return fresh
  const changed = changedCells(last.leftOut, leftOut)
  const frames = last.cells.frames.map((runs, i) => {
    const where = widened(changed[i]!, leftOut)
    if (!where.includes(1)) return runs
    const [was, is] = [cellsFromRuns(runs, cols * rows), cellsFromRuns(fresh.cells!.frames[i]!, cols * rows)]
    return runsFromCells(
      was.map((label, cell) => {
        const [x, y] = [((cell % cols) + 0.5) * cellPx, (Math.floor(cell / cols) + 0.5) * cellPx]
        return where[Math.floor(y / leftOut.cellPx) * leftOut.cols + Math.floor(x / leftOut.cellPx)] === 1
          ? is[cell]!
          : label
      }),
    )
  })
  return { ...last, leftOut, cells: { ...last.cells, frames } }
}

function sameMotions(a: Scene, b: Scene): boolean {
  const { width, height, firstFrame, frameCount } = a.plate
  if (
    a.layers.length !== b.layers.length ||
    b.plate.frameCount !== frameCount ||
    b.plate.width !== width ||
    b.plate.height !== height
  )
    return false
  for (let layer = 0; layer < a.layers.length; layer++) {
    if (JSON.stringify(a.layers[layer]!.hiddenBy) !== JSON.stringify(b.layers[layer]!.hiddenBy)) return false
    for (let frame = firstFrame; frame < firstFrame + frameCount; frame++) {
      const [p, q] = [motionBetween(a, layer, firstFrame, frame), motionBetween(b, layer, firstFrame, frame)]
      for (let i = 0; i < COMPARED * COMPARED; i++) {
        const [x, y] = [
          (((i % COMPARED) + 0.5) / COMPARED) * width,
          ((Math.floor(i / COMPARED) + 0.5) / COMPARED) * height,
        ]
        const [one, other] = [apply(p, x, y), apply(q, x, y)]
        if (
          (one.x - other.x) * (one.x - other.x) + (one.y - other.y) * (one.y - other.y) >
          ALIKE_PX * ALIKE_PX
        )
          return false
      }
    }
  }
  return true
}
