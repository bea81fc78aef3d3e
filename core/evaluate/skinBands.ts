/** What a mend of skin does to structure of each size, where it does anything. */
import { MATTE_FULL } from './evaluatedFrame'
import { evaluateFrame } from './evaluateFrame'
import { copyRectInto, cropSamples, rasterFromSamples } from '../image/samples'
import { bandEnergies, type BandEnergy } from '../measure/bandEnergies'
import { planFrame } from '../plan/planFrame'
import type { ShotDocument } from '../plan/shotDocument'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import type { Frame } from '../time'
import { intersectRects, wholePicture, type Rect } from '../image/rect'

/** @returns From fine to wide; none where the mend covers nothing of the frame. Null when it was stopped. */
export async function skinBands(
  document: ShotDocument,
  mendId: string,
  frame: Frame,
  clip: Clip,
  context: RunContext,
): Promise<BandEnergy[] | null> {
  // Nothing but this mend: what others do is none of its doing.
  const alone = { ...document, mends: document.mends.filter(({ id }) => id === mendId) }
  const { patches, seenMaps } = await evaluateFrame(planFrame(alone, frame), clip, { ...context, showsSeen: true }) // prettier-ignore
  if (context.shouldStop()) return null
  const map = seenMaps.find((one) => one.mendId === mendId && one.isMatte)
  if (!map) return []
  const { rect } = map
  const plate = await clip.readRect(frame, rect)
  const result = cropSamples(plate, wholePicture(rect))
  for (const patch of patches) {
    const shared = intersectRects(patch.rect, rect)
    if (shared) copyRectInto(result, shared.col - rect.col, shared.row - rect.row, patch.samples, relativeTo(shared, patch.rect)) // prettier-ignore
  }
  const asked = Uint8Array.from(map.seen, (share) => (share >= MATTE_FULL / 2 ? 1 : 0))
  return bandEnergies(rasterFromSamples(plate), rasterFromSamples(result), asked)
}

const relativeTo = (rect: Rect, { col, row }: Rect): Rect => ({
  ...rect,
  col: rect.col - col,
  row: rect.row - row,
})
