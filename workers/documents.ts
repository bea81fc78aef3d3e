/** Shot documents on their way to workers: only what has changed since the last time. */
import { knownBefore, packAreas, unpackAreas, type PackedAreas } from '../core/document/packedEdit'
import type { Mend } from '../core/document/mend'
import type { Track } from '../core/document/tracks'
import type { ShotDocument } from '../core/plan/shotDocument'
import type { Scene } from '../core/scene/scene'

export interface DocumentChange {
  readonly plate: ShotDocument['plate']
  /** Ids of all mends, in the order of the stack. */
  readonly stack: readonly string[]
  /** Those that are new or have changed. */
  readonly mends: readonly ChangedMend[]
  readonly tracks: readonly Track[]
  readonly removedTracks: readonly string[]
  /** Absent while it stays as it is. */
  readonly scene?: Scene | null
}

/** Areas and keys that stay as they are are told by their place in the mend as it was: a brush has a thousand strokes, and an edit changes one. */
export type ChangedMend = Omit<Mend, 'areas'> & { readonly areas: PackedAreas }

/** Records that are the same object are taken for unchanged: edits replace what they change. */
export function changeBetween(before: ShotDocument | null, after: ShotDocument): DocumentChange {
  const known = new Set(before?.mends)
  const tracks = [...after.tracks.values()]
  return {
    plate: after.plate,
    stack: after.mends.map(({ id }) => id),
    mends: after.mends.filter((mend) => !known.has(mend)).map((mend) => changedMend(mend, before)),
    tracks: tracks.filter((track) => before?.tracks.get(track.id) !== track),
    removedTracks: before ? [...before.tracks.keys()].filter((id) => !after.tracks.has(id)) : [],
    ...(before && before.scene === after.scene ? {} : { scene: after.scene }),
  }
}

/** The document after a change. What has not changed stays the same object, so that what was worked out of it stays good. */
export function applyChange(before: ShotDocument | null, change: DocumentChange): ShotDocument {
  const mends = new Map(before?.mends.map((mend) => [mend.id, mend]))
  for (const mend of change.mends) mends.set(mend.id, withKnownAreas(mend, mends.get(mend.id)))
  const isSameTracks = before && change.tracks.length === 0 && change.removedTracks.length === 0
  let tracks = before?.tracks ?? new Map<string, Track>()
  if (!isSameTracks) {
    const next = new Map(tracks)
    for (const id of change.removedTracks) next.delete(id)
    for (const track of change.tracks) next.set(track.id, track)
    tracks = next
  }
  return {
    plate: change.plate,
    mends: change.stack.map((id) => mends.get(id)!),
    tracks,
    scene: change.scene === undefined ? (before?.scene ?? null) : change.scene,
  }
}

function changedMend(mend: Mend, before: ShotDocument | null): ChangedMend {
  const known = before?.mends.find(({ id }) => id === mend.id)
  return known ? { ...mend, areas: packAreas(known.areas, mend.areas).after } : mend
}

/** Areas that stay as they are are the same objects. */
function withKnownAreas(mend: ChangedMend, before: Mend | undefined): Mend {
  const areas = unpackAreas(mend.areas, knownBefore(before?.areas ?? []))
  if (!areas) throw new Error(`${mend.name} was told by areas that are not known here`)
  return { ...mend, areas }
}
