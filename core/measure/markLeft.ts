/**
 * What is left of a mark that was taken off, by the mark's own picture.
 *
 * Symbols: R the result, S what is really there, a the mark's opacity, b its colour times opacity, M = b − a S what the mark changes. Of a mark of which the share r is left,
 * and which lies d px beside its picture, R = S + r M + d ∇M. Ground knows nothing of the mark, so least squares of differences of R over those of M and of its
 * slopes tell r and d. Fine differences tell its edges, those of cells of a few px its ghost.
 * Source: common practice (least squares, with errors that allow for unequal variances: H. White, Econometrica 48, 1980).
 */
import type { MarkPicture } from '../image/markPicture'
import { layerOfMark } from '../image/markPicture'
import { sampleManyInto } from '../image/sample'
import { createRaster, cropRaster, type Raster } from '../image/raster'
import { growRect, intersectRects, rectAround, type Rect } from '../image/rect'
import { boxMeans } from '../image/windows'
import { solveSymmetric } from '../geometry/linear'
import { withKernelMemory } from '../kernels/memory'
import type { MarkMeasure } from './mendMeasure'

/** What lies under the mark is averaged over so much. */
const GROUND_RADIUS_PX = 6
const CELL_PX = 4
/** Fainter differences of the mark tell nothing. */
const MIN_STEP = 0.004
const MIN_PLACES = 40
/** Neighbours are alike, and count as fewer. */
const ALIKE = 2
const CLIPPED_FROM = 1 - 0.5 / 255
const FAINT = 0.05
const DENSE = 0.9

/**
 * @param wholeResult, plate  Of one rectangle, after and before. @param rect  Where it lies in the picture.
 * @param x, y      Where the upper left corner of the mark's picture lies in the picture, px.
 * @param wholeCoverage  How far each pixel of the rectangle was replaced, 0 to 1: what was not has no say.
 * @returns null where there is too little of the mark to tell.
 */
export function measureMarkLeft(
  wholeResult: Raster,
  plate: Raster,
  rect: Rect,
  { picture: mark, x, y }: { readonly picture: MarkPicture; readonly x: number; readonly y: number },
  wholeCoverage: Float32Array,
): MarkMeasure | null {
  // Only what is near the mark tells of it.
  const near = rectAround(x, y, x + mark.width, y + mark.height)
  const part = intersectRects(growRect(near, GROUND_RADIUS_PX + 2), rect)
  if (!part) return null
  const within = { ...part, col: part.col - rect.col, row: part.row - rect.row }
  const shown = cropRaster(wholeResult, within)
  const layer = layerAt(mark, part, x, y)
  const coverage = cropRaster({ ...rect, channels: 1, data: wholeCoverage }, within).data
  const clippedShare = clippedUnder(cropRaster(plate, within), layer, coverage)
  // Dense places are filled: nothing of the mark can be left there.
  const undone = coverage.map((one, pixel) => (opacityAt(layer, pixel) < DENSE ? one : 0))
  const changes = changesOf(shown, layer)
  const edges = leftOf(shown, changes, undone)
  if (!edges) return null
  const few = leftOf(inCells(shown), inCells(changes), cellsOf(undone, part.width, part.height))
  return {
    ...edges,
    change: meanChange(changes),
    ghost: few ? few.left : null,
    ghostSure: few ? few.leftSure : 0,
    clippedShare,
  }
}

/** Colours times opacity and opacity at every pixel of a rectangle; nothing beyond the picture of the mark. */
function layerAt(mark: MarkPicture, { col, row, width, height }: Rect, x: number, y: number): Raster {
  const layer = layerOfMark(mark)
  const out = createRaster(width, height, layer.channels)
  const positions = new Float32Array(2 * width * height)
  for (let down = 0, at = 0; down < height; down++) {
    for (let across = 0; across < width; across++) {
      positions[at++] = col + across + 0.5 - x
      positions[at++] = row + down + 0.5 - y
    }
  }
  withKernelMemory(layer.data.byteLength + positions.byteLength + out.data.byteLength + 8192, (scope) =>
    sampleManyInto(out.data, layer, positions, 'bicubic', scope),
  )
  for (let pixel = 0; pixel < width * height; pixel++) {
    const [left, top] = [positions[2 * pixel]!, positions[2 * pixel + 1]!]
    if (left < 0 || top < 0 || left >= mark.width || top >= mark.height)
      out.data.fill(0, pixel * layer.channels, (pixel + 1) * layer.channels)
  }
  return out
}

const opacityAt = ({ channels, data }: Raster, pixel: number): number => data[(pixel + 1) * channels - 1]!

function clippedUnder(plate: Raster, layer: Raster, coverage: Float32Array): number {
  const { channels } = plate
  let [marked, clipped] = [0, 0]
  for (let pixel = 0; pixel < coverage.length; pixel++) {
    if (coverage[pixel]! <= 0 || opacityAt(layer, pixel) <= FAINT) continue
    marked++
    let isClipped = false
    for (let c = 0; c < channels; c++) isClipped ||= plate.data[pixel * channels + c]! >= CLIPPED_FROM
    if (isClipped) clipped++
  }
  return marked === 0 ? 0 : clipped / marked
}

