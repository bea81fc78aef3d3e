/** The picture of a straight view, read from an all-round one. */
import { createRaster, type Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import { sampleManyInto } from '../image/sample'
import {
  createSamples,
  pasteSamplesInto,
  rasterFromSamples,
  samplesFromRaster,
  type Samples,
} from '../image/samples'
import { withKernelMemory } from '../kernels/memory'
import type { PlateShape } from '../shot/clip'
import { onAllRound, type ViewMapping } from './straightView'

/** What the interpolation reads around a place, px. */
const AROUND_PX = 3

/**
 * A rectangle of a view of one frame: each pixel read between the pixels of the all-round picture by the interpolating cubic.
 * @param read  Reads whole pixels of the all-round picture. @param plate  Its shape.
 */
export async function straighten(
  mapping: ViewMapping,
  rect: Rect,
  plate: PlateShape,
  read: (rect: Rect) => Promise<Samples>,
): Promise<Samples> {
  const { width, height } = plate
  const count = rect.width * rect.height
  const places = new Float64Array(2 * count)
  const middle = onAllRound(
    mapping.directionAt(rect.col + rect.width / 2, rect.row + rect.height / 2),
    plate,
  ).x
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let i = 0; i < count; i++) {
    const x = rect.col + (i % rect.width) + 0.5
    const y = rect.row + ((i / rect.width) | 0) + 0.5
    const place = onAllRound(mapping.directionAt(x, y), plate)
    // Next to the others, across the seam if need be.
    const turned = place.x - width * Math.round((place.x - middle) / width)
    places[2 * i] = turned
    places[2 * i + 1] = place.y
    left = Math.min(left, turned)
    right = Math.max(right, turned)
    top = Math.min(top, place.y)
    bottom = Math.max(bottom, place.y)
  }
  // Around a pole it is all columns.
  const isWhole = right - left > width / 2
  const from = isWhole ? Math.floor(middle - width / 2) - AROUND_PX : Math.floor(left) - AROUND_PX
  const columns = isWhole ? width + 2 * AROUND_PX : Math.ceil(right) + AROUND_PX - from
  const first = Math.max(0, Math.floor(top) - AROUND_PX)
  const rows = Math.min(height, Math.ceil(bottom) + AROUND_PX) - first
  const picture = await readAround({ col: from, row: first, width: columns, height: rows }, plate, read)
  const positions = Float32Array.from(places, (at, i) => at - (i % 2 === 0 ? from : first))
  const out = createRaster(rect.width, rect.height, plate.channels)
  sampleInto(out.data, picture, positions)
  return samplesFromRaster(out, plate.bitDepth)
}

export function sampleInto(out: Float32Array, picture: Raster, positions: Float32Array): void {
  withKernelMemory(picture.data.byteLength + positions.byteLength + out.byteLength + 4096, (scope) =>
    sampleManyInto(out, picture, positions, 'bicubic', scope),
  )
}

/** Columns beyond the seam are those of the other side. */
async function readAround(
  { col, row, width, height }: Rect,
  plate: PlateShape,
  read: (rect: Rect) => Promise<Samples>,
): Promise<Raster> {
  const all = createSamples(width, height, plate.channels, plate.bitDepth)
  for (let done = 0; done < width;) {
    const at = (((col + done) % plate.width) + plate.width) % plate.width
    const some = Math.min(width - done, plate.width - at)
    const piece = await read({ col: at, row, width: some, height })
    pasteSamplesInto(all, piece, { col: done, row: 0, width: some, height })
    done += some
  }
  return rasterFromSamples(all)
}
