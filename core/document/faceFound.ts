/** Faces that were found become tracks; what must stay sharp of them is held out of a mend of skin, and the skin goes with its face. */
import { FEATURES, outlineOfPart, turnedAside } from '../face/features'
import type { FoundFace } from '../face/followFaces'
import type { Place } from '../geometry/transform'
import type { Frame } from '../time'
import { addArea, drawnArea, setFollow } from './areaCommands'
import { ALL_PARTS, type Follow, type KeyedArea } from './areas'
import { freeName, together } from './commands'
import type { MendEdit, ShotState } from './edits'
import { newTrack } from './follow'
import { keyedGeometryAt, middleOf, trackOf } from './keyedGeometry'
import { outlineThrough } from './keys'
import type { MendRecord } from './mend'
import { recordEdit } from './recordEdit'
import { addTrack } from './trackCommands'
import { rowOf, trackMiddle, trackValuesAt, type Track, type Tracks } from './tracks'

/** The skin is outlined widely: its outline goes with the head, but is not bent by how its features move. */
const AS_A_WHOLE: Follow['uses'] = { ...ALL_PARTS, skew: false }

/** What of a mend is held out because it lies on a face. */
export const faceHoldouts = ({ areas }: Pick<MendRecord, 'areas'>, tracks: Tracks): KeyedArea[] =>
  areas.filter(
    (area): area is KeyedArea =>
      area.shape !== 'matte' && area.role === 'holdout' && trackOf(area, tracks)?.kind === 'face',
  )

/** Holdouts, and tracks of faces that were found on a frame, as one step. */
export function holdOutFound(
  state: ShotState,
  mend: MendRecord,
  faces: readonly FoundFace[],
  frame: Frame,
  nextId: () => string,
): MendEdit {
  const tracks = new Map(state.tracks)
  const found = faces.map((rows) => {
    // Seen from the front, features are as they were learnt.
    const front = rows.reduce((a, b) => (turnedAside(b.values) < turnedAside(a.values) ? b : a))
    const track: Track = {
      ...newTrack(nextId(), 'face', freeName(tracks, 'Face'), front.frame, front.values),
      frames: rows.map(rowOf),
    }
    tracks.set(track.id, track)
    return track
  })
  const held = holdOutFaces({ ...state, tracks }, mend, found, frame, nextId)
  return together([...found.map(addTrack), held], held.label)
}

/** Eyes, brows, lips and nostrils of faces are held out anew; the area of the skin goes with the face nearest to it from how it lies on `frame`, if it goes with nothing yet. */
export function holdOutFaces(
  { records, tracks }: ShotState,
  mend: MendRecord,
  faces: readonly Track[],
  frame: Frame,
  nextId: () => string,
): MendEdit {
  const label = `Hold eyes, brows and lips out of ${mend.name}`
  let now = withoutFaceHoldouts(mend, tracks)
  for (const track of faces) {
    const places = trackValuesAt(track, track.referenceFrame) ?? track.seed
    for (const part of FEATURES) {
      const points = outlineThrough(outlineOfPart(places, part), 'smooth')
      const area = drawnArea(
        nextId().slice(0, 8),
        { shape: 'outline', points },
        track.referenceFrame,
        'holdout',
      )
      const follow = { trackId: track.id, uses: ALL_PARTS }
      now = addArea(now, { ...area, follow }).changes[0]!.after!
    }
  }
  for (const area of now.areas) {
    if (area.shape === 'matte' || area.role !== 'cover' || area.follow || area.keys.length > 1) continue
    const track = nearestFace(faces, middleOf(keyedGeometryAt(area, area.keys[0]!.frame)))
    if (!track) continue
    const follow = { trackId: track.id, uses: AS_A_WHOLE }
    now = setFollow({ records, tracks }, now, area.id, follow, frame).changes[0]!.after!
  }
  return recordEdit(mend, now, label)
}

/** Nothing of faces is held out any more. What was held out by hand stays. */
export const holdOutNoFaces = (mend: MendRecord, tracks: Tracks): MendEdit =>
  recordEdit(mend, withoutFaceHoldouts(mend, tracks), `Even eyes, brows and lips in ${mend.name} too`)

function withoutFaceHoldouts(mend: MendRecord, tracks: Tracks): MendRecord {
  const held = new Set(faceHoldouts(mend, tracks).map(({ id }) => id))
  return { ...mend, areas: mend.areas.filter(({ id }) => !held.has(id)) }
}

function nearestFace(faces: readonly Track[], { x, y }: Place): Track | null {
  const awayOf = (track: Track) => {
    const middle = trackMiddle(track)
    return (middle.x - x) * (middle.x - x) + (middle.y - y) * (middle.y - y)
  }
  return [...faces].sort((a, b) => awayOf(a) - awayOf(b))[0] ?? null
}
