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
import { createRaster, type Raster } from '../image/raster'
import type { Rect } from '../image/rect'
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
 * @param result, plate  Of one rectangle, after and before. @param rect  Where it lies in the picture.
 * @param x, y      Where the upper left corner of the mark's picture lies in the picture, px.
 * @param coverage  How far each pixel of the rectangle was replaced, 0 to 1: what was not has no say.
 * @returns null where there is too little of the mark to tell.
 */
export function measureMarkLeft(
  result: Raster,
  plate: Raster,
  rect: Rect,
  { picture: mark, x, y }: { readonly picture: MarkPicture; readonly x: number; readonly y: number },
  coverage: Float32Array,
): MarkMeasure | null {
  const layer = layerAt(mark, rect, x, y)
  const clippedShare = clippedUnder(plate, layer, coverage)
  // Dense places are filled: nothing of the mark can be left there.
  const undone = coverage.map((one, pixel) => (opacityAt(layer, pixel) < DENSE ? one : 0))
  const changes = changesOf(result, layer)
  const edges = leftOf(result, changes, undone)
  if (!edges) return null
  const few = leftOf(inCells(result), inCells(changes), cellsOf(undone, rect.width, rect.height))
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
  for (let row = 0; row < rows * CELL_PX; row++) {
    for (let col = 0; col < cols * CELL_PX; col++) {
      const to = (Math.floor(row / CELL_PX) * cols + Math.floor(col / CELL_PX)) * channels
      for (let c = 0; c < channels; c++)
        out.data[to + c]! += data[(row * width + col) * channels + c]! / (CELL_PX * CELL_PX)
    }
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

/** What the differences to the right and downwards depend on: the mark, and its slope across and down. */
const TERMS = 3
const TRIANGLE = (TERMS * (TERMS + 1)) / 2

/** Least squares over all neighbours that were replaced, nearly whole. */
function leftOf(result: Raster, changes: Raster, coverage: Float32Array): Left | null {
  const { width, height, channels, data } = result
  const colours = changes.channels
  const normal = new Float64Array(TRIANGLE)
  const right = new Float64Array(TERMS)
  let places = 0
  const terms = new Float64Array(TERMS)
  const at = (col: number, row: number, c: number) => changes.data[(row * width + col) * colours + c]!
  const each = (visit: (difference: number) => void) => {
    for (let row = 1; row < height - 2; row++) {
      for (let col = 1; col < width - 2; col++) {
        if (!(coverage[row * width + col]! > 0.9)) continue
        for (const [stepX, stepY] of STEPS) {
          if (!(coverage[(row + stepY) * width + col + stepX]! > 0.9)) continue
          for (let c = 0; c < colours; c++) {
            terms[0] = at(col + stepX, row + stepY, c) - at(col, row, c)
            terms[1] =
              (at(col + stepX + 1, row + stepY, c) -
                at(col + stepX - 1, row + stepY, c) -
                at(col + 1, row, c) +
                at(col - 1, row, c)) /
              2
            terms[2] =
              (at(col + stepX, row + stepY + 1, c) -
                at(col + stepX, row + stepY - 1, c) -
                at(col, row + 1, c) +
                at(col, row - 1, c)) /
              2
            if (Math.abs(terms[0]) + Math.abs(terms[1]) + Math.abs(terms[2]) < MIN_STEP) continue
            const from = (row * width + col) * channels + c
            visit(data[from + (stepY * width + stepX) * channels]! - data[from]!)
          }
        }
      }
    }
  }
  each((difference) => {
    places++
    for (let i = 0, k = 0; i < TERMS; i++) {
      right[i]! += terms[i]! * difference
      for (let j = i; j < TERMS; j++, k++) normal[k]! += terms[i]! * terms[j]!
    }
  })
  if (places < MIN_PLACES) return null
  const found = solveSymmetric(normal, Array.from(right))
  if (!found) return null
  const own = [normal[0]!, normal[TERMS]!, normal[2 * TERMS - 1]!]
  const spread = new Float64Array(TERMS)
  // Variances need what is left over, and so a second pass.
  each((difference) => {
    let rest = difference
    for (let i = 0; i < TERMS; i++) rest -= found[i]! * terms[i]!
    for (let i = 0; i < TERMS; i++) spread[i]! += terms[i]! * terms[i]! * rest * rest
  })
  const deviations = own.map((one, i) => (ALIKE * Math.sqrt(spread[i]!)) / Math.max(1e-12, one))
  const offPx = Math.sqrt(found[1]! * found[1]! + found[2]! * found[2]!)
  return {
    left: found[0]!,
    leftSure: Math.abs(found[0]!) / deviations[0]!,
    offPx,
    offSure: offPx / Math.max(deviations[1]!, deviations[2]!),
  }
}

const STEPS = [
  [1, 0],
  [0, 1],
] as const
