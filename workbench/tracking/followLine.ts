/** A path that clings to its line, followed from the frame that is looked at. */
import { v4 as newId } from 'uuid'
import { drawnArea } from '../../core/document/areaCommands'
import type { Area } from '../../core/document/areas'
import { clungArea } from '../../core/document/clungArea'
import { freeName } from '../../core/document/commands'
import type { MendEdit, ShotState } from '../../core/document/edits'
import { absorbCling, CLING_SEARCH_PX, clingRequest, framesFrom, newTrack } from '../../core/document/follow'
import { geometryAt } from '../../core/document/keyedGeometry'
import type { MendRecord } from '../../core/document/mend'
import type { Track, Tracks } from '../../core/document/tracks'
import { trackedPoints } from '../../core/motion/cling/clingCurves'
import type { TrackedFrame } from '../../core/motion/runTrack'
import { DEFAULT_TRACK_SETTINGS } from '../../core/motion/settings'
import type { FrameRange } from '../../core/time'
import type { ClingJob } from '../../workers/protocol'
import type { BenchParts } from '../BenchContext'
import { followAll, TRACK_URGENCY, type FollowOptions, type Run } from './followAll'

/** Lets a path cling from the frame looked at; a first cling makes the track that the path then follows. */
export async function followLine(
  parts: BenchParts,
  mendId: string,
  areaId: string,
  options: FollowOptions,
): Promise<void> {
  const { store, pool, plateReference } = parts
  const state = store.getState()
  const mend = state.records.get(mendId)
  const area = mend?.areas.find((one) => one.id === areaId)
  if (!pool || !mend || area?.shape !== 'path' || state.following) return
  const { frame, plate } = state
  const followed = area.follow ? state.tracks.get(area.follow.trackId) : undefined
  const known = followed?.kind === 'cling' ? followed : null
  const settings = { ...DEFAULT_TRACK_SETTINGS, searchPx: CLING_SEARCH_PX }
  const track = known ?? newTrack(newId(), 'cling', clingName(state.tracks, mend.name), frame, [], settings)
  const geometry = geometryAt(area, state.tracks, frame)
  if (geometry.shape !== 'path') return
  const ways = options.directions.map((direction) => framesFrom(frame, direction, plate, options.most))
  const seen: number[] = []
  const run: Run = async ({ onFrame, ...rest }) => {
    const request = clingRequest(track, geometry.points, frame, ways)
    const outcome = await pool.run({ kind: 'cling', plate: plateReference, request } satisfies ClingJob, {
      urgency: TRACK_URGENCY,
      ...rest,
      onFrame: (tracked) => {
        onFrame?.(tracked)
        if (tracked.frame === frame && ways.length > 1) standIn(parts, mend, area.id, frame, tracked)
      },
    })
    seen.push(...outcome.frames.map((one) => one.frame))
    return { ends: outcome.ends, take: (now) => absorbCling(now, outcome) }
  }
  await followAll(parts, track, options, run, (clung) => {
    const now = store.getState().records.get(mendId)
    if (seen.length === 0 || !now) return
    const range = { firstFrame: Math.min(...seen), lastFrame: Math.max(...seen) }
    store.getState().commit(clingEdit(store.getState(), now, areaId, known, clung, frame, range))
  })
}

/** Shows the mend as it will be on the frame that is looked at, while the others are followed. */
function standIn(
  { store }: BenchParts,
  mend: MendRecord,
  areaId: string,
  frame: number,
  { values }: TrackedFrame,
): void {
  const state = store.getState()
  if (state.frame !== frame) return
  const found = (role: Area['role']) =>
    drawnArea(areaId, { shape: 'path', points: trackedPoints(values) }, frame, role)
  const areas = mend.areas.map((area) => (area.id === areaId ? found(area.role) : area))
  state.setFollowing((now) => now && { ...now, standIn: { ...mend, areas } })
}

/** Named after its wire; numbered only where that name is taken. */
const clingName = (tracks: Tracks, name: string): string => {
  const stem = `Cling, ${name}`
  return [...tracks.values()].some((track) => track.name === stem) ? freeName(tracks, stem) : stem
}

/** The path takes over what was found, and the track is kept, in one step. */
function clingEdit(
  { tracks }: ShotState,
  mend: MendRecord,
  areaId: string,
  known: Track | null,
  track: Track,
  frame: number,
  followed: FrameRange,
): MendEdit {
  const areas = mend.areas.map((area) =>
    area.id === areaId && area.shape === 'path'
      ? clungArea(area, tracks, track, mend.span, frame, followed)
      : area,
  )
  return {
    label: `${mend.name} clings to its line`,
    changes: [{ id: mend.id, before: mend, after: { ...mend, areas } }],
    tracks: [{ id: track.id, before: known, after: track }],
  }
}
