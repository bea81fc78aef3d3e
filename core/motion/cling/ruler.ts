/**
 * A path's neighbourhood, straightened: one row for each step along the path, one column for each step across it.
 *
 * Row i lies at length i · ALONG_PX (from the path's start, which may be moved outwards); column j at
 * (j − middle) · ACROSS_PX from the centreline, above 0 to the right of the path's direction.
 */
import { pathPointAt, type PathCurve } from '../../geometry/pathCurve'
import type { Raster } from '../../image/raster'
import type { Rect, Size } from '../../image/rect'
import { sampleManyInto } from '../../image/sample'
import { withKernelMemory } from '../../kernels/memory'

export const ALONG_PX = 3
export const ACROSS_PX = 0.5

/** What was read of a frame, as floats, and where it lies in the picture. */
export interface View {
  readonly raster: Raster
  readonly rect: Rect
  readonly picture: Size
}

export interface Straightened {
  /** width: columns across; height: rows along; channels: those of the picture. */
  readonly raster: Raster
  readonly middle: number
  /** Length along the path at each row; below 0 and beyond its length where it was drawn out. */
  readonly arcs: Float64Array
  /** 1 for rows whose centre lies inside the picture. */
  readonly isSeen: Uint8Array
}

/**
 * @param reachPx  How far to either side. @param beyondPx  How far past both ends, straight on.
 */
export const straighten = (view: View, curve: PathCurve, reachPx: number, beyondPx: number): Straightened =>
  straightenBetween(view, curve, -beyondPx, curve.lengthPx + beyondPx, ALONG_PX, reachPx)

/** A stretch of a path, from one length to another, with rows of its own spacing. */
export function straightenBetween(
  { raster: read, rect, picture }: View,
  curve: PathCurve,
  fromPx: number,
  toPx: number,
  alongPx: number,
  reachPx: number,
): Straightened {
  const rows = Math.max(2, Math.floor((toPx - fromPx) / alongPx) + 1)
  const middle = Math.ceil(reachPx / ACROSS_PX)
  const columns = 2 * middle + 1
  const arcs = new Float64Array(rows)
  const isSeen = new Uint8Array(rows)
  const positions = new Float32Array(rows * columns * 2)
  for (let row = 0; row < rows; row++) {
    const arc = fromPx + row * alongPx
    arcs[row] = arc
    const { x, y, tangentX, tangentY } = placeAlong(curve, arc)
    isSeen[row] = x >= 0 && y >= 0 && x <= picture.width && y <= picture.height ? 1 : 0
    for (let column = 0; column < columns; column++) {
      const off = (column - middle) * ACROSS_PX
      const at = (row * columns + column) * 2
      positions[at] = x - tangentY * off - rect.col
      positions[at + 1] = y + tangentX * off - rect.row
    }
  }
  const raster: Raster = {
    width: columns,
    height: rows,
    channels: read.channels,
    data: new Float32Array(rows * columns * read.channels),
  }
  withKernelMemory(read.data.byteLength + positions.byteLength + raster.data.byteLength, (scope) =>
    sampleManyInto(raster.data, read, positions, 'bilinear', scope),
  )
  return { raster, middle, arcs, isSeen }
}

/** A place along a path, straight on past its ends. */
export function placeAlong(curve: PathCurve, arc: number) {
  const place = pathPointAt(curve, arc)
  const over = arc < 0 ? arc : arc > curve.lengthPx ? arc - curve.lengthPx : 0
  return over === 0
    ? place
    : { ...place, x: place.x + over * place.tangentX, y: place.y + over * place.tangentY }
}
