/** From what was painted to an edit: a stroke of the brush in the hand. */
import { v4 as newId } from 'uuid'
import { addArea } from '../../core/document/areaCommands'
import type { StrokeArea } from '../../core/document/areas'
import { ALL_PARTS, type Follow } from '../../core/document/basics'
import { ridingStroke, strokeArea, type BrushSettings } from '../../core/document/brush'
import { addMend } from '../../core/document/commands'
import { squashEdits, type MendEdit } from '../../core/document/edits'
import { addTrack } from '../../core/document/trackCommands'
import type { Track, Tracks } from '../../core/document/tracks'
import { layerOf } from '../../core/plan/groundMotion'
import { sceneTrack } from '../../core/plan/sceneTrack'
import type { ShotDocument } from '../../core/plan/shotDocument'
import type { BenchState } from '../store/benchState'
import type { ToolStep } from './tool'

export interface PaintedStroke {
  readonly edit: MendEdit
  readonly mendId: string
  readonly areaId: string
  /** The brush as it goes on: with the offset that was picked. */
  readonly brush: BrushSettings
}

/** All that a stroke is made of beside its points. */
export type StrokeStart = Pick<BenchState, 'plate' | 'frame' | 'records' | 'tracks' | 'selectedId' | 'trackId' | 'brush'> // prettier-ignore

/**
 * A stroke joins the selected brush, or begins a new one.
 * @param document  What the scene's motion is taken from.
 * @param ids       Those that it goes by already; left out: new ones.
 */
export function finishStroke(
  state: StrokeStart,
  { points, isErasing, pickedAt }: NonNullable<ToolStep['painted']>,
  document: ShotDocument,
  ids: Pick<PaintedStroke, 'mendId' | 'areaId'> = { mendId: newId(), areaId: newId().slice(0, 8) },
): PaintedStroke {
  const { plate, frame, records, selectedId } = state
  const span = { firstFrame: plate.firstFrame, lastFrame: plate.lastFrame }
  const [first] = points
  const brush = pickedAt
    ? {
        ...state.brush,
        offsetX: Math.round(pickedAt.x - first!.x),
        offsetY: Math.round(pickedAt.y - first!.y),
      }
    : state.brush
  const settings: BrushSettings = isErasing ? { ...brush, lays: 'plate' } : brush
  const selected = selectedId === null ? undefined : records.get(selectedId)
  const into = selected?.kind === 'brush' ? selected : null
  const { areaId } = ids
  const mendId = into?.id ?? ids.mendId
  const resting = strokeArea(areaId, points, settings, frame, span)
  const ride = rideOf(settings, resting, mendId, state, document)
  const area = ride ? ridingStroke(resting, ride.tracks, frame, ride.follow) : resting
  const drawn = into ? addArea(into, area) : addMend(records, 'brush', mendId, [area], span)
  const edit = ride?.made ? squashEdits(addTrack(ride.made), drawn) : drawn
  const label = into ? `Stroke of ${into.name}` : drawn.label
  return { edit: { ...edit, label }, mendId, areaId, brush }
}

interface Ride {
  readonly follow: Follow
  /** With the track that had to be made for it. */
  readonly tracks: Tracks
  readonly made: Track | null
}

/** What a stroke rides on; null where it rests. The scene under a brush is a track like others, one for each layer. */
function rideOf(
  { ridesOn }: BrushSettings,
  area: StrokeArea,
  mendId: string,
  { tracks, trackId, frame }: StrokeStart,
  document: ShotDocument,
): Ride | null {
  const onto = (id: string, made: Track | null = null): Ride => ({
    follow: { trackId: id, uses: ALL_PARTS },
    tracks: made ? new Map([...tracks, [id, made]]) : tracks,
    made,
  })
  if (ridesOn === 'track') return trackId !== null && tracks.has(trackId) ? onto(trackId) : null
  if (ridesOn === 'nothing' || !document.scene) return null
  const layer = layerOf(document.scene, area, tracks, frame)
  const id = `scene-${mendId.slice(0, 8)}-${layer}`
  if (tracks.has(id)) return onto(id)
  const made = sceneTrack(id, layer === 0 ? 'Scene' : `Scene, layer ${layer + 1}`, area, document, frame)
  return made && onto(id, made)
}
