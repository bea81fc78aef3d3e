/** Turned squares of a picture, brought to a fixed size by our own sampling: the same everywhere, to the bit. */
import { apply, type Matrix3, type Place } from '../geometry/transform'
import type { Raster } from '../image/raster'
import { warpProjective } from '../image/sample'
import { shrink } from '../image/shrink'

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
  const corner = placeIn(square, 0, 0)
  const [across, down] = [square.sidePx * square.right.x, square.sidePx * square.right.y].map((one) => one / size / by) as [number, number] // prettier-ignore
  const pictureFromSquare: Matrix3 = [across, -down, corner.x / by, down, across, corner.y / by, 0, 0, 1]
  const { channels, data } = warpProjective(
    small,
    pictureFromSquare,
    { width: size, height: size },
    'bilinear',
  )
  const out = new Float32Array(3 * size * size)
  const [black, white] = toRange
  for (let row = 0, i = 0; row < size; row++)
    for (let col = 0; col < size; col++, i++) {
      const { x, y } = apply(pictureFromSquare, col + 0.5, row + 0.5)
      const isIn = x >= 0 && y >= 0 && x <= small.width && y <= small.height
      for (let c = 0; c < 3; c++)
        out[3 * i + c] = black + (white - black) * (isIn ? data[i * channels + c]! : 0)
    }
  return out
}