/** What the mark changes at each pixel, the ground taken for as smooth as its means. Channels of the result that it has colours for. */
function changesOf(result: Raster, layer: Raster): Raster {
  const { width, height, channels, data } = result
  const colours = Math.min(channels, layer.channels - 1)
  const out = createRaster(width, height, colours)
  const size = width * height
  const known = new Float32Array(size).fill(1)
  const plane = new Float32Array(size)
  for (let c = 0; c < colours; c++) {
    for (let pixel = 0; pixel < size; pixel++) plane[pixel] = data[pixel * channels + c]!
    const means = boxMeans(plane, known, width, height, GROUND_RADIUS_PX, 0)
    for (let pixel = 0; pixel < size; pixel++) {
      const from = pixel * layer.channels
      out.data[pixel * colours + c] =
        layer.data[from + c]! - layer.data[from + layer.channels - 1]! * means[pixel]!
    }
  }
  return out
}

/** Mean size of what the mark changes, where it does. */
function meanChange({ channels, data }: Raster): number {
  let [sum, count] = [0, 0]
  for (let from = 0; from < data.length; from += channels) {
    let size = 0
    for (let c = 0; c < channels; c++) size += Math.abs(data[from + c]!) / channels
    if (size < MIN_STEP) continue
    sum += size
    count++
  }
  return count === 0 ? 0 : sum / count
}

/** Means of cells; what is left over at the right and lower edge is left out. */
function inCells(raster: Raster): Raster {
  const { width, channels, data } = raster
  const [cols, rows] = [Math.floor(width / CELL_PX), Math.floor(raster.height / CELL_PX)]
  const out = createRaster(cols, rows, channels)
  const share = 1 / (CELL_PX * CELL_PX)
  for (let row = 0; row < rows * CELL_PX; row++) {
    let from = row * width * channels
    let to = Math.floor(row / CELL_PX) * cols * channels
    for (let col = 0; col < cols; col++, to += channels)
      for (let k = 0; k < CELL_PX; k++)
        for (let c = 0; c < channels; c++) out.data[to + c]! += share * data[from++]!
  }
  return out
}

const cellsOf = (coverage: Float32Array, width: number, height: number): Float32Array =>
  inCells({ width, height, channels: 1, data: coverage }).data

interface Left {
  readonly left: number
  readonly leftSure: number
  readonly offPx: number
  readonly offSure: number
}

/** Of a difference to the right or downwards: what the mark changes between, its slope across, its slope down, and the difference itself. */
const VALUES = 4

/** Least squares over all neighbours that were replaced, nearly whole. */
function leftOf(result: Raster, changes: Raster, coverage: Float32Array): Left | null {
  const equations = equationsOf(result, changes, coverage)
  if (equations.length < VALUES * MIN_PLACES) return null
  let [aa, ab, ac, bb, bc, cc, ad, bd, cd] = [0, 0, 0, 0, 0, 0, 0, 0, 0]
  for (let i = 0; i < equations.length; i += VALUES) {
    const a = equations[i]!
    const b = equations[i + 1]!
    const c = equations[i + 2]!
    const d = equations[i + 3]!
    aa += a * a
    ab += a * b
    ac += a * c
    bb += b * b
    bc += b * c
    cc += c * c
    ad += a * d
    bd += b * d
    cd += c * d
  }
  const found = solveSymmetric([aa, ab, ac, bb, bc, cc], [ad, bd, cd])
  if (!found) return null
  const [left, acrossPx, downPx] = [found[0]!, found[1]!, found[2]!]
  // Variances need what is left over, and so a second pass.
  let [spreadA, spreadB, spreadC] = [0, 0, 0]
  for (let i = 0; i < equations.length; i += VALUES) {
    const a = equations[i]!
    const b = equations[i + 1]!
    const c = equations[i + 2]!
    const rest = equations[i + 3]! - left * a - acrossPx * b - downPx * c
    const square = rest * rest
    spreadA += a * a * square
    spreadB += b * b * square
    spreadC += c * c * square
  }
  const deviation = (spread: number, own: number) => (ALIKE * Math.sqrt(spread)) / Math.max(1e-12, own)
  const offPx = Math.sqrt(acrossPx * acrossPx + downPx * downPx)
  return {
    left,
    leftSure: Math.abs(left) / deviation(spreadA, aa),
    offPx,
    offSure: offPx / Math.max(deviation(spreadB, bb), deviation(spreadC, cc)),
  }
}

const { abs } = Math // looked up once: it runs for every neighbour

/** One for each colour of all neighbours to the right and below of which both were replaced, and something of the mark changes between them. */
function equationsOf(
  { width, height, channels, data }: Raster,
  { channels: colours, data: mark }: Raster,
  coverage: Float32Array,
): Float32Array {
  const out = new Float32Array(2 * VALUES * colours * width * height)
  const line = width * colours
  let length = 0
  for (let row = 1; row < height - 2; row++) {
    for (let pixel = row * width + 1; pixel < (row + 1) * width - 2; pixel++) {
      if (!(coverage[pixel]! > 0.9)) continue
      for (let way = 0; way < 2; way++) {
        const beside = way === 0 ? 1 : width
        if (!(coverage[pixel + beside]! > 0.9)) continue
        for (let c = 0; c < colours; c++) {
          const here = pixel * colours + c
          const there = here + beside * colours
          const change = mark[there]! - mark[here]!
          const across =
            (mark[there + colours]! -
              mark[there - colours]! -
              mark[here + colours]! +
              mark[here - colours]!) /
            2
          const down =
            (mark[there + line]! - mark[there - line]! - mark[here + line]! + mark[here - line]!) / 2
          if (abs(change) + abs(across) + abs(down) < MIN_STEP) continue
          out[length] = change
          out[length + 1] = across
          out[length + 2] = down
          out[length + 3] = data[(pixel + beside) * channels + c]! - data[pixel * channels + c]!
          length += VALUES
        }
      }
    }
  }
  return out.subarray(0, length)
}
