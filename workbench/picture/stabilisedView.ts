/** The view that rides on a track: what it follows stays in place on the screen. The data does not move. */
import { trackMiddle, trackMotionAt, clingCurveAt, type Track } from '../../core/document/tracks'
import { pathPointAt } from '../../core/geometry/pathCurve'
import { apply } from '../../core/geometry/transform'
import { motionBetween, type Scene } from '../../core/scene/scene'
import type { View } from './view'

/** How far, in picture px, a track has carried its middle away from the reference frame. */
export function carriedBy(track: Track, frame: number): { readonly dx: number; readonly dy: number } {
  if (track.kind === 'cling') {
    const [now, then] = [clingCurveAt(track, frame), clingCurveAt(track, track.referenceFrame)]
    if (!now || !then) return { dx: 0, dy: 0 }
    const [a, b] = [pathPointAt(then, then.lengthPx / 2), pathPointAt(now, now.lengthPx / 2)]
    return { dx: b.x - a.x, dy: b.y - a.y }
  }
  const motion = trackMotionAt(track, frame)
  if (!motion) return { dx: 0, dy: 0 }
  const from = trackMiddle(track)
  const to = apply(motion, from.x, from.y)
  return { dx: to.x - from.x, dy: to.y - from.y }
}

/** Stands for the whole background where a track is held still. */
export const SCENE_STABILISED = 'scene'

/** How far the background's largest layer has carried the middle of the picture since the first frame. */
export function sceneCarried(scene: Scene, frame: number): { readonly dx: number; readonly dy: number } {
  const { width, height, firstFrame } = scene.plate
  const to = apply(motionBetween(scene, 0, firstFrame, frame), width / 2, height / 2)
  return { dx: to.x - width / 2, dy: to.y - height / 2 }
}

export const stabilisedView = (
  view: View,
  { dx, dy }: { readonly dx: number; readonly dy: number },
): View => ({
  ...view,
  left: view.left - dx * view.scale,
  top: view.top - dy * view.scale,
})

/** The view at rest that `heldView` would show as this one. */
export const releasedView = (view: View, { dx, dy }: { readonly dx: number; readonly dy: number }): View => ({
  ...view,
  left: view.left + dx * view.scale,
  top: view.top + dy * view.scale,
})
