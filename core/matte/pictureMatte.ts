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
  const outside = squaredDistances(given, width, height, true)
  const inside = squaredDistances(given, width, height, false)
  const size = width * height
  const [pixels, edges, values] = [new Int32Array(size), new Float32Array(size), new Float32Array(size)]
  let count = 0
  for (let pixel = 0; pixel < size; pixel++) {
    // The edge itself runs half a pixel from the nearest centre of the other kind.
    const edge = given[pixel]! >= 0.5 ? 0.5 - Math.sqrt(inside[pixel]!) : Math.sqrt(outside[pixel]!) - 0.5
    if (edge > marginPx && given[pixel] === 0) continue
    pixels[count] = pixel
    edges[count] = edge
    values[count++] = given[pixel]!
  }
  return {
    count,
    pixels: pixels.slice(0, count),
    edges: edges.slice(0, count),
    given: values.slice(0, count),
  }
}

const FAR = 1e12

/** From every pixel to the nearest that is covered by half or more, or to the nearest that is not. */
function squaredDistances(
  values: Float32Array,
  width: number,
  height: number,
  toCovered: boolean,
): Float64Array {
  const out = new Float64Array(width * height)
  for (let pixel = 0; pixel < out.length; pixel++) out[pixel] = values[pixel]! >= 0.5 === toCovered ? 0 : FAR
  const longest = Math.max(width, height)
  const work = {
    f: new Float64Array(longest),
    vertices: new Int32Array(longest),
    bounds: new Float64Array(longest + 1),
  }
  for (let col = 0; col < width; col++) lowerEnvelope(out, col, width, height, work)
  for (let row = 0; row < height; row++) lowerEnvelope(out, row * width, 1, width, work)
  return out
}

interface EnvelopeWork {
  readonly f: Float64Array
  readonly vertices: Int32Array
  readonly bounds: Float64Array
}

/** Of one line of `count` values, `step` apart, in place. */
function lowerEnvelope(
  values: Float64Array,
  begin: number,
  step: number,
  count: number,
  { f, vertices, bounds }: EnvelopeWork,
): void {
  let isAlike = true
  for (let q = 0; q < count; q++) {
    f[q] = values[begin + q * step]!
    isAlike &&= f[q] === f[0]
  }
  // Nothing in it is nearer than itself.
  if (isAlike) return
  let k = 0
  vertices[0] = 0
  bounds[0] = -Infinity
  bounds[1] = Infinity
  for (let q = 1; q < count; q++) {
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
  k = 0
  for (let q = 0; q < count; q++) {
    while (bounds[k + 1]! < q) k++
    const v = vertices[k]!
    values[begin + q * step] = Math.min((q - v) * (q - v) + f[v]!, FAR)
  }
}
