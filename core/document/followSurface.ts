/** Spots that lie on one surface, such as a face: one track holds all their places, and each area goes with its own. */
import type { Frame } from '../time'
import type { KeyedArea } from './areas'
import type { Follow } from './basics'
import { setFollow } from './areaCommands'
import { freeName, together } from './commands'
import type { MendEdit, ShotState } from './edits'
import { newTrack } from './follow'
import { areaVisibility, geometryAt, middleOf, trackOf } from './keyedGeometry'
import type { MendRecord } from './mend'
import { recordEdit } from './recordEdit'
import { DEFAULT_TRACK_SETTINGS } from '../motion/settings'
import { addTrack, setTrack } from './trackCommands'
import type { Track, Tracks } from './tracks'

/** A spot goes where its place goes; how far it turns and swells is a choice. */
const USES: Follow['uses'] = { position: true, rotation: false, scale: false, skew: false }
/** A spot with as much skin around it as tells it from another one. */
const SETTINGS = { ...DEFAULT_TRACK_SETTINGS, patchPx: 25 }

/** The areas of a mend that lie on a surface: those that cover. */
export const spotsOf = ({ areas }: Pick<MendRecord, 'areas'>): KeyedArea[] =>
  areas.filter((area): area is KeyedArea => area.shape !== 'matte' && area.role === 'cover')

/** Whether all of them go with their places. */
export const isOnSurface = (mend: Pick<MendRecord, 'areas'>, tracks: Tracks): boolean =>
  spotsOf(mend).every((area) => trackOf(area, tracks)?.kind === 'surface')

/** How many of them are out of sight on a frame. */
export const hiddenSpots = (mend: Pick<MendRecord, 'areas'>, tracks: Tracks, frame: Frame): number =>
  spotsOf(mend).filter((area) => areaVisibility(area, tracks, frame) === 0).length

/** A track of the places of a mend's spots on a frame, not followed yet: the one that only they have, begun again, or a new one. */
export function surfaceTrack(
  { records, tracks }: ShotState,
  mend: MendRecord,
  frame: Frame,
  idOfNew: string,
): Track {
  const spots = spotsOf(mend)
  const isOthers = ({ id }: Track) =>
    [...records.values()].some(
      (one) => one.id !== mend.id && one.areas.some(({ follow }) => follow?.trackId === id),
    )
  const known = spots
    .map((area) => trackOf(area, tracks))
    .find((track) => track?.kind === 'surface' && !isOthers(track))
  const seed = spots.flatMap((area) => {
    const { x, y } = middleOf(geometryAt(area, tracks, frame))
    return [x, y]
  })
  return known
    ? { ...known, referenceFrame: frame, seed, frames: [] }
    : newTrack(idOfNew, 'surface', freeName(tracks, 'Surface'), frame, seed, SETTINGS)
}

/** The spots of a mend go with a surface that was followed, as one step. Each stays where it is on the track's reference frame. */
export function followSurface(state: ShotState, mend: MendRecord, track: Track): MendEdit {
  const before = state.tracks.get(track.id)
  const follow: Follow = { trackId: track.id, uses: USES }
  const label = `${mend.name} follows ${track.name}`
  const on = track.referenceFrame
  // From what it followed before it is let go where it is on that frame, and taken up there.
  const rested = spotsOf(mend).reduce(
    (now, { id }) => setFollow(state, now, id, null, on).changes[0]!.after!,
    mend,
  )
  const withTrack: ShotState = { ...state, tracks: new Map(state.tracks).set(track.id, track) }
  const after = spotsOf(rested).reduce(
    (now, { id }) => setFollow(withTrack, now, id, follow, on).changes[0]!.after!,
    rested,
  )
  return together(
    [before ? setTrack(before, track, label) : addTrack(track), recordEdit(mend, after, label)],
    label,
  )
}
