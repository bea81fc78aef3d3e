import { uniteRects, wholePicture, type Rect, type Size } from '../../core/image/rect'
import type { Mended } from '../preview/mendedPieces'
import type { PanelSize, View } from '../picture/view'

/** The pieces in which a mend lies on a frame; null where it lies in none. */
export function regionOfMend(mended: Mended | null, mendId: string | null): Rect | null {
  const places = mended?.measures.filter((one) => one.mendId === mendId) ?? []
  const rects = (mended?.patches ?? [])
    .map(({ col, row, samples: { width, height } }) => ({ col, row, width, height }))
    .filter(({ col, row, width, height }) => places.some(({ x, y }) => x >= col && y >= row && x <= col + width && y <= row + height)) // prettier-ignore
  return rects.length === 0 ? null : rects.reduce(uniteRects)
}

/** The part of the picture that the panel shows; null where that is nothing. */
export function regionInView({ scale, left, top }: View, panel: PanelSize, picture: Size): Rect | null {
  if (!(scale > 0)) return null
  const whole = wholePicture(picture)
  const [col, row] = [Math.max(0, Math.floor(-left / scale)), Math.max(0, Math.floor(-top / scale))]
  const right = Math.min(whole.width, Math.ceil((panel.width - left) / scale))
  const bottom = Math.min(whole.height, Math.ceil((panel.height - top) / scale))
  return right > col && bottom > row ? { col, row, width: right - col, height: bottom - row } : null
}
