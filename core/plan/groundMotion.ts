/** How the ground under an area moves: with the track that it follows, or as the scene does there. */
import type { Area } from '../document/areas'
import { trackOf } from '../document/keyedGeometry'
import { trackMotionAt, type Tracks } from '../document/tracks'
import { compose, IDENTITY, invert, type Matrix3 } from '../geometry/transform'
import { growRect, wholePicture, type Rect } from '../image/rect'
import { CELL_BYTES, NO_LAYER } from '../scene/layerMap'
import { layerMapOf } from '../scene/sceneLayers'
import { motionBetween, type Scene } from '../scene/scene'
import type { Frame } from '../time'
import { placeArea, type PlacedArea } from './placedArea'
import type { ShotDocument } from './shotDocument'

/** Further than this from an area no layer is asked for. */
const LAYERS_WITHIN_PX = 96

/** The part of a frame in which an area's layers are asked for. */
export const layersRect = ({ box }: PlacedArea, scene: Scene): Rect =>
  box ? growRect(box, LAYERS_WITHIN_PX) : wholePicture(scene.plate)

/** How the ground moves from one frame to another: with the track that the area follows; else as the scene does there. */
export function groundMotion(area: Area, { tracks, scene }: ShotDocument, from: Frame, to: Frame): Matrix3 {
  const track = area.shape === 'matte' ? null : trackOf(area, tracks)
  // A line and a thing go their own way before the ground.
  if (!track || track.kind === 'cling' || track.kind === 'thing')
    return scene ? motionBetween(scene, layerOf(scene, area, tracks, from), from, to) : IDENTITY
  const [there, here] = [trackMotionAt(track, to), trackMotionAt(track, from)]
  const back = here && invert(here)
  return there && back ? compose(there, back) : IDENTITY
}

interface KeptLayers {
  readonly scene: Scene
  readonly byPlace: WeakMap<PlacedArea, Map<Frame, number>>
}
const layersOfAreas = new WeakMap<Area, KeptLayers>()

/** The layer that most of an area's surroundings belong to. Asked for many times of the same area: kept with it. */
export function layerOf(scene: Scene, area: Area, tracks: Tracks, frame: Frame): number {
  if (!scene.cells) return 0
  let kept = layersOfAreas.get(area)
  if (!kept || kept.scene !== scene) layersOfAreas.set(area, (kept = { scene, byPlace: new WeakMap() }))
  const placed = placeArea(area, tracks, frame)
  let byFrame = kept.byPlace.get(placed)
  if (!byFrame) kept.byPlace.set(placed, (byFrame = new Map<Frame, number>()))
  let layer = byFrame.get(frame)
  if (layer === undefined) byFrame.set(frame, (layer = mostSeenLayer(scene, placed, frame)))
  return layer
}

function mostSeenLayer(scene: Scene, placed: PlacedArea, frame: Frame): number {
  const map = layerMapOf(scene, frame, layersRect(placed, scene))
  if (!map) return 0
  const counts = new Int32Array(NO_LAYER + 1)
  for (let at = 0; at < map.cells.length; at += CELL_BYTES) counts[map.cells[at]!]!++
  let best = 0
  for (let layer = 1; layer < NO_LAYER; layer++) if (counts[layer]! > counts[best]!) best = layer
  return best
}
