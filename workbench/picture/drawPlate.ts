import type { Size } from '../../core/image/rect'

/** Draws a plate's picture where the plate lies, in its px: the picture may be a proxy of half the size. */
export function drawPlate(
  context: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D,
  picture: ImageBitmap | HTMLCanvasElement,
  { width, height }: Size,
): void {
  context.drawImage(picture, 0, 0, width, height)
}
