import { isLocked, type Scene } from '../scene/scene'
import type { Mend } from './schema'
import { placeArea } from './placedArea'
import type { Tracks } from './tracks'

/** Whether other frames can show nothing of what is behind a mend: the camera is locked and the thing rests in it. */
export function gainsNothing({ areas, span }: Mend, tracks: Tracks, scene: Scene): boolean {
  if (!isLocked(scene)) return false
  const { firstFrame, frameCount } = scene.plate
  const [first, last] = [Math.max(span.firstFrame, firstFrame), Math.min(span.lastFrame, firstFrame + frameCount - 1)]
  // Off on some frames: those show it.
  if (first > firstFrame || last < firstFrame + frameCount - 1) return false
  return areas
    .filter((area) => area.role === 'cover')
    .every((area) => {
      if (area.shape === 'matte') return false
      const start = JSON.stringify(placeArea(area, tracks, first))
      for (let frame = first + 1; frame <= last; frame++) if (JSON.stringify(placeArea(area, tracks, frame)) !== start) return false
      return true
    })
}
