/** Following in the web workers: tracks and clings, forward and backward at once, stopped at any time. */
import { useMemo } from 'react'
import { v4 as newId } from 'uuid'
import { setFollow } from '../../core/document/areaCommands'
import type { KeyedArea } from '../../core/document/areas'
import { ALL_PARTS } from '../../core/document/basics'
import { freeName, together } from '../../core/document/commands'
import type { MendEdit, ShotState } from '../../core/document/edits'
import { absorb, framesFrom, newTrack, trackRequest, withoutRowsBeyond } from '../../core/document/follow'
import { geometryAt, polygonOf } from '../../core/document/keyedGeometry'
import type { MendRecord } from '../../core/document/mend'
import { addTrack, setTrack } from '../../core/document/trackCommands'
import type { Track, TrackKind, Tracks } from '../../core/document/tracks'
import { sceneTrack } from '../../core/plan/sceneTrack'
import type { ToneDisc } from '../../core/evaluate/learnTones'
import type { ToneUse } from '../../core/skin/tonesSet'
import type { TrackJob } from '../../workers/protocol'
import { useBenchParts, type BenchParts } from '../BenchContext'
import type { BenchState } from '../store/benchState'
import { shotDocumentOf } from '../store/shotDocument'
import { BOTH, followAll, TRACK_URGENCY, type FollowOptions, type Run } from './followAll'
import { followLine } from './followLine'
import { findBlemishes } from './findBlemishes'
import { findFaces } from './findFaces'
import { findLightChanges, learnTone } from './learnTones'
import { followSkin } from './followSkin'
import { followThing } from './followThing'
import { findMarkPlace } from './findMarkPlace'
import { takeMark } from './takeMark'
import { lineSetRight } from './lineSetRight'

/** Kinds that are followed from a place, one frame after the other. */
export type TrackedKind = Exclude<TrackKind, 'cling' | 'thing' | 'surface' | 'face'>

const NAMES = { point: 'Point', pair: 'Two points', planar: 'Plane', spread: 'Many points' } as const

export function useTracking() {
  const parts = useBenchParts()
  return useMemo(
    () => ({
      followTrack: (track: Track, options: FollowOptions) => followTrack(parts, track, options),
      cling: (mendId: string, areaId: string, options: FollowOptions = BOTH) =>
        followLine(parts, mendId, areaId, options),
      /** A clung path was moved by hand on the frame looked at: its line is looked for again around that frame. */
      setLineRight: lineSetRight(parts),
      beginTrack: (kind: TrackedKind, seed: readonly number[], mend: MendRecord, areaId: string) =>
        beginTrack(parts, kind, seed, mend, areaId),
      /** The area goes with the background around it, as the scene moves, from the frame that is looked at. */
      followScene: (mend: MendRecord, area: KeyedArea) => followScene(parts, mend, area),
      /** The area goes with the thing it was drawn round, between its keys and beyond them. */
      followThing: (mend: MendRecord, area: KeyedArea) => void followThing(parts, mend, area),
      /** Spots on the skin of a mend are looked for on the frame that is looked at. */
      findBlemishes: (mendId: string) => void findBlemishes(parts, mendId),
      /** What must stay sharp of faces is held out of a mend of skin. */
      findFaces: (mendId: string, isAsked: boolean) => void findFaces(parts, mendId, isAsked),
      /** A tone of the skin of a mend is learnt on the frame that is looked at. */
      learnTone: (mendId: string, use: ToneUse, disc: ToneDisc | null) =>
        void learnTone(parts, mendId, use, disc),
      findLightChanges: (mendId: string) => findLightChanges(parts, mendId),
      /** The spots of a mend go with their places on the skin. */
      followSkin: (mendId: string) => void followSkin(parts, mendId),
      /** The mark that an area was drawn round is taken off by its own picture. */
      takeMark: (mend: MendRecord, area: KeyedArea) => void takeMark(parts, mend, area),
      /** The mark whose picture a mend has is looked for in the shot. */
      findMarkPlace: (mend: MendRecord, area: KeyedArea) => void findMarkPlace(parts, mend, area),
      /** Many points on what an area covers, from the frame that is looked at. */
      carryAlong: (mend: MendRecord, area: KeyedArea) => {
        const { tracks, frame } = parts.store.getState()
        const geometry = geometryAt(area, tracks, frame)
        if (geometry.shape !== 'path') beginTrack(parts, 'spread', polygonOf(geometry), mend, area.id)
      },
    }),
    [parts],
  )
}

