/** Frames made small: means of square cells of pixels, three channels, 0 to 1. */
import type { Raster } from '../../image/raster'
import { maximumOf, type Samples } from '../../image/samples'

export const CELL_CHANNELS = 3

/** Cells that the right or lower edge cuts off are left out. @param cellPx  1 or more. Grey is told thrice. */
export function cellMeans({ width, height, channels, data }: Samples, cellPx: number): Raster {
  const [cols, rows] = [Math.max(1, Math.floor(width / cellPx)), Math.max(1, Math.floor(height / cellPx))]
  const out = new Float32Array(cols * rows * CELL_CHANNELS)
  const scale = 1 / (maximumOf(data) * cellPx * cellPx)
  const [green, blue] = channels < 3 ? [0, 0] : [1, 2]
  for (let row = 0; row < rows; row++) {
    for (let line = 0; line < cellPx; line++) {
      let at = (row * cellPx + line) * width * channels
      for (let cell = row * cols * CELL_CHANNELS; cell < (row + 1) * cols * CELL_CHANNELS; cell += 3) {
        for (let k = 0; k < cellPx; k++, at += channels) {
          out[cell]! += data[at]!
          out[cell + 1]! += data[at + green]!
          out[cell + 2]! += data[at + blue]!
        }
      }
    }
  }
  for (let i = 0; i < out.length; i++) out[i]! *= scale
  return { width: cols, height: rows, channels: CELL_CHANNELS, data: out }
}
