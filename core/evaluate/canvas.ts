/** The picture of a group of mends as it is being worked on. */
import type { FillInput } from '../fill/method'
import { cropRaster, type Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import {
  createSamples,
  cropSamples,
  maximumOf,
  rasterFromSamples,
  sampleFromFloat,
  samplesBytes,
  samplesFromFloatsInto,
  type Samples,
} from '../image/samples'
import { withKernelMemory } from '../kernels/memory'
import { runsOf } from '../image/runs'
import type { Patch } from './evaluatedFrame'

export interface Canvas {
  readonly rect: Rect
  /** As it was read. */
  readonly samples: Samples
  readonly picture: Raster
  /** Of each row piece by piece: not 0 where any pixel was changed. */
  readonly touched: Uint8Array
  /** How far each pixel is still there, 1 to 0; made when the first hole is cut. */
  alpha: Float32Array | null
  /** How far mends cover each pixel, 0 to 1; null where nobody asks. */
  readonly covered: Float32Array | null
  /** For each pixel, 1 where any mend has laid anything. */
  readonly mended: Uint8Array
}

/** Pixels of a row that are rounded together. */
const PIECE_PX = 32
const PIECE_SHIFT = 5
const piecesOf = (width: number): number => Math.ceil(width / PIECE_PX)

/** Floats of the last canvas: a new array of that size costs as much as filling it. */
let spare: Float32Array | null = null

/** A canvas over what was read of a rectangle. Whoever opens it closes it. */
export function openCanvas(rect: Rect, samples: Samples, tellsCovered = false): Canvas {
  const { width, height } = rect
  const length = samples.data.length
  const kept = spare !== null && spare.length >= length ? spare.subarray(0, length) : undefined
  if (kept) spare = null
  return {
    rect,
    samples,
    picture: rasterFromSamples(samples, kept),
    touched: new Uint8Array(piecesOf(width) * height),
    alpha: null,
    covered: tellsCovered ? new Float32Array(width * height) : null,
    mended: new Uint8Array(width * height),
  }
}

const MAX_SPARE_BYTES = 64 << 20

/** Nobody looks at it any more. */
export function closeCanvas({ picture: { data } }: Canvas): void {
  if (data.buffer.byteLength > MAX_SPARE_BYTES || (spare && spare.byteLength >= data.buffer.byteLength))
    return
  spare = new Float32Array(data.buffer)
}

/** What of the canvas lies in a rectangle. */
export const seenOn = ({ picture, rect }: Canvas, part: Rect): Raster =>
  cropRaster(picture, { ...part, col: part.col - rect.col, row: part.row - rect.row })

/** The same as it was read. */
export const plateOn = ({ samples, rect }: Canvas, part: Rect): Raster =>
  rasterFromSamples(cropSamples(samples, { ...part, col: part.col - rect.col, row: part.row - rect.row }))

/** Lays finished values over the picture by their coverage. @param coverage  For each entry of the field, 0 to 1. */
export function layInto(
  canvas: Canvas,
  values: Float32Array,
  holes: Float32Array | null,
  coverage: ArrayLike<number>,
  { field, rect }: FillInput,
  share: number,
): void {
  const { picture, touched, covered, mended } = canvas
  const { channels, width, data } = picture
  const pieces = piecesOf(width)
  const [left, top] = [rect.col - canvas.rect.col, rect.row - canvas.rect.row]
  if (holes) canvas.alpha ??= new Float32Array(width * picture.height).fill(1)
  for (let i = 0; i < field.count; i++) {
    const weight = coverage[i]! * share
    if (weight === 0) continue
    const run =
      weight === 1 && !canvas.alpha && !covered ? wholeRun(field.pixels, coverage, share, i, rect.width) : 1
    const row = (field.pixels[i]! / rect.width) | 0
    const col = field.pixels[i]! - row * rect.width + left
    const pixel = (row + top) * width + col
    const from = (row + top) * pieces
    for (let piece = col >> PIECE_SHIFT; piece <= (col + run - 1) >> PIECE_SHIFT; piece++)
      touched[from + piece] = 1
    mended.fill(1, pixel, pixel + run)
    if (run > 1) {
      data.set(values.subarray(i * channels, (i + run) * channels), pixel * channels)
      i += run - 1
      continue
    }
    const hole = holes ? holes[i]! : 0
    const [at, value] = [pixel * channels, i * channels]
    for (let c = 0; c < channels; c++)
      data[at + c] = data[at + c]! + weight * (values[value + c]! - data[at + c]!)
    if (covered) covered[pixel] = covered[pixel]! + weight * (1 - covered[pixel]!)
    // Cut away, or covered again by a mend that comes later.
    if (canvas.alpha) canvas.alpha[pixel] = canvas.alpha[pixel]! + weight * (1 - hole - canvas.alpha[pixel]!)
  }
}

/** How many entries from `i` on lie beside each other in one line and are covered whole: they are taken over as they are. */
function wholeRun(
  pixels: Int32Array,
  coverage: ArrayLike<number>,
  share: number,
  i: number,
  width: number,
): number {
  const most = Math.min(pixels.length - i, width - (pixels[i]! % width))
  let run = 1
  while (run < most && pixels[i + run] === pixels[i]! + run && coverage[i + run]! * share === 1) run++
  return run
}

/** A rectangle of a canvas as one placement has left it. */
export interface Laid {
  readonly rect: Rect
  readonly picture: Raster
  readonly alpha: Float32Array | null
  readonly mended: Uint8Array
}

/** What lies in a rectangle of the canvas now. */
export function takeLaid(canvas: Canvas, rect: Rect): Laid {
  const { alpha, mended, rect: whole } = canvas
  return {
    rect,
    picture: seenOn(canvas, rect),
    alpha: alpha && planeOf(alpha, whole, rect),
    mended: planeOf(mended, whole, rect),
  }
}

/** Puts back what `takeLaid` took: all beneath it must be as it was then. */
export function putLaid(canvas: Canvas, { rect, picture, alpha, mended }: Laid): void {
  const [left, top] = [rect.col - canvas.rect.col, rect.row - canvas.rect.row]
  const { width, height, channels, data } = canvas.picture
  const pieces = piecesOf(width)
  if (alpha) canvas.alpha ??= new Float32Array(width * height).fill(1)
  for (let row = 0; row < rect.height; row++) {
    const [from, to] = [row * rect.width, (top + row) * width + left]
    data.set(picture.data.subarray(from * channels, (from + rect.width) * channels), to * channels)
    if (alpha) canvas.alpha!.set(alpha.subarray(from, from + rect.width), to)
    canvas.mended.set(mended.subarray(from, from + rect.width), to)
    const begin = (top + row) * pieces
    canvas.touched.fill(
      1,
      begin + (left >> PIECE_SHIFT),
      begin + ((left + rect.width - 1) >> PIECE_SHIFT) + 1,
    )
  }
}

/** Back to samples: rounded where a mend has been. What it has not touched in between goes there and back, which returns every sample. */
export function roundTouched(canvas: Canvas, writeRect: Rect): Patch {
  const { samples, picture, touched, alpha, rect: readRect } = canvas
  const { channels } = samples
  const pieces = piecesOf(readRect.width)
  const [left, top] = [writeRect.col - readRect.col, writeRect.row - readRect.row]
  const out = cropSamples(samples, { ...writeRect, col: left, row: top })
  for (let row = 0; row < writeRect.height; row++) {
    const marks = touched.subarray((top + row) * pieces, (top + row + 1) * pieces)
    for (let piece = marks.indexOf(1); piece >= 0;) {
      const untouched = marks.indexOf(0, piece)
      const past = untouched < 0 ? pieces : untouched
      const begin = Math.max(piece * PIECE_PX, left)
      const length = (Math.min(past * PIECE_PX, left + writeRect.width) - begin) * channels
      piece = untouched < 0 ? -1 : marks.indexOf(1, past)
      if (length <= 0) continue
      const from = ((top + row) * readRect.width + begin) * channels
      const to = (row * writeRect.width + begin - left) * channels
      withKernelMemory(samplesBytes(length), (scope) =>
        samplesFromFloatsInto(
          out.data.subarray(to, to + length),
          picture.data.subarray(from, from + length),
          scope,
        ),
      )
    }
  }
  return {
    rect: writeRect,
    samples: out,
    alpha: alpha && cutOf(alpha, readRect, writeRect, maximumOf(samples.data)),
    ...(canvas.covered ? { covered: planeOf(canvas.covered, readRect, writeRect) } : {}),
    mendedRuns: runsOf(planeOf(canvas.mended, readRect, writeRect)),
  }
}

/** A rectangle of a plane of the canvas. */
function planeOf<Plane extends Float32Array | Uint8Array>(plane: Plane, whole: Rect, rect: Rect): Plane {
  const out = new (plane.constructor as new (length: number) => Plane)(rect.width * rect.height)
  for (let row = 0; row < rect.height; row++) {
    const from = (row + rect.row - whole.row) * whole.width + rect.col - whole.col
    out.set(plane.subarray(from, from + rect.width), row * rect.width)
  }
  return out
}

/** How far each pixel is still there, as samples of one channel. */
function cutOf(alpha: Float32Array, readRect: Rect, writeRect: Rect, maximum: number): Samples {
  const { width, height } = writeRect
  const cut = createSamples(width, height, 1, maximum === 255 ? 8 : 16)
  for (let row = 0; row < height; row++) {
    let pixel = (writeRect.row - readRect.row + row) * readRect.width + writeRect.col - readRect.col
    for (let col = 0; col < width; col++, pixel++)
      cut.data[row * width + col] = sampleFromFloat(alpha[pixel]!, maximum)
  }
  return cut
}