function followScene({ store, scene }: BenchParts, mend: MendRecord, area: KeyedArea): void {
  const state = store.getState()
  const shot = shotDocumentOf(state, scene.scene)
  const track = sceneTrack(newId(), freeName(state.tracks, 'Background'), area, shot, state.frame)
  if (track) state.commit(withFollower(state, track, mend, area.id))
}

/** A new track, and an area that follows it, as one step. */
function withFollower(state: BenchState, track: Track, mend: MendRecord, areaId: string): MendEdit {
  const withTrack: ShotState = { records: state.records, tracks: new Map(state.tracks).set(track.id, track) }
  const uses =
    track.kind === 'point' ? { ...ALL_PARTS, rotation: false, scale: false, skew: false } : ALL_PARTS
  const follow = setFollow(withTrack, mend, areaId, { trackId: track.id, uses }, state.frame)
  return together([addTrack(track), follow], `${mend.name} follows ${track.name}`)
}

/** A new track for an area, followed at once both ways. */
function beginTrack(
  parts: BenchParts,
  kind: TrackedKind,
  seed: readonly number[],
  mend: MendRecord,
  areaId: string,
): void {
  const state = parts.store.getState()
  const track = newTrack(newId(), kind, freeName(state.tracks, NAMES[kind]), state.frame, seed)
  state.commit(withFollower(state, track, mend, areaId))
  state.selectTrack(track.id)
  void followTrack(parts, track, BOTH)
}

async function followTrack(
  parts: BenchParts,
  start: Track,
  { directions, most }: FollowOptions,
): Promise<void> {
  const { store, pool, plateReference } = parts
  if (!pool || store.getState().following) return
  const { frame, plate, records, tracks } = store.getState()
  const holdouts = holdoutsOf([...records.values()], start, tracks, frame)
  const run: Run = async (options) => {
    const outcomes = await Promise.all(
      directions.map((direction) => {
        const request = trackRequest(start, frame, framesFrom(frame, direction, plate, most), holdouts)
        const job = { kind: 'track', plate: plateReference, request } as const
        return pool.run(job satisfies TrackJob, { urgency: TRACK_URGENCY, ...options })
      }),
    )
    const take = (track: Track): Track =>
      outcomes.reduce((now, outcome, i) => {
        // What lay beyond was followed from somewhere else, or wrongly: this run replaces it.
        const replacesAll = most === undefined && outcome.frames.length > 1
        return absorb(replacesAll ? withoutRowsBeyond(now, frame, directions[i]!) : now, frame, outcome)
      }, track)
    return { ends: outcomes.map(({ end }) => end), take }
  }
  await followAll(parts, start, { directions, most }, run, (track) => {
    const now = store.getState().tracks.get(start.id)
    if (now && track.frames.length > 0)
      store.getState().commit(setTrack(now, { ...track, name: now.name }, `Follow with ${now.name}`))
  })
}

/** Polygons of holdouts of the mends that follow a track: what passes in front must not pull it along. */
function holdoutsOf(mends: readonly MendRecord[], track: Track, tracks: Tracks, frame: number): number[][] {
  return mends
    .filter((mend) => mend.areas.some((area) => area.follow?.trackId === track.id))
    .flatMap((mend) => mend.areas.filter((area) => area.role === 'holdout'))
    .flatMap((area) => {
      if (area.shape === 'matte') return []
      const geometry = geometryAt(area, tracks, frame)
      return geometry.shape === 'path' ? [] : [polygonOf(geometry)]
    })
}
