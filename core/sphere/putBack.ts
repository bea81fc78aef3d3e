/** What was mended in a straight view, back in the all-round picture it was taken from. */
import type { Patch } from '../evaluate/evaluatedFrame'
import { createRaster } from '../image/raster'
import type { Rect, Size } from '../image/rect'
import { maximumOf, rasterFromSamples, sampleFromFloat, type Samples } from '../image/samples'
import { cos, sin } from '../kernels/exact'
import { sampleInto } from './straighten'
import { onAllRound, type ViewMapping } from './straightView'

/**
 * Lays a patch of a view over an all-round frame, in place. Only what was filled is read between pixels, once: the plate of the view, which has
 * been read between pixels before, has no part in it. Where the patch covers nothing every sample stays.
 * @param patch  With its coverage. @param before  What lay in its rectangle before it was mended.
 * @returns The pixels that it covers, by their places in the frame.
 */
export function putBack(
  frame: Samples,
  mapping: ViewMapping,
  patch: Pick<Patch, 'rect' | 'samples' | 'covered'>,
  before: Samples,
): Int32Array {
  const { rect, samples, covered } = patch
  if (!covered) throw new RangeError('a patch that is put back must tell what it covers')
  const { width, height, channels, data } = frame
  const made = rasterFromSamples(samples)
  const plate = rasterFromSamples(before)
  // What was filled, times how far it covers; and how far that is.
  const filled = createRaster(rect.width, rect.height, channels + 1)
  for (let pixel = 0; pixel < covered.length; pixel++) {
    const share = covered[pixel]!
    for (let c = 0; c < channels; c++) {
      const at = pixel * channels + c
      filled.data[pixel * (channels + 1) + c] = made.data[at]! - (1 - share) * plate.data[at]!
    }
    filled.data[pixel * (channels + 1) + channels] = share
  }
  const { pixels, positions } = placesIn(mapping, patch, width, height)
  const read = new Float32Array(pixels.length * (channels + 1))
  sampleInto(read, filled, positions)
  const maximum = maximumOf(data)
  let count = 0
  const reached = new Int32Array(pixels.length)
  for (let i = 0; i < pixels.length; i++) {
    const from = i * (channels + 1)
    const share = Math.min(1, read[from + channels]!)
    if (share <= 0) continue
    reached[count++] = pixels[i]!
    for (let c = 0; c < channels; c++) {
      const at = pixels[i]! * channels + c
      data[at] = sampleFromFloat((1 - share) * (data[at]! / maximum) + read[from + c]!, maximum)
    }
  }
  return reached.subarray(0, count)
}

/** All pixels of an all-round picture that lie in a patch, and where in it. */
function placesIn(
  mapping: ViewMapping,
  { rect }: Pick<Patch, 'rect'>,
  width: number,
  height: number,
): { readonly pixels: Int32Array; readonly positions: Float32Array } {
  const headings = Array.from({ length: width }, (_, col) => 2 * Math.PI * ((col + 0.5) / width - 0.5))
  const [sinH, cosH] = [headings.map((heading) => sin(heading)), headings.map((heading) => cos(heading))]
  const { first, past } = rowsOf(mapping, rect, { width, height })
  const pixels: number[] = []
  const positions: number[] = []
  const place = new Float64Array(2)
  for (let row = first; row < past; row++) {
    const pitch = Math.PI * (0.5 - (row + 0.5) / height)
    const [up, level] = [sin(pitch), cos(pitch)]
    for (let col = 0; col < width; col++) {
      if (!mapping.placeOf(sinH[col]! * level, up, cosH[col]! * level, place)) continue
      const [x, y] = [place[0]! - rect.col, place[1]! - rect.row]
      if (x < 0 || y < 0 || x >= rect.width || y >= rect.height) continue
      pixels.push(row * width + col)
      positions.push(x, y)
    }
  }
  return { pixels: Int32Array.from(pixels), positions: Float32Array.from(positions) }
}

/** The rows that a rectangle of a view reaches: those of its border, and beyond them a pole that lies in it. */
function rowsOf(
  mapping: ViewMapping,
  { col, row, width, height }: Rect,
  size: Size,
): { readonly first: number; readonly past: number } {
  let [top, bottom] = [size.height, 0]
  const see = (x: number, y: number) => {
    const at = onAllRound(mapping.directionAt(x, y), size).y
    top = Math.min(top, at)
    bottom = Math.max(bottom, at)
  }
  for (let x = col; x <= col + width; x++) for (const y of [row, row + height]) see(x, y)
  for (let y = row; y <= row + height; y++) for (const x of [col, col + width]) see(x, y)
  const place = new Float64Array(2)
  const has = (up: 1 | -1) =>
    mapping.placeOf(0, up, 0, place) &&
    place[0]! >= col && place[0]! <= col + width && place[1]! >= row && place[1]! <= row + height // prettier-ignore
  return {
    first: has(1) ? 0 : Math.max(0, Math.floor(top) - 1),
    past: has(-1) ? size.height : Math.min(size.height, Math.ceil(bottom) + 1),
  }
}
