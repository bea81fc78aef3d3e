/** Pictures of half the size, for the screen while it moves: of large footage, a quarter of the bytes. */
import type { Size } from '../image/rect'
import type { ScreenPicture } from './viewTransform'

/** From so many pixels on: the usual sizes below play from full samples. */
const LARGE_FROM_PX = 3_500_000

export const hasProxies = ({ width, height }: Size): boolean => width * height >= LARGE_FROM_PX

/** A proxy's size: a last line or column that has no pair is in none. */
export const proxySize = ({ width, height }: Size): Size => ({ width: width >> 1, height: height >> 1 })

/** Each pixel is the mean of four. Cost: one pass. */
export function halved({
  width,
  height,
  data,
}: ScreenPicture): ScreenPicture & { readonly data: Uint8ClampedArray<ArrayBuffer> } {
  const size = proxySize({ width, height })
  const out = new Uint8ClampedArray(size.width * size.height * 4)
  const down = 4 * width
  for (let row = 0, to = 0; row < size.height; row++) {
    for (let col = 0, at = 2 * row * down; col < size.width; col++, at += 8, to += 4) {
      const low = at + down
      out[to] = (data[at]! + data[at + 4]! + data[low]! + data[low + 4]! + 2) >> 2
      out[to + 1] = (data[at + 1]! + data[at + 5]! + data[low + 1]! + data[low + 5]! + 2) >> 2
      out[to + 2] = (data[at + 2]! + data[at + 6]! + data[low + 2]! + data[low + 6]! + 2) >> 2
      out[to + 3] = 255
    }
  }
  return { ...size, data: out }
}
