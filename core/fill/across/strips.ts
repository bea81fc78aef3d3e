/**
 * The two sides of a path as straightened strips, in kernel memory. The loops are in `kernels/assembly/strips.ts`.
 *
 * A strip has one column for each px along the path and one row for each px outwards from the rim,
 * row 0 nearest, four floats a place. Copies smoothed along the path stand behind it, one for each level of `SMOOTH_PX`:
 * what a wide view of that side looks like.
 */
import { gaussianTaps } from '../../image/convolve'
import { pointerToPart, type Raster } from '../../image/raster'
import { cropSamples } from '../../image/samples'
import { growRect, intersectRects, rectAround, type Rect, type Size } from '../../image/rect'
import { pathPointAt, type PathCurve } from '../../geometry/pathCurve'
import { withKernelMemory, type KernelScope } from '../../kernels/memory'
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
    picture.data.byteLength + (taboo?.length ?? 0) + strips + columns * (8 * COLUMN_NUMBERS + 2 * rows) + 4096
  )
}

/**
 * Reads both sides. Places that `taboo` marks are not read: they are bridged along the path from those that are.
 * @returns Left is against the direction looked along, right is along it; both live as long as the scope.
 */
export function readStrips(source: StripSource, scope: KernelScope): Strips {
  const { picture, curve, rows } = source
  const columns = columnsOf(curve)
  const sides = [-1, 1].map((sign) => ({
    sign,
    strips: scope.reserve(SMOOTH_PX.length * stripBytes(columns, rows)),
    masked: scope.reserve(columns * rows),
    isSeen: new Uint8Array(columns),
    hasMasked: false,
  })) as [OpenSide, OpenSide]
  const places = placesOf(source, columns, sides)
  const at = scope.pointerTo(places)
  for (let begin = 0; begin < columns; begin += COLUMNS_AT_ONCE) {
    const end = Math.min(begin + COLUMNS_AT_ONCE, columns)
    withKernelMemory(0, (inner) => readColumns(source, places, at, begin, end, sides, inner))
  }
  const [left, right] = sides.map((side) => closeSide(side, columns, rows, scope)) as [Side, Side]
  return { columns, rows, channels: picture.channels, left, right }
}

interface OpenSide {
  readonly sign: number
  readonly strips: number
  readonly masked: number
  readonly isSeen: Uint8Array
  hasMasked: boolean
}

/** A path that runs aslant has far more picture in its box than beside it: it is read piece by piece. */
const COLUMNS_AT_ONCE = 128

function readColumns(
  { picture, taboo, rect, rows }: StripSource,
  places: Float64Array,
  at: number,
  begin: number,
  end: number,
  sides: readonly OpenSide[],
  scope: KernelScope,
): void {
  const columns = places.length / COLUMN_NUMBERS
  const size = { width: rect.width, height: rect.height }
  const part = partAround(places, begin, end, rows, size)
  const from = pointerToPart(picture, part, scope)
  scope.reserve(PLACE_BYTES) // the last pixel is read as four floats
  const mask = taboo ? scope.pointerTo(cropSamples({ ...size, channels: 1, data: taboo }, part).data) : 0
  for (const side of sides) {
    // prettier-ignore
    const hasMasked = kernels().readStrip(
      from, part.col, part.row, part.width, part.height, picture.channels, mask, at, begin, end, columns, rows,
      side.sign, side.strips, side.masked,
    )
    side.hasMasked ||= hasMasked
  }
}

/** All that is read for some columns, in px of the rectangle and inside of it. */
function partAround(
  places: Float64Array,
  begin: number,
  end: number,
  rows: number,
  { width, height }: Size,
): Rect {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let column = begin; column < end; column++) {
    const from = column * COLUMN_NUMBERS
    const reach = places[from + 4]! + rows
    const [x, y] = [places[from]!, places[from + 1]!]
    const [dx, dy] = [Math.abs(places[from + 2]!) * reach, Math.abs(places[from + 3]!) * reach]
    left = Math.min(left, x - dx)
    right = Math.max(right, x + dx)
    top = Math.min(top, y - dy)
    bottom = Math.max(bottom, y + dy)
  }
  const whole = { col: 0, row: 0, width, height }
  const around = rectAround(left, top, right, bottom)
  // What lies wholly outside is read at the nearest edge.
  return intersectRects(growRect(around, BETWEEN_PX), whole) ?? whole
}

/** Reading between pixels, and masks beside them, look so far. */
const BETWEEN_PX = 4

/** A side that has been read: bridged, smoothed, with what of it is seen. */
function closeSide(side: OpenSide, columns: number, rows: number, scope: KernelScope): Side {
  const { strips, masked, isSeen, hasMasked } = side
  if (hasMasked) {
    const marks = new Uint8Array(kernels().memory.buffer, masked, columns)
    for (let column = 0; column < columns; column++) if (marks[column] === 1) isSeen[column] = 0
    kernels().bridgeStrip(strips, masked, columns, rows)
  }
  smoothInto(strips, columns, rows, scope)
  return { strips, isSeen }
}

/** Where each column begins, and the way outwards; also which rims lie inside the full picture. */
function placesOf(
  { rect, pictureSize, curve, rimPx, directionAt }: StripSource,
  columns: number,
  [left, right]: readonly [OpenSide, OpenSide],
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
    left.isSeen[column] = isInside(x - rim * look.x, y - rim * look.y)
    right.isSeen[column] = isInside(x + rim * look.x, y + rim * look.y)
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
