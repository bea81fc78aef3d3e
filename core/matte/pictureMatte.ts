/** Where the pixels near a matte picture's edge lie: for mattes made elsewhere. */
import type { Rect } from '../image/rect'
import type { EdgeField } from './edge'

/** A matte as it was read: coverage 0 to 1 inside `rect`, nothing outside it. */
export interface ReadMatte {
  readonly rect: Rect
  readonly coverage: Float32Array
}

export interface PictureMatteField extends EdgeField {
  /** The matte's own coverage of each entry. */
  readonly given: Float32Array
}

/**
 * Lists the covered pixels of a matte and those within `marginPx` of its edge, where it passes one half.
 *
 * Distances are exact between pixel centres, by the lower envelope of parabolas.
 * Source: P. Felzenszwalb, D. Huttenlocher, "Distance transforms of sampled functions", 2012.
 */
export function measurePictureField(matte: ReadMatte, rect: Rect, marginPx: number): PictureMatteField {
  const { width, height } = rect
  const given = new Float32Array(width * height)
  for (let row = 0; row < height; row++) {
    const from = rect.row + row - matte.rect.row
    if (from < 0 || from >= matte.rect.height) continue
    for (let col = 0; col < width; col++) {
      const at = rect.col + col - matte.rect.col
      if (at >= 0 && at < matte.rect.width)
        given[row * width + col] = matte.coverage[from * matte.rect.width + at]!
    }
  }
  const outside = squaredDistances(given, width, height, (value) => value >= 0.5)
  const inside = squaredDistances(given, width, height, (value) => value < 0.5)
  const pixels: number[] = []
  const edges: number[] = []
  const values: number[] = []
  for (let pixel = 0; pixel < given.length; pixel++) {
    // The edge itself runs half a pixel from the nearest centre of the other kind.
    const edge = given[pixel]! >= 0.5 ? 0.5 - Math.sqrt(inside[pixel]!) : Math.sqrt(outside[pixel]!) - 0.5
    if (edge > marginPx && given[pixel] === 0) continue
    pixels.push(pixel)
    edges.push(edge)
    values.push(given[pixel]!)
  }
  return {
    count: pixels.length,
    pixels: Int32Array.from(pixels),
    edges: Float32Array.from(edges),
    given: Float32Array.from(values),
  }
}

const FAR = 1e12

function squaredDistances(
  values: Float32Array,
  width: number,
  height: number,
  isTarget: (value: number) => boolean,
): Float64Array {
  const out = Float64Array.from(values, (value) => (isTarget(value) ? 0 : FAR))
  const column = new Float64Array(height)
  for (let col = 0; col < width; col++) {
    for (let row = 0; row < height; row++) column[row] = out[row * width + col]!
    const done = lowerEnvelope(column)
    for (let row = 0; row < height; row++) out[row * width + col] = done[row]!
  }
  for (let row = 0; row < height; row++)
    out.set(lowerEnvelope(out.subarray(row * width, (row + 1) * width)), row * width)
  return out
}

function lowerEnvelope(f: Float64Array): Float64Array {
  const n = f.length
  const vertices = new Int32Array(n)
  const bounds = new Float64Array(n + 1)
  let k = 0
  bounds[0] = -Infinity
  bounds[1] = Infinity
  for (let q = 1; q < n; q++) {
    let s: number
    for (;;) {
      const v = vertices[k]!
      s = (f[q]! + q * q - (f[v]! + v * v)) / (2 * q - 2 * v)
      if (s > bounds[k]!) break
      k--
    }
    k++
    vertices[k] = q
    bounds[k] = s
    bounds[k + 1] = Infinity
  }
  const out = new Float64Array(n)
  k = 0
  for (let q = 0; q < n; q++) {
    while (bounds[k + 1]! < q) k++
    const v = vertices[k]!
    out[q] = Math.min((q - v) * (q - v) + f[v]!, FAR)
  }
  return out
}
