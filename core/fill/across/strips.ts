/**
 * The two sides of a path as straightened strips, in kernel memory. The loops are in `kernels/assembly/strips.ts`.
 *
 * A strip has one column for each px along the path and one row for each px outwards from the rim,
 * row 0 nearest, four floats a place. Copies smoothed along the path stand behind it, one for each level of `SMOOTH_PX`:
 * what a wide view of that side looks like.
 */
import { gaussianTaps } from '../../image/convolve'
import type { Rect, Size } from '../../image/rect'
import type { Raster } from '../../image/raster'
import { pathPointAt, type PathCurve } from '../../geometry/pathCurve'
import type { KernelScope } from '../../kernels/memory'
import { kernels } from '../../kernels/module'

/** Deviations of the smoothed copies; level 0 is the strip itself. The kernel has the same. */
export const SMOOTH_PX = [0, 1, 2, 4] as const
/** The level whose rims are compared with the other side's. */
export const MATCHED_LEVEL = 1
const PLACE_BYTES = 16
const COLUMN_NUMBERS = 5

/**
 * Direction looked along at one place of the path, and how steeply it crosses the path (u·n). It runs
 * for every column, so every call returns the same object with new values.
 */
export type DirectionAt = (tangentX: number, tangentY: number) => Direction

export interface Direction {
  x: number
  y: number
  crossing: number
}

/** One side of a path. */
export interface Side {
  /** Address of the strip; its smoothed copies follow. */
  readonly strips: number
  /** 1 for each column whose rim lies inside the full picture and is nobody else's, else 0. */
  readonly isSeen: Uint8Array
}

export interface Strips {
  readonly columns: number
  readonly rows: number
  readonly channels: number
  readonly left: Side
  readonly right: Side
}

/** What sides are read from. */
export interface StripSource {
  readonly picture: Raster
  /** Of each pixel of the rectangle, 0 where it may be read; null where all may. */
  readonly taboo: Uint8Array | null
  readonly rect: Rect
  readonly pictureSize: Size
  readonly curve: PathCurve
  /** From the area's edge to the rim, where the plate begins to be trusted. */
  readonly rimPx: number
  /** How many px outwards. */
  readonly rows: number
  readonly directionAt: DirectionAt
}

/** Columns of a strip: one at every whole px along the path, its end included. */
export const columnsOf = (curve: PathCurve): number => Math.max(2, Math.ceil(curve.lengthPx) + 1)

/** Bytes from one smoothed copy to the next. */
export const stripBytes = (columns: number, rows: number): number => columns * rows * PLACE_BYTES

/** Kernel memory that `readStrips` takes at most. */
export function stripMemory({ picture, taboo, curve, rows }: StripSource): number {
  const columns = columnsOf(curve)
  const strips = (2 * SMOOTH_PX.length + 1) * stripBytes(columns, rows)
  return (
    picture.data.byteLength + (taboo?.length ?? 0) + strips + columns * (8 * COLUMN_NUMBERS + rows) + 4096
  )
}

/**
 * Reads both sides. Places that `taboo` marks are not read: they are bridged along the path from those that are.
 * @returns Left is against the direction looked along, right is along it; both live as long as the scope.
 */
export function readStrips(source: StripSource, scope: KernelScope): Strips {
  const { picture, taboo, curve, rows } = source
  const columns = columnsOf(curve)
  const isSeen = { left: new Uint8Array(columns), right: new Uint8Array(columns) }
  const places = scope.pointerTo(placesOf(source, columns, isSeen))
  const from = scope.pointerTo(picture.data)
  scope.reserve(PLACE_BYTES) // the last pixel is read as four floats
  const mask = taboo ? scope.pointerTo(taboo) : 0
  const masked = scope.reserve(columns * rows)
  const read = (side: 'left' | 'right'): Side => {
    const strips = scope.reserve(SMOOTH_PX.length * stripBytes(columns, rows))
    const { width, height, channels } = picture
    // prettier-ignore
    const hasMasked = kernels().readStrip(
      from, width, height, channels, mask, places, columns, rows, side === 'left' ? -1 : 1, strips, masked,
    )
    if (hasMasked) {
      const marks = new Uint8Array(kernels().memory.buffer, masked, columns)
      for (let column = 0; column < columns; column++) if (marks[column] === 1) isSeen[side][column] = 0
      kernels().bridgeStrip(strips, masked, columns, rows)
    }
    smoothInto(strips, columns, rows, scope)
    return { strips, isSeen: isSeen[side] }
  }
  return { columns, rows, channels: picture.channels, left: read('left'), right: read('right') }
}

/** Where each column begins, and the way outwards; also which rims lie inside the full picture. */
function placesOf(
  { rect, pictureSize, curve, rimPx, directionAt }: StripSource,
  columns: number,
  isSeen: { readonly left: Uint8Array; readonly right: Uint8Array },
): Float64Array {
  const places = new Float64Array(COLUMN_NUMBERS * columns)
  const isInside = (x: number, y: number) =>
    x >= 0 && y >= 0 && x <= pictureSize.width && y <= pictureSize.height ? 1 : 0
  for (let column = 0; column < columns; column++) {
    const { x, y, widthPx, tangentX, tangentY } = pathPointAt(curve, column)
    const look = directionAt(tangentX, tangentY)
    // The first clean pixel centre lies half a pixel outside the rim.
    const rim = (widthPx / 2 + rimPx) / look.crossing + 0.5
    places.set([x - rect.col, y - rect.row, look.x, look.y, rim], COLUMN_NUMBERS * column)
    isSeen.left[column] = isInside(x - rim * look.x, y - rim * look.y)
    isSeen.right[column] = isInside(x + rim * look.x, y + rim * look.y)
  }
  return places
}

const taps = SMOOTH_PX.slice(1).map((sigmaPx) => gaussianTaps(sigmaPx))

function smoothInto(strips: number, columns: number, rows: number, scope: KernelScope): void {
  const bytes = stripBytes(columns, rows)
  taps.forEach((weights, i) => {
    const to = strips + (i + 1) * bytes
    kernels().convolveRows(strips, to, columns, rows, 4, scope.pointerTo(weights), (weights.length - 1) / 2)
  })
}
