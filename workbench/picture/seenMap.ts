import { MATTE_FULL } from '../../core/evaluate/evaluatedFrame'
import type { Rect } from '../../core/image/rect'
import type { Mended } from '../preview/mendedPieces'

type SeenMap = Mended['seenMaps'][number]

const MAX_SHADES = 12 // frames from which on a pixel counts as well seen
const HATCH_PX = 4
/** No skin is so blue. */
const TINT = [70, 120, 255] as const
const TINT_ALPHA = 150

/**
 * How often other frames saw each pixel, in greys: white often, dark once; hatched where none did. A matte is white where it covers.
 * Drawn in picture px, over what is there.
 * @param isOver  A matte tints the picture instead of hiding it.
 */
export function drawSeenMap(
  context: CanvasRenderingContext2D,
  { rect, seen, isMatte }: SeenMap,
  isOver: boolean,
): void {
  const image = new ImageData(rect.width, rect.height)
  for (let pixel = 0; pixel < seen.length; pixel++) {
    const frames = seen[pixel]!
    if (frames < 0) continue
    if (isMatte) {
      setShare(image.data, pixel, frames / MATTE_FULL, isOver)
      continue
    }
    image.data[4 * pixel + 3] = 255
    const isHatch = (Math.floor(pixel / rect.width) + (pixel % rect.width)) % (2 * HATCH_PX) < HATCH_PX
    const shade = frames === 0 ? (isHatch ? 0 : 255) : 40 + (190 * Math.min(frames, MAX_SHADES)) / MAX_SHADES
    image.data.fill(shade, 4 * pixel, 4 * pixel + 3)
  }
  drawImage(context, image, rect)
}

/** Shares of 0 to 1, a rectangle of them: white where 1. @param isOver  They tint the picture instead of hiding it. */
export function drawShares(
  context: CanvasRenderingContext2D,
  rect: Rect,
  shares: Float32Array,
  isOver: boolean,
): void {
  const image = new ImageData(rect.width, rect.height)
  for (let pixel = 0; pixel < shares.length; pixel++) setShare(image.data, pixel, shares[pixel]!, isOver)
  drawImage(context, image, rect)
}

function setShare(to: Uint8ClampedArray, pixel: number, share: number, isOver: boolean): void {
  const [at, grey] = [4 * pixel, 255 * share]
  to[at] = isOver ? TINT[0] : grey
  to[at + 1] = isOver ? TINT[1] : grey
  to[at + 2] = isOver ? TINT[2] : grey
  to[at + 3] = isOver ? TINT_ALPHA * share : 255
}

function drawImage(
  context: CanvasRenderingContext2D,
  image: ImageData,
  { width, height, col, row }: Rect,
): void {
  const canvas = new OffscreenCanvas(width, height)
  canvas.getContext('2d')!.putImageData(image, 0, 0)
  context.drawImage(canvas, col, row)
}
