/** Means around each place in which places have a say of their own. */
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createRaster, type Raster } from '../image/raster'

/** A wide window is laid over fewer, larger cells: its deviation in them is never less than this. */
const MIN_SIGMA_CELLS = 5
/** A window with less of a say than this share of a full one says nothing. */
const LEAST_SAY = 1e-4

/**
 * @param values  Any number of channels. @param say  How much each pixel counts, from 0. @param sigmaPx  Deviation of the Gaussian window, above 0.
 * @returns The means, and for each pixel how much say its window had, 0 to 1; where that is next to nothing, both are 0.
 */
export function localMean(
  values: Raster,
  say: Float32Array,
  sigmaPx: number,
): { readonly mean: Raster; readonly say: Float32Array } {
  const { width, height, channels } = values
  const cell = Math.max(1, Math.floor(sigmaPx / MIN_SIGMA_CELLS))
  const [cols, rows] = [Math.ceil(width / cell), Math.ceil(height / cell)]
  const sums = createRaster(cols, rows, channels + 1)
  const share = 1 / (cell * cell)
  for (let row = 0, pixel = 0; row < height; row++) {
    const line = Math.floor(row / cell) * cols
    for (let col = 0; col < width; col++, pixel++) {
      const weight = say[pixel]! * share
      if (weight === 0) continue
      const to = (line + Math.floor(col / cell)) * (channels + 1)
      for (let c = 0; c < channels; c++) sums.data[to + c]! += weight * values.data[pixel * channels + c]!
      sums.data[to + channels]! += weight
    }
  }
  const taps = gaussianTaps(sigmaPx / cell)
  const smooth = convolveSeparable(sums, taps, taps)
  const mean = createRaster(width, height, channels)
  const heard = new Float32Array(width * height)
  for (let row = 0, pixel = 0; row < height; row++) {
    const y = Math.min(Math.max((row + 0.5) / cell - 0.5, 0), rows - 1)
    const top = Math.min(Math.floor(y), Math.max(0, rows - 2))
    for (let col = 0; col < width; col++, pixel++) {
      const x = Math.min(Math.max((col + 0.5) / cell - 0.5, 0), cols - 1)
      const left = Math.min(Math.floor(x), Math.max(0, cols - 2))
      readInto(mean.data, heard, pixel, smooth, left, top, x - left, y - top)
    }
  }
  return { mean, say: heard }
}

function readInto(
  mean: Float32Array,
  heard: Float32Array,
  pixel: number,
  { width, height, channels: planes, data }: Raster,
  left: number,
  top: number,
  right: number,
  below: number,
): void {
  const channels = planes - 1
  const at = (top * width + left) * planes
  const across = left + 1 < width ? planes : 0
  const down = top + 1 < height ? width * planes : 0
  const read = (c: number) =>
    (1 - below) * ((1 - right) * data[at + c]! + right * data[at + across + c]!) +
    below * ((1 - right) * data[at + down + c]! + right * data[at + down + across + c]!)
  const weight = read(channels)
  if (weight < LEAST_SAY) return
  heard[pixel] = weight
  for (let c = 0; c < channels; c++) mean[pixel * channels + c] = read(c) / weight
}
