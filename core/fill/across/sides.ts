/**
 * The two sides of a path as straightened strips.
 *
 * A strip has one column for each px along the path and one row for each px outwards from the rim,
 * row 0 nearest. Copies smoothed along the path stand beside it, one for each level of `SMOOTH_PX`: what
 * a wide view of that side looks like.
 */
import { convolveSeparable, gaussianTaps } from '../../image/convolve'
import type { Raster } from '../../image/raster'
import { sampleManyInto } from '../../image/sample'
import type { Rect, Size } from '../../image/rect'
import { pathPointAt, type PathCurve } from '../../geometry/pathCurve'
import { withKernelMemory } from '../../kernels/memory'

/** Deviations of the smoothed copies; level 0 is the strip itself. */
export const SMOOTH_PX = [0, 1, 2, 4] as const

export interface Side {
  readonly levels: readonly Raster[]
  /** 1 for each column whose rim lies inside the full picture and is nobody else's, else 0. */
  readonly isSeen: Uint8Array
}

/**
 * Direction looked along at one place of the path, and how steeply it crosses the path (u·n). It runs
 * per pixel, so every call returns the same object with new values.
 */
export type DirectionAt = (tangentX: number, tangentY: number) => Direction

export interface Direction {
  x: number
  y: number
  crossing: number
}

/** Reading between pixels looks this far. */
const FOOTPRINT_PX = 2

/**
 * Samples both sides. Places that `taboo` marks are not read: they are bridged along the path from those that are.
 *
 * @param taboo    Of each pixel of the rectangle, 0 where it may be read; null where all may.
 * @param rimPx  From the area's edge to the rim, where the plate begins to be trusted.
 * @param rows     How many px outwards.
 * @returns Left is against the direction looked along, right is along it.
 */
export function sampleSides(
  picture: Raster,
  taboo: Uint8Array | null,
  rect: Rect,
  pictureSize: Size,
  curve: PathCurve,
  directionAt: DirectionAt,
  rimPx: number,
  rows: number,
): { readonly left: Side; readonly right: Side } {
  const masked = taboo && widened(taboo, rect, FOOTPRINT_PX)
  const columns = columnsOf(curve)
  const positions = {
    left: new Float32Array(columns * rows * 2),
    right: new Float32Array(columns * rows * 2),
  }
  const isSeen = { left: new Uint8Array(columns), right: new Uint8Array(columns) }
  for (let column = 0; column < columns; column++) {
    const { x, y, widthPx, tangentX, tangentY } = pathPointAt(curve, column)
    const look = directionAt(tangentX, tangentY)
    // The first clean pixel centre lies half a pixel outside the rim.
    const rim = (widthPx / 2 + rimPx) / look.crossing + 0.5
    for (const [side, sign] of [
      ['left', -1],
      ['right', 1],
    ] as const) {
      for (let row = 0; row < rows; row++) {
        const at = (row * columns + column) * 2
        positions[side][at] = x + sign * (rim + row) * look.x - rect.col
        positions[side][at + 1] = y + sign * (rim + row) * look.y - rect.row
      }
      const [rimX, rimY] = [x + sign * rim * look.x, y + sign * rim * look.y]
      isSeen[side][column] =
        rimX >= 0 && rimY >= 0 && rimX <= pictureSize.width && rimY <= pictureSize.height ? 1 : 0
    }
  }
  const read = (side: 'left' | 'right'): Side => {
    const strip = {
      width: columns,
      height: rows,
      channels: picture.channels,
      data: new Float32Array(columns * rows * picture.channels),
    }
    withKernelMemory(picture.data.byteLength + positions[side].byteLength + strip.data.byteLength, (scope) =>
      sampleManyInto(strip.data, picture, positions[side], 'bicubic', scope),
    )
    if (masked) bridgeMasked(strip, positions[side], masked, rect, isSeen[side])
    const smoothed = SMOOTH_PX.slice(1).map((sigmaPx) => convolveSeparable(strip, gaussianTaps(sigmaPx), [1]))
    return { levels: [strip, ...smoothed], isSeen: isSeen[side] }
  }
  return { left: read('left'), right: read('right') }
}

