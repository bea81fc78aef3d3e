/** The layers of a scene's frames: opened from their runs when they are asked for, and kept as long as there is room. */
import { LRUCache } from 'lru-cache'
import type { Rect } from '../image/rect'
import { digestOf } from '../shot/digest'
import type { Frame } from '../time'
import { cellsFromRuns } from './cellRuns'
import { CELL_BYTES, cellsFromLabels, type LayerMap } from './layerMap'
import { isInScene, type Scene } from './scene'

/** The layers of a part of a frame; null where the scene has only one. */
export function layerMapOf(scene: Scene, frame: Frame, rect: Rect): LayerMap | null {
  const { cells } = scene
  if (!cells || !isInScene(scene, frame)) return null
  const whole = openedCells(cells, frame - scene.plate.firstFrame)
  const { cellPx } = cells
  const firstCol = Math.min(cells.cols, Math.max(0, Math.floor(rect.col / cellPx)))
  const firstRow = Math.min(cells.rows, Math.max(0, Math.floor(rect.row / cellPx)))
  const cols = Math.max(0, Math.min(cells.cols, Math.ceil((rect.col + rect.width) / cellPx)) - firstCol)
  const rows = Math.max(0, Math.min(cells.rows, Math.ceil((rect.row + rect.height) / cellPx)) - firstRow)
  const part = new Uint8Array(CELL_BYTES * cols * rows)
  for (let row = 0; row < rows; row++) {
    const from = CELL_BYTES * ((firstRow + row) * cells.cols + firstCol)
    part.set(whole.subarray(from, from + CELL_BYTES * cols), CELL_BYTES * row * cols)
  }
  const hiddenBy = scene.layers.map((layer) => layer.hiddenBy)
  return { cellPx, firstCol, firstRow, cols, rows, cells: part, hiddenBy }
}

/** Cells of frames as they were opened last; a frame of 3840 x 2160 takes 1.5 MB. */
const OPENED_BYTES = 64 << 20
const opened = new LRUCache<string, Uint8Array>({
  maxSize: OPENED_BYTES,
  sizeCalculation: (cells) => cells.length,
})
const names = new WeakMap<object, number>()
let nextName = 0

const TILE_CELLS = 32
const MAX_DIGESTS = 1 << 15
const tileDigests = new LRUCache<string, string>({ max: MAX_DIGESTS })

/**
 * What tells the layers of a part of a frame from others: digests of the tiles that it touches, so that a scene worked out
 * anew changes it only where its layers have changed. Empty where the scene has only one.
 */
export function layersDigest(scene: Scene, frame: Frame, rect: Rect): string {
  const { cells } = scene
  if (!cells || !isInScene(scene, frame)) return ''
  const tilePx = TILE_CELLS * cells.cellPx
  const [left, top] = [Math.max(0, Math.floor(rect.col / tilePx)), Math.max(0, Math.floor(rect.row / tilePx))]
  const right = Math.min(Math.ceil(cells.cols / TILE_CELLS), Math.ceil((rect.col + rect.width) / tilePx))
  const bottom = Math.min(Math.ceil(cells.rows / TILE_CELLS), Math.ceil((rect.row + rect.height) / tilePx))
  const digests: string[] = []
  for (let row = top; row < bottom; row++)
    for (let col = left; col < right; col++)
      digests.push(tileDigest(cells, frame - scene.plate.firstFrame, col, row))
  return digests.join(' ')
}

function tileDigest(cells: NonNullable<Scene['cells']>, index: number, col: number, row: number): string {
  const key = `${nameOf(cells)} ${index} ${col} ${row}`
  const known = tileDigests.get(key)
  if (known) return known
  const whole = openedCells(cells, index)
  const lines: Uint8Array[] = []
  const firstCol = col * TILE_CELLS
  const count = CELL_BYTES * Math.min(TILE_CELLS, cells.cols - firstCol)
  for (let at = row * TILE_CELLS; at < Math.min(cells.rows, (row + 1) * TILE_CELLS); at++) {
    const from = CELL_BYTES * (at * cells.cols + firstCol)
    lines.push(whole.subarray(from, from + count))
  }
  const digest = digestOf(lines)
  tileDigests.set(key, digest)
  return digest
}

/** Bytes of opened cells that are kept now. */
export const openedCellsBytes = (): number => opened.calculatedSize

function nameOf(cells: object): number {
  let name = names.get(cells)
  if (name === undefined) names.set(cells, (name = nextName++))
  return name
}

function openedCells(cells: NonNullable<Scene['cells']>, index: number): Uint8Array {
  const key = `${nameOf(cells)} ${index}`
  const known = opened.get(key)
  if (known) return known
  const { cols, rows, cellPx, frames } = cells
  const made = cellsFromLabels(cellsFromRuns(frames[index] ?? '', cols * rows), cols, rows, cellPx)
  opened.set(key, made)
  return made
}
