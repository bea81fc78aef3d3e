/** Tracks made, changed and removed. */
import type { Frame } from '../time'
import type { Change, MendEdit, ShotState } from './edits'
import type { MendRecord } from './mend'
import type { Track } from './tracks'
import { setFollow } from './areaCommands'

export function addTrack(track: Track): MendEdit {
  return {
    label: `New track ${track.name}`,
    changes: [],
    tracks: [{ id: track.id, before: null, after: track }],
  }
}

export const setTrack = (before: Track, after: Track, label: string): MendEdit => ({
  label,
  changes: [],
  tracks: [{ id: before.id, before, after }],
})

/** Takes a track away. What followed it rests where it is on the frame looked at. */
export function removeTrack(state: ShotState, track: Track, frame: Frame): MendEdit {
  const changes: Change<MendRecord>[] = []
  for (const mend of state.records.values()) {
    const followers = mend.areas.filter((area) => area.follow?.trackId === track.id)
    if (followers.length === 0) continue
    const after = followers.reduce(
      (left, area) => setFollow(state, left, area.id, null, frame).changes[0]!.after!,
      mend,
    )
    changes.push({ id: mend.id, before: mend, after })
  }
  return {
    label: `Delete track ${track.name}`,
    changes,
    tracks: [{ id: track.id, before: track, after: null }],
  }
}
