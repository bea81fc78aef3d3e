/** Following in the web workers: tracks and clings, forward and backward at once, stopped at any time. */
import { useMemo } from 'react'
import { toast } from 'sonner'
import { addTrack, setTrack } from '../../core/document/trackCommands'
import { freeName, together } from '../../core/document/commands'
import { drawnArea, setFollow } from '../../core/document/areaCommands'
import { ALL_PARTS, type Area, type KeyedArea } from '../../core/document/areas'
import { clungArea } from '../../core/document/clungArea'
import type { MendEdit, ShotState } from '../../core/document/edits'
import {
  absorb,
  absorbCling,
  CLING_SEARCH_PX,
  clingRequest,
  framesFrom,
  newTrack,
  trackRequest,
  withoutRowsBeyond,
  type Direction,
} from '../../core/document/follow'
import { geometryAt, polygonOf } from '../../core/document/keyedGeometry'
import type { MendRecord } from '../../core/document/mend'
import type { FrameRange } from '../../core/time'
import { pointsFrom, type Track, type TrackKind, type Tracks } from '../../core/document/tracks'
import type { TrackedFrame } from '../../core/motion/runTrack'
import { DEFAULT_TRACK_SETTINGS } from '../../core/motion/settings'
import { StoppedError, type RunOptions } from '../../workers/pool'
import type { ClingJob, TrackJob } from '../../workers/protocol'
import { useBenchParts, type BenchParts } from '../BenchContext'

export interface FollowOptions {
  readonly directions: readonly Direction[]
  /** Frames at most in each direction. */
  readonly most?: number
}

const BOTH: FollowOptions = { directions: ['forward', 'backward'] }
const TRACK_URGENCY = 5 // before frames that are only rendered ahead

const REASONS: Readonly<Record<string, string>> = {
  lost: 'It was lost',
  'left-picture': 'It left the picture',
}
/** Why nothing was followed at all. */
const NOTHING: Readonly<Record<string, string>> = {
  'nothing-to-hold':
    'There is nothing to hold on to here. Choose a spot with contrast, or boost it. Nothing was changed.',
  'no-line':
    'No line was found here: it stays as it was drawn. Draw it nearer to the line, or move it along by hand.',
  'too-short': 'Too little was drawn to tell a line by: it stays as it is. Draw along at least 30 px of it.',
}

const NAMES = { point: 'Point', pair: 'Two points', planar: 'Plane', spread: 'Many points' } as const

export function useTracking() {
  const parts = useBenchParts()
  return useMemo(
    () => ({
      followTrack: (track: Track, options: FollowOptions) => followTrack(parts, track, options),
      cling: (mendId: string, areaId: string, options: FollowOptions = BOTH) =>
        followLine(parts, mendId, areaId, options),
      beginTrack: (
        kind: Exclude<TrackKind, 'cling'>,
        seed: readonly number[],
        mend: MendRecord,
        areaId: string,
      ) => beginTrack(parts, kind, seed, mend, areaId),
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

/** A new track for an area, followed at once both ways. */
function beginTrack(
  parts: BenchParts,
  kind: Exclude<TrackKind, 'cling'>,
  seed: readonly number[],
  mend: MendRecord,
  areaId: string,
): void {
  const state = parts.store.getState()
  const track = newTrack(crypto.randomUUID(), kind, freeName(state.tracks, NAMES[kind]), state.frame, seed)
  const withTrack: ShotState = { records: state.records, tracks: new Map(state.tracks).set(track.id, track) }
  const uses = kind === 'point' ? { ...ALL_PARTS, rotation: false, scale: false, skew: false } : ALL_PARTS
  const follow = setFollow(withTrack, mend, areaId, { trackId: track.id, uses }, state.frame)
  state.commit(together([addTrack(track), follow], `${mend.name} follows ${track.name}`))
  state.selectTrack(track.id)
  void followTrack(parts, track, BOTH)
}

/** What following has brought: how it changes the track, and how each way ended. */
interface Followed {
  take(track: Track): Track
  readonly ends: readonly { readonly reason: string; readonly frame: number }[]
}

/** Follows, telling of each frame, and of a second look at all of them. */
type Run = (options: Pick<RunOptions, 'signal' | 'onFrame' | 'onShare'>) => Promise<Followed>

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

/**
 * Follows and shows what is seen. One way, the playhead goes along; both ways, it stays.
 * @param keep  Keeps the track that comes of it.
 */
async function followAll(
  { store }: BenchParts,
  start: Track,
  { directions, most }: FollowOptions,
  run: Run,
  keep: (track: Track) => void,
): Promise<void> {
  const { frame, plate, setFollowing, goTo } = store.getState()
  const stop = new AbortController()
  const lengths = directions.map((direction) => framesFrom(frame, direction, plate, most).length)
  const begunMs = performance.now()
  setFollowing({
    trackId: start.id,
    words: `Following ${start.name}`,
    done: 0,
    total: lengths.reduce((sum, length) => sum + length, 0),
    begunMs,
    live: [],
    standIn: null,
    stop: () => stop.abort(),
  })
  // Told of once a picture: what comes faster than that, nobody sees.
  const told: TrackedFrame[] = []
  const showTold = () => {
    const some = told.splice(0)
    if (some.length === 0) return
    setFollowing((now) => now && { ...now, done: now.done + some.length, live: [...now.live, ...some] })
    if (directions.length === 1) goTo(some.at(-1)!.frame)
  }
  const onFrame = (tracked: TrackedFrame) => {
    if (told.push(tracked) === 1) requestAnimationFrame(showTold)
  }
  let againMs = 0
  const onShare = (done: number, total: number) => {
    againMs ||= performance.now()
    const words = `Looking again at frames of ${start.name} that are not sure`
    setFollowing((now) => now && { ...now, words, done, total, begunMs: againMs })
  }
  try {
    const { ends, take } = await run({ signal: stop.signal, onFrame, onShare })
    showTold()
    sayEnds(ends)
    keep(take(start))
  } catch (cause) {
    if (!(cause instanceof StoppedError))
      toast.error(`Tracking failed: ${(cause as Error).message} Nothing was changed.`)
  } finally {
    setFollowing(null)
    if (most === undefined) goTo(frame)
  }
}

function sayEnds(ends: Followed['ends']): void {
  const nothing = ends.map(({ reason }) => NOTHING[reason]).find(Boolean)
  if (nothing) toast.warning(nothing, { duration: 8000 })
  for (const { reason, frame } of ends) {
    if (REASONS[reason])
      toast.warning(`${REASONS[reason]} at ${frame}. Go to the frame before, set it right, and track on.`)
  }
}

/** Lets a path cling from the frame looked at; a first cling makes the track that the path then follows. */
async function followLine(
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
  const track =
    known ?? newTrack(crypto.randomUUID(), 'cling', clingName(state.tracks, mend.name), frame, [], settings)
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
    drawnArea(areaId, { shape: 'path', points: pointsFrom(values) }, frame, role)
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
