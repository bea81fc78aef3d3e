/** What of the panel has to be drawn again: after a dab of a brush a small part, while the rest of the picture stays as it is. */
import { differingRect } from '../../core/image/samples'
import { growRect, rectAround, uniteRects, type Rect } from '../../core/image/rect'
import { isPlain } from '../../core/view/viewTransform'
import type { ShownPatch } from '../preview/mendedPieces'
import type { PictureDrawing } from './drawPicture'

/** A pixel of a reduced picture is an average that reaches so many px of the panel to each side, however much it is reduced. */
const AVERAGED_PX = 4

/** In px of the panel; of no size where nothing has changed, null where all has to be drawn. */
export function changedPart(before: PictureDrawing | null, now: PictureDrawing): Rect | null {
  if (!before || !isLocal(now) || !isAllElseSame(before, now)) return null
  const changed = changedBetween(before.pixels.mended?.patches ?? [], now.pixels.mended?.patches ?? [])
  if (!changed) return { col: 0, row: 0, width: 0, height: 0 }
  const { scale, left, top } = now.view
  const { col, row, width, height } = changed
  const [x, y] = [col * scale + left, row * scale + top]
  return growRect(rectAround(x, y, x + width * scale, y + height * scale), AVERAGED_PX)
}

/** Whether each pixel is only that of the plate or of a mended piece at its place. */
const isLocal = ({
  compare,
  viewTransform,
  isPlateShown,
  isFlipped,
  seenBy,
  mapView,
}: PictureDrawing): boolean =>
  compare.mode === 'off' &&
  isPlain(viewTransform) &&
  !isPlateShown &&
  !isFlipped &&
  !seenBy &&
  mapView === 'off'

const isAllElseSame = (
  { pixels: was, ...before }: PictureDrawing,
  { pixels, ...now }: PictureDrawing,
): boolean =>
  was.plate === pixels.plate &&
  (Object.keys(now) as (keyof typeof now)[]).every((name) => before[name] === now[name])

/** Where mended pieces differ, in px of the picture; null where they do not. */
export function changedBetween(before: readonly ShownPatch[], after: readonly ShownPatch[]): Rect | null {
  const rest = new Set(before)
  const changed: Rect[] = []
  for (const patch of after) {
    const was = before.find((one) => rest.has(one) && coverSame(one, patch))
    if (!was) changed.push(rectOf(patch))
    else {
      rest.delete(was)
      const within = differingRect(was.samples, patch.samples)
      if (within) changed.push({ ...within, col: patch.col + within.col, row: patch.row + within.row })
    }
  }
  for (const gone of rest) changed.push(rectOf(gone))
  return changed.length > 0 ? changed.reduce(uniteRects) : null
}

const rectOf = ({ col, row, samples: { width, height } }: ShownPatch): Rect => ({ col, row, width, height })

/** Pieces with holes are taken for changed: what they let through is not told. */
const coverSame = (one: ShownPatch, other: ShownPatch): boolean =>
  one.col === other.col &&
  one.row === other.row &&
  one.samples.width === other.samples.width &&
  one.samples.height === other.samples.height &&
  !one.hasHoles &&
  !other.hasHoles
