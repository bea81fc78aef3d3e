/** A track from what is known of the scene: a plane that lies on the background around an area, wherever the camera goes. */
import type { KeyedArea } from '../document/areas'
import { newTrack } from '../document/follow'
import { rowOf, type Track } from '../document/tracks'
import { cornersThrough } from '../motion/planarTracker'
import { motionBetween } from '../scene/scene'
import type { Frame } from '../time'
import { layerOf } from './groundMotion'
import { placeArea } from './placedArea'
import type { ShotDocument } from './shotDocument'

/**
 * The motion of the scene's layer around an area, as a plane track over all frames. Nothing is followed anew: it cannot be lost, and what
 * passes in front of the area does not pull it along.
 *
 * @param frame  Where the area lies as it should; the track's reference frame. @returns Null where no scene motion is known.
 */
export function sceneTrack(
  id: string,
  name: string,
  area: KeyedArea,
  { tracks, scene }: ShotDocument,
  frame: Frame,
): Track | null {
  const { box } = placeArea(area, tracks, frame)
  if (!scene || !box) return null
  const [right, bottom] = [box.col + box.width, box.row + box.height]
  const corners = [box.col, box.row, right, box.row, right, bottom, box.col, bottom]
  const layer = layerOf(scene, area, tracks, frame)
  const { firstFrame, frameCount } = scene.plate
  const frames = Array.from({ length: frameCount }, (_, i) => {
    const values = cornersThrough(motionBetween(scene, layer, frame, firstFrame + i), corners)
    return rowOf({ frame: firstFrame + i, sure: scene.layers[layer]!.sure[i] ?? 0, values })
  })
  return { ...newTrack(id, 'planar', name, frame, corners), frames }
}
