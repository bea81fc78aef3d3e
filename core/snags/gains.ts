import { isLocked, type Scene } from '../scene/scene'
import type { Mend } from '../document/mend'
import type { Snag } from './snags'
import { placeArea } from '../plan/placedArea'
import type { Tracks } from '../document/tracks'

/** Whether other frames can show nothing of what is behind a mend: the camera is locked and the thing rests in it. */
export function gainsNothing({ areas, span }: Mend, tracks: Tracks, scene: Scene): boolean {
  if (!isLocked(scene)) return false
  const { firstFrame, frameCount } = scene.plate
  const [first, last] = [
    Math.max(span.firstFrame, firstFrame),
    Math.min(span.lastFrame, firstFrame + frameCount - 1),
  ]
  // Off on some frames: those show it.
  if (first > firstFrame || last < firstFrame + frameCount - 1) return false
  return areas
    .filter((area) => area.role === 'cover')
    .every((area) => {
      if (area.shape === 'matte') return false
      const start = placeArea(area, tracks, first)
      for (let frame = first + 1; frame <= last; frame++) {
        const now = placeArea(area, tracks, frame)
        if (now !== start && JSON.stringify(now.shape) !== JSON.stringify(start.shape)) return false
      }
      return true
    })
}

/** Without "never seen" where nothing could be seen: the card says it once, no frame is worth a look for it. */
export function worthALook(
  snags: readonly Snag[],
  mends: Iterable<Mend>,
  tracks: Tracks,
  scene: Scene | null,
): readonly Snag[] {
  if (!scene || !snags.some(({ reason }) => reason === 'never-seen')) return snags
  const resting = new Set<string>()
  for (const mend of mends) if (gainsNothing(mend, tracks, scene)) resting.add(mend.id)
  return snags.filter(({ mendId, reason }) => reason !== 'never-seen' || !resting.has(mendId))
}
