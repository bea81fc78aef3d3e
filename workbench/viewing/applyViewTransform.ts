/** Lays a looking aid over what has been drawn of the picture. */
import {
  applyCurve,
  boostContrast,
  showChannel,
  showDifference,
  viewCurve,
  type ViewTransform,
} from '../../core/view/viewTransform'
import type { PanelSize, View } from '../picture/view'

/** How far around a place contrast is measured, px of the picture. */
const BOOST_RADIUS_PX = 36

/**
 * Works on the picture's part of the panel, as it is seen.
 * @param drawOther  Draws the frame that this one is compared with, in the same place.
 */
export function applyViewTransform(
  context: CanvasRenderingContext2D,
  panel: PanelSize,
  { scale, left, top }: View,
  picture: PanelSize,
  viewTransform: ViewTransform,
  drawOther: (context: CanvasRenderingContext2D) => boolean,
): void {
  const [col, row] = [Math.max(0, Math.floor(left)), Math.max(0, Math.floor(top))]
  const width = Math.min(panel.width, Math.ceil(left + picture.width * scale)) - col
  const height = Math.min(panel.height, Math.ceil(top + picture.height * scale)) - row
  if (width <= 0 || height <= 0) return
  const shown = context.getImageData(col, row, width, height)
  if (viewTransform.aid === 'boosted') boostContrast(shown, BOOST_RADIUS_PX * scale)
  else if (viewTransform.aid === 'red') showChannel(shown, 0)
  else if (viewTransform.aid === 'green') showChannel(shown, 1)
  else if (viewTransform.aid === 'blue') showChannel(shown, 2)
  else if (viewTransform.aid === 'neighbour' && drawOther(context))
    showDifference(shown, context.getImageData(col, row, width, height).data)
  const curve = viewCurve(viewTransform)
  if (curve) applyCurve(shown, curve)
  context.putImageData(shown, col, row)
}
