/** Turned squares of a picture, brought to a fixed size by our own sampling: the same everywhere, to the bit. */
import { createRaster, type Raster } from '../image/raster'
import { sampleManyInto } from '../image/sample'
import { shrink } from '../image/shrink'
import { withKernelMemory } from '../kernels/memory'
import type { Place } from '../geometry/transform'

export interface TurnedSquare extends Place {
  readonly sidePx: number
  /** Its own direction to the right in the picture, of length 1. */
  readonly right: Place
}

/** Where a place of the square, 0 to 1 each way, lies in the picture. */
export function placeIn({ x, y, sidePx, right }: TurnedSquare, across: number, down: number): Place {
  const [a, b] = [sidePx * (across - 0.5), sidePx * (down - 0.5)]
  return { x: x + a * right.x - b * right.y, y: y + a * right.y + b * right.x }
}

/**
 * @param picture  At least three channels, of which the first three are read.
 * @param toRange  What 0 and 1 become. Outside the picture is black.
 * @returns Red, green, blue, row after row.
 */
export function squareOf(
  picture: Raster,
  square: TurnedSquare,
  size: number,
  toRange: readonly [number, number],
): Float32Array {
  // Several px to one are averaged first, or fine structure would turn into another.
  const by = Math.max(1, Math.floor(square.sidePx / size))
  const small = shrink(picture, by)
  const positions = new Float32Array(2 * size * size)
  for (let row = 0, i = 0; row < size; row++)
    for (let col = 0; col < size; col++, i += 2) {
      const { x, y } = placeIn(square, (col + 0.5) / size, (row + 0.5) / size)
      positions[i] = x / by
      positions[i + 1] = y / by
    }
  const read = createRaster(size, size, picture.channels)
  const bytes = small.data.byteLength + positions.byteLength + read.data.byteLength + 1024
  withKernelMemory(bytes, (scope) => sampleManyInto(read.data, small, positions, 'bilinear', scope))
  const out = new Float32Array(3 * size * size)
  const [black, white] = toRange
  for (let i = 0; i < size * size; i++) {
    const [x, y] = [positions[2 * i]!, positions[2 * i + 1]!]
    const isIn = x >= 0 && y >= 0 && x <= small.width && y <= small.height
    for (let c = 0; c < 3; c++)
      out[3 * i + c] = black + (white - black) * (isIn ? read.data[i * picture.channels + c]! : 0)
  }
  return out
}
