/** Other frames without a layer of the scene: what goes in front of the places that are looked for there as well. */
import { CELL_BYTES, layerAt, NO_LAYER, type LayerMap } from '../scene/layerMap'
import type { Rect } from '../image/rect'
import type { GatherFrame } from './places'

/**
 * The layer that most of some pixels show, where it passes in front of another one; null where they show what nothing lies behind.
 * @param pixels  Of the crop `rect`.
 */
export function frontLayer(map: LayerMap | null, pixels: Int32Array, rect: Rect): number | null {
  if (!map) return null
  const counts = new Int32Array(NO_LAYER + 1)
  for (const pixel of pixels) {
    const down = (pixel / rect.width) | 0
    counts[layerAt(map, rect.col + (pixel - down * rect.width) + 0.5, rect.row + down + 0.5)]!++
  }
  let best = 0
  for (let layer = 1; layer < NO_LAYER; layer++) if (counts[layer]! > counts[best]!) best = layer
  return counts[best]! > 0 && map.hiddenBy.some((front) => front.includes(best)) ? best : null
}

/** The frame with all places masked at or near which it shows a layer. */
export function withoutLayer(frame: GatherFrame, layer: number): GatherFrame {
  const { layerMap, rect } = frame
  if (!layerMap || layer > 7) return frame
  const { cellPx, firstCol, firstRow, cols, rows, cells } = layerMap
  const masked = frame.masked?.slice() ?? new Uint8Array(rect.width * rect.height)
  for (let row = 0; row < rect.height; row++) {
    const cellRow = Math.floor((rect.row + row) / cellPx) - firstRow
    if (cellRow < 0 || cellRow >= rows) continue
    for (let col = 0; col < rect.width; col++) {
      const cellCol = Math.floor((rect.col + col) / cellPx) - firstCol
      if (cellCol < 0 || cellCol >= cols) continue
      // The second byte: layers seen close by. What is in front looks narrower in its cells than it is.
      if ((cells[CELL_BYTES * (cellRow * cols + cellCol) + 1]! & (1 << layer)) !== 0)
        masked[row * rect.width + col] = 1
    }
  }
  return { ...frame, masked }
}
