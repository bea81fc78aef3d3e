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
  /** 1 for each column whose rim lies inside the full picture, else 0. */
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

/**
 * Samples both sides.
 *
 * @param rimPx  From the area's edge to the rim, where the plate begins to be trusted.
 * @param rows     How many px outwards.
 * @returns Left is against the direction looked along, right is along it.
 */
export function sampleSides(
  picture: Raster,
  rect: Rect,
  pictureSize: Size,
  curve: PathCurve,
  directionAt: DirectionAt,
  rimPx: number,
  rows: number,
): { readonly left: Side; readonly right: Side } {
  const columns = columnsOf(curve)
  const positions = { left: new Float32Array(columns * rows * 2), right: new Float32Array(columns * rows * 2) }
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
      isSeen[side][column] = rimX >= 0 && rimY >= 0 && rimX <= pictureSize.width && rimY <= pictureSize.height ? 1 : 0
    }
  }
  const read = (side: 'left' | 'right'): Side => {
    const strip = { width: columns, height: rows, channels: picture.channels, data: new Float32Array(columns * rows * picture.channels) }
    withKernelMemory(picture.data.byteLength + positions[side].byteLength + strip.data.byteLength, (scope) =>
      sampleManyInto(strip.data, picture, positions[side], 'bicubic', scope),
    )
    const smoothed = SMOOTH_PX.slice(1).map((sigmaPx) => convolveSeparable(strip, gaussianTaps(sigmaPx), [1]))
    return { levels: [strip, ...smoothed], isSeen: isSeen[side] }
  }
  return { left: read('left'), right: read('right') }
}

/** Columns of a strip: one at every whole px along the path, its end included. */
export const columnsOf = (curve: PathCurve): number => Math.max(2, Math.ceil(curve.lengthPx) + 1)

/**
 * One place of a side, all channels: along the path at `arc`, `row` px outwards, seen with a view
 * `smoothPx` wide. Adds `factor` times the values to `target`.
 */
export function addFromSide(target: Float64Array, { levels }: Side, arc: number, row: number, smoothPx: number, factor: number): void {
  let level = 0
  while (level + 2 < SMOOTH_PX.length && SMOOTH_PX[level + 1]! < smoothPx) level++
  const width = Math.min(smoothPx, SMOOTH_PX[SMOOTH_PX.length - 1]!)
  const f = (width - SMOOTH_PX[level]!) / (SMOOTH_PX[level + 1]! - SMOOTH_PX[level]!)
  addFromStrip(target, levels[level]!, arc, row, factor * (1 - f))
  if (f > 0) addFromStrip(target, levels[level + 1]!, arc, row, factor * f)
}

function addFromStrip(target: Float64Array, { width, height, channels, data }: Raster, arc: number, row: number, factor: number): void {
  const u = Math.min(Math.max(arc, 0), width - 1)
  const v = Math.min(Math.max(row, 0), height - 1)
  const col = Math.min(Math.floor(u), width - 2)
  const top = Math.min(Math.floor(v), Math.max(height - 2, 0))
  const fu = u - col
  const fv = v - top
  let at = (top * width + col) * channels
  if (fv === 0) {
    for (let channel = 0; channel < channels; channel++, at++) target[channel]! += factor * (data[at]! + fu * (data[at + channels]! - data[at]!))
    return
  }
  const down = width * channels
  for (let channel = 0; channel < channels; channel++, at++) {
    const first = data[at]! + fu * (data[at + channels]! - data[at]!)
    const second = data[at + down]! + fu * (data[at + down + channels]! - data[at + down]!)
    target[channel]! += factor * (first + fv * (second - first))
  }
}
