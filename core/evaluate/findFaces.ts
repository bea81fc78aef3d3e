/** Faces where a mend lies. */
import type { FaceModel } from '../face/faceModel'
import { followFaces, type FoundFace } from '../face/followFaces'
import { growRect, intersectRects, uniteRects, wholePicture } from '../image/rect'
import { placeArea } from '../plan/placedArea'
import type { ShotDocument } from '../plan/shotDocument'
import type { Clip } from '../shot/clip'
import type { RunContext } from '../shot/context'
import type { Frame } from '../time'

/** So much beside the areas is looked at too, as a share of their size: cheeks are often drawn, hair and chin left out. */
const AROUND = 0.3

/**
 * @returns Faces that lie where the mend covers something on the frame, followed through the shot; none where there is none. Null when it was stopped.
 */
export async function findFaces(
  { tracks, mends, plate }: ShotDocument,
  mendId: string,
  frame: Frame,
  clip: Clip,
  model: FaceModel,
  context: RunContext,
): Promise<FoundFace[] | null> {
  const mend = mends.find(({ id }) => id === mendId)
  const boxes = (mend?.areas ?? [])
    .filter(({ role }) => role === 'cover')
    .flatMap((area) => placeArea(area, tracks, frame).box ?? [])
  if (boxes.length === 0) return []
  const box = boxes.reduce(uniteRects)
  const around = growRect(box, Math.round(AROUND * Math.max(box.width, box.height)))
  const rect = intersectRects(around, wholePicture(clip.plate))
  return rect ? followFaces({ frame, rect, range: plate }, clip, model, context) : []
}
