/** How the ground under an area moves: with the track that it follows, or as the scene does there. */
import { compose, IDENTITY, invert, type Matrix3 } from '../geometry/transform'
import { growRect, wholePicture } from '../image/rect'
import { NO_LAYER, type LayerMap } from '../scene/layerMap'
import { layerMapOf, motionBetween, type Scene } from '../scene/scene'
import type { Frame, FrameRange } from '../time'
import type { Area } from '../document/areas'
import { trackOf } from '../document/keyedGeometry'
import { placeArea } from './placedArea'
import type { Mend } from '../document/mend'
import { boundsOfShape, boxThrough } from './shapeBounds'
import { trackMotionAt, type Tracks } from '../document/tracks'

/** All mends of a shot, and what is known of it. */
export interface Stack {
  readonly mends: readonly Mend[]
  readonly tracks: Tracks
  readonly plate: FrameRange
  readonly scene: Scene | null
}

/** Further than this from an area no layer is asked for. */
const LAYERS_WITHIN_PX = 96

/** Layers of a frame around an area; or of another frame, where the area's surroundings have gone by then. */
export function layersNear(
  scene: Scene,
  area: Area,
  tracks: Tracks,
  frame: Frame,
  there?: { readonly frame: Frame; readonly fromHere: Matrix3 },
): LayerMap | null {
  const bounds = boundsOfShape(placeArea(area, tracks, frame))
  if (!bounds) return layerMapOf(scene, there?.frame ?? frame, wholePicture(scene.plate))
  const around = growRect(bounds, LAYERS_WITHIN_PX)
  return there
    ? layerMapOf(scene, there.frame, boxThrough(there.fromHere, around))
    : layerMapOf(scene, frame, around)
}

/** How the ground moves from one frame to another: with the track that the area follows; else as the scene does there. */
export function groundMotion(area: Area, { tracks, scene }: Stack, from: Frame, to: Frame): Matrix3 {
  const track = area.shape === 'matte' ? null : trackOf(area, tracks)
  if (!track || track.kind === 'cling')
    return scene ? motionBetween(scene, layerOf(scene, area, tracks, from), from, to) : IDENTITY
  const [there, here] = [trackMotionAt(track, to), trackMotionAt(track, from)]
  const back = here && invert(here)
  return there && back ? compose(there, back) : IDENTITY
}

/** The layer that most of an area's surroundings belong to. Asked for many times of the same area: kept with it. */
function layerOf(scene: Scene, area: Area, tracks: Tracks, frame: Frame): number {
  if (!scene.cells) return 0
  let kept = layersOfAreas.get(area)
  if (!kept || kept.scene !== scene || kept.tracks !== tracks)
    layersOfAreas.set(area, (kept = { scene, tracks, byFrame: new Map<Frame, number>() }))
  let layer = kept.byFrame.get(frame)
  if (layer === undefined) kept.byFrame.set(frame, (layer = maxSeenLayer(scene, area, tracks, frame)))
  return layer
}

const layersOfAreas = new WeakMap<
  Area,
  { readonly scene: Scene; readonly tracks: Tracks; readonly byFrame: Map<Frame, number> }
>()

function maxSeenLayer(scene: Scene, area: Area, tracks: Tracks, frame: Frame): number {
  const map = layersNear(scene, area, tracks, frame)
  const counts = new Map<number, number>()
  for (const label of map?.labels ?? [])
    if (label !== NO_LAYER) counts.set(label, (counts.get(label) ?? 0) + 1)
  let [best, max] = [0, 0]
  for (const [layer, count] of counts) if (count > max) [best, max] = [layer, count]
  return best
}