/** A mask grown by so many px, square. */
function widened(mask: Uint8Array, { width, height }: Size, byPx: number): Uint8Array {
  const along = new Uint8Array(mask.length)
  for (let at = 0; at < mask.length; at++) {
    if (mask[at] === 0) continue
    const col = at % width
    along.fill(1, at - Math.min(byPx, col), at + Math.min(byPx, width - 1 - col) + 1)
  }
  const out = along.slice()
  for (let at = 0; at < along.length; at++) {
    if (along[at] === 0) continue
    const row = (at / width) | 0
    for (let to = Math.max(0, row - byPx); to <= Math.min(height - 1, row + byPx); to++)
      out[to * width + (at % width)] = 1
  }
  return out
}

/** Bridges shut places along each row of a strip, and marks the columns whose rim is shut as not seen. */
function bridgeMasked(
  { width: columns, height: rows, channels, data }: Raster,
  xy: Float32Array,
  masked: Uint8Array,
  rect: Rect,
  isSeen: Uint8Array,
): void {
  const isMasked = (at: number) => {
    const [col, row] = [Math.floor(xy[2 * at]!), Math.floor(xy[2 * at + 1]!)]
    return (
      col >= 0 && row >= 0 && col < rect.width && row < rect.height && masked[row * rect.width + col] === 1
    )
  }
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns;) {
      if (!isMasked(row * columns + column)) {
        column++
        continue
      }
      const begin = column
      while (column < columns && isMasked(row * columns + column)) column++
      if (row === 0) isSeen.fill(0, begin, column)
      const [before, after] = [begin - 1, column]
      if (before < 0 && after >= columns) continue // nothing of this row can be read
      for (let at = begin; at < column; at++) {
        const f = before < 0 ? 1 : after >= columns ? 0 : (at - before) / (after - before)
        const [a, b] = [
          (row * columns + Math.max(before, 0)) * channels,
          (row * columns + Math.min(after, columns - 1)) * channels,
        ]
        for (let channel = 0; channel < channels; channel++) {
          data[(row * columns + at) * channels + channel] =
            (1 - f) * data[a + channel]! + f * data[b + channel]!
        }
      }
    }
  }
}

/** Columns of a strip: one at every whole px along the path, its end included. */
export const columnsOf = (curve: PathCurve): number => Math.max(2, Math.ceil(curve.lengthPx) + 1)

/**
 * One place of a side, all channels: along the path at `arc`, `row` px outwards, seen with a view
 * `smoothPx` wide. Adds `factor` times the values to `target`.
 */
export function addFromSide(
  target: Float64Array,
  { levels }: Side,
  arc: number,
  row: number,
  smoothPx: number,
  factor: number,
): void {
  let level = 0
  while (level + 2 < SMOOTH_PX.length && SMOOTH_PX[level + 1]! < smoothPx) level++
  const width = Math.min(smoothPx, SMOOTH_PX[SMOOTH_PX.length - 1]!)
  const f = (width - SMOOTH_PX[level]!) / (SMOOTH_PX[level + 1]! - SMOOTH_PX[level]!)
  addFromStrip(target, levels[level]!, arc, row, factor * (1 - f))
  if (f > 0) addFromStrip(target, levels[level + 1]!, arc, row, factor * f)
}

function addFromStrip(
  target: Float64Array,
  { width, height, channels, data }: Raster,
  arc: number,
  row: number,
  factor: number,
): void {
  const u = Math.min(Math.max(arc, 0), width - 1)
  const v = Math.min(Math.max(row, 0), height - 1)
  const col = Math.min(Math.floor(u), width - 2)
  const top = Math.min(Math.floor(v), Math.max(height - 2, 0))
  const fu = u - col
  const fv = v - top
  let at = (top * width + col) * channels
  if (fv === 0) {
    for (let channel = 0; channel < channels; channel++, at++)
      target[channel]! += factor * (data[at]! + fu * (data[at + channels]! - data[at]!))
    return
  }
  const down = width * channels
  for (let channel = 0; channel < channels; channel++, at++) {
    const first = data[at]! + fu * (data[at + channels]! - data[at]!)
    const second = data[at + down]! + fu * (data[at + down + channels]! - data[at + down]!)
    target[channel]! += factor * (first + fv * (second - first))
  }
}
