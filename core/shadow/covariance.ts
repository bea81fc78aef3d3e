/** Small symmetric matrices as their upper triangles, row by row, and the spread of colours. */
import type { Raster } from '../image/raster'

export type Symmetric = Float64Array

/** How the channels vary together over some pixels. @param floor  Added to each channel's own variance. */
export function covarianceOf({ data, channels }: Raster, pixels: Int32Array, floor: number): Symmetric {
  const means = new Float64Array(channels)
  for (const pixel of pixels)
    for (let c = 0; c < channels; c++) means[c]! += data[pixel * channels + c]! / pixels.length
  const out = new Float64Array((channels * (channels + 1)) / 2)
  for (const pixel of pixels) {
    for (let a = 0, at = 0; a < channels; a++) {
      const off = data[pixel * channels + a]! - means[a]!
      for (let b = a; b < channels; b++, at++)
        out[at]! += (off * (data[pixel * channels + b]! - means[b]!)) / pixels.length
    }
  }
  for (let a = 0, at = 0; a < channels; at += channels - a, a++) out[at]! += floor
  return out
}

/** Matrix times vector. */
export function product(matrix: Symmetric, vector: ArrayLike<number>): number[] {
  const size = vector.length
  const out = new Array<number>(size).fill(0)
  for (let a = 0, at = 0; a < size; a++) {
    for (let b = a; b < size; b++, at++) {
      out[a]! += matrix[at]! * vector[b]!
      if (a !== b) out[b]! += matrix[at]! * vector[a]!
    }
  }
  return out
}
