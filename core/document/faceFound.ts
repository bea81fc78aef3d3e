/** Faces that were found become tracks; what must stay sharp of them is held out of a mend of skin, and the skin goes with its face. */
import { FEATURES, outlineOfPart, placesOfPart, turnedAside } from '../face/features'
import type { FoundFace } from '../face/followFaces'
import { boxAlong } from '../face/turnedBox'
import { insidePolygon } from '../geometry/polygon'
import { norm, type Place } from '../geometry/transform'
import type { Frame } from '../time'
import { addArea, drawnArea, setFollow } from './areaCommands'
import type { KeyedArea } from './areas'
import { ALL_PARTS, type Follow } from './basics'
import { freeName, together } from './commands'
import type { MendEdit, ShotState } from './edits'
import { newTrack } from './follow'
import { geometryAt, keyedGeometryAt, middleOf, polygonOf, trackOf } from './keyedGeometry'
import { outlineThrough } from './keys'
import type { MendRecord } from './mend'
import { recordEdit } from './recordEdit'
import { addTrack } from './trackCommands'
import { rowOf, trackValuesAt, type Track, type Tracks } from './tracks'

/** The skin is outlined widely: its outline goes with the head, but is not bent by how its features move. */
const AS_A_WHOLE: Follow['uses'] = { ...ALL_PARTS, skew: false }

/** What of a mend is held out because it lies on a face. */
export const faceHoldouts = ({ areas }: Pick<MendRecord, 'areas'>, tracks: Tracks): KeyedArea[] =>
  areas.filter(
    (area): area is KeyedArea =>
      area.shape !== 'matte' && area.role === 'holdout' && trackOf(area, tracks)?.kind === 'face',
  )

/** Faces that are known where a mend covers something on a frame. */
export const facesIn = (mend: Pick<MendRecord, 'areas'>, tracks: Tracks, frame: Frame): Track[] =>
  [...tracks.values()].filter(
    (track) =>
      track.kind === 'face' &&
      coversOf(mend).some((area) => {
        const { x, y } = faceMiddle(track, frame)
        const geometry = geometryAt(area, tracks, frame)
        return geometry.shape !== 'path' && insidePolygon(polygonOf(geometry), x, y)
      }),
  )

/**
 * Faces found from a frame on are held out, as one step. Faces that were found before and that only this mend goes with are forgotten: they are these.
 * What went with them stays where it is on that frame, and goes on with the new ones.
 */
export function holdOutFound(
  state: ShotState,
  mend: MendRecord,
  faces: readonly FoundFace[],
  frame: Frame,
  nextId: () => string,
): MendEdit {
  const old = facesOnlyOf(state, mend)
  const rested = coversOf(mend)
    .filter(({ follow }) => old.some(({ id }) => id === follow?.trackId))
    .reduce((now, { id }) => setFollow(state, now, id, null, frame).changes[0]!.after!, mend)
  const before = withoutFaceHoldouts(rested, state.tracks)
  const tracks = new Map([...state.tracks].filter(([id]) => !old.some((track) => track.id === id)))
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
  const { after } = holdOutFaces({ ...state, tracks }, before, found, frame, nextId).changes[0]!
  const label = labelOf(mend)
  const forgotten = old.map((track) => ({ id: track.id, before: track, after: null }))
  return together(
    [{ label, changes: [], tracks: forgotten }, ...found.map(addTrack), recordEdit(mend, after!, label)],
    label,
  )
}

const labelOf = ({ name }: MendRecord): string => `Hold eyes, brows and lips out of ${name}`

const coversOf = ({ areas }: Pick<MendRecord, 'areas'>): KeyedArea[] =>
  areas.filter((area): area is KeyedArea => area.shape !== 'matte' && area.role === 'cover')

/** Faces that areas of this mend go with, and those of no other one. */
function facesOnlyOf({ records, tracks }: ShotState, mend: MendRecord): Track[] {
  const goesWith = (one: MendRecord, id: string) => one.areas.some(({ follow }) => follow?.trackId === id)
  return [...tracks.values()].filter(
    ({ id, kind }) =>
      kind === 'face' &&
      goesWith(mend, id) &&
      ![...records.values()].some((one) => one.id !== mend.id && goesWith(one, id)),
  )
}

/** Eyes, brows, lips and nostrils of faces are held out anew; an area of the skin that goes with nothing yet goes with the face nearest to where it lies on `frame`. */
export function holdOutFaces(
  { records, tracks }: ShotState,
  mend: MendRecord,
  faces: readonly Track[],
  frame: Frame,
  nextId: () => string,
): MendEdit {
  let now = withoutFaceHoldouts(mend, tracks)
  for (const track of faces) {
    const { referenceFrame } = track
    const places = trackValuesAt(track, referenceFrame) ?? track.seed
    for (const part of FEATURES) {
      const points = outlineThrough(outlineOfPart(places, part), 'smooth')
      const area = drawnArea(nextId().slice(0, 8), { shape: 'outline', points }, referenceFrame, 'holdout')
      now = addArea(now, { ...area, follow: { trackId: track.id, uses: ALL_PARTS } }).changes[0]!.after!
    }
  }
  for (const area of coversOf(now)) {
    if (area.follow || area.keys.length > 1) continue
    const track = nearestFace(faces, frame, middleOf(keyedGeometryAt(area, frame)))
    if (!track) continue
    const follow = { trackId: track.id, uses: AS_A_WHOLE }
    now = setFollow({ records, tracks }, now, area.id, follow, frame).changes[0]!.after!
  }
  return recordEdit(mend, now, labelOf(mend))
}

/** Nothing of faces is held out any more. What was held out by hand stays. */
export const holdOutNoFaces = (mend: MendRecord, tracks: Tracks): MendEdit =>
  recordEdit(mend, withoutFaceHoldouts(mend, tracks), `Even eyes, brows and lips in ${mend.name} too`)

function withoutFaceHoldouts(mend: MendRecord, tracks: Tracks): MendRecord {
  const held = new Set(faceHoldouts(mend, tracks).map(({ id }) => id))
  return { ...mend, areas: mend.areas.filter(({ id }) => !held.has(id)) }
}

function nearestFace(faces: readonly Track[], frame: Frame, { x, y }: Place): Track | null {
  const awayOf = (track: Track) => {
    const middle = faceMiddle(track, frame)
    return norm(middle.x - x, middle.y - y)
  }
  return [...faces].sort((a, b) => awayOf(a) - awayOf(b))[0] ?? null
}

const UPRIGHT = { x: 1, y: 0 }

const faceMiddle = (track: Track, frame: Frame): Place =>
  boxAlong(placesOfPart(trackValuesAt(track, frame) ?? track.seed, 'face'), UPRIGHT)
