import { MATTE_FULL } from '../../core/evaluate/evaluatedFrame'
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
    image.data[4 * pixel + 3] = 255
    if (isMatte && isOver) {
      image.data.set([...TINT, (TINT_ALPHA * frames) / MATTE_FULL], 4 * pixel)
      continue
    }
    if (isMatte) {
      image.data.fill((255 * frames) / MATTE_FULL, 4 * pixel, 4 * pixel + 3)
      continue
    }
    const isHatch = (Math.floor(pixel / rect.width) + (pixel % rect.width)) % (2 * HATCH_PX) < HATCH_PX
    const shade = frames === 0 ? (isHatch ? 0 : 255) : 40 + (190 * Math.min(frames, MAX_SHADES)) / MAX_SHADES
    image.data.fill(shade, 4 * pixel, 4 * pixel + 3)
  }
  const canvas = new OffscreenCanvas(rect.width, rect.height)
  canvas.getContext('2d')!.putImageData(image, 0, 0)
  context.drawImage(canvas, rect.col, rect.row)
}
