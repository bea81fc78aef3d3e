/** A raster made smaller by a whole number, and values between its pixels. */
import { createRaster, type Raster } from './raster'

/** Each pixel is the mean of `by` × `by` pixels, of fewer at the right and lower edge. */
export function shrink(raster: Raster, by: number): Raster {
  if (by === 1) return raster
  const { width, height, channels, data } = raster
  const out = createRaster(Math.ceil(width / by), Math.ceil(height / by), channels)
  for (let row = 0, to = 0; row < height; row += by) {
    const rows = Math.min(by, height - row)
    for (let col = 0; col < width; col += by, to += channels) {
      const cols = Math.min(by, width - col)
      const share = 1 / (rows * cols)
      for (let down = 0; down < rows; down++) {
        let from = ((row + down) * width + col) * channels
        for (let right = 0; right < cols; right++)
          for (let c = 0; c < channels; c++) out.data[to + c]! += share * data[from++]!
      }
    }
  }
  return out
}

/**
 * Reads all channels of a raster that was shrunk, at a pixel of the larger one, bilinearly; beyond its edge the edge repeats.
 * @param col, row  Of the larger raster.
 */
export function readShrunkInto(
  out: Float32Array,
  { width, height, channels, data }: Raster,
  by: number,
  col: number,
  row: number,
): void {
  const x = Math.min(width - 1, Math.max(0, (col + 0.5) / by - 0.5))
  const y = Math.min(height - 1, Math.max(0, (row + 0.5) / by - 0.5))
  const [left, top] = [x | 0, y | 0]
  const [fx, fy] = [x - left, y - top]
  const a = (top * width + left) * channels
  const right = left + 1 < width ? channels : 0
  const below = top + 1 < height ? width * channels : 0
  const [w00, w10, w01, w11] = [(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy]
  for (let c = 0; c < channels; c++)
    out[c] =
      w00 * data[a + c]! +
      w10 * data[a + right + c]! +
      w01 * data[a + below + c]! +
      w11 * data[a + right + below + c]!
}
