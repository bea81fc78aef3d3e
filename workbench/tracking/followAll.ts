/** Following something and showing what is seen meanwhile: progress, stopping, how it ended. */
import { toast } from 'sonner'
import { framesFrom, type Direction } from '../../core/document/follow'
import type { Track } from '../../core/document/tracks'
import type { TrackedFrame } from '../../core/motion/runTrack'
import { StoppedError, type RunOptions } from '../../workers/pool'
import type { BenchParts } from '../BenchContext'

export interface FollowOptions {
  readonly directions: readonly Direction[]
  /** Frames at most in each direction. */
  readonly most?: number
  /** What is said meanwhile; without it, that the track is followed. */
  readonly words?: string
}

export const BOTH: FollowOptions = { directions: ['forward', 'backward'] }
export const TRACK_URGENCY = 5 // before frames that are only rendered ahead

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

/** What following has brought: how it changes the track, and how each way ended. */
export interface Followed {
  take(track: Track): Track
  readonly ends: readonly { readonly reason: string; readonly frame: number }[]
}

/** Follows, telling of each frame, and of a second look at all of them. */
export type Run = (options: Pick<RunOptions, 'signal' | 'onFrame' | 'onShare'>) => Promise<Followed>

/**
 * Follows and shows what is seen. One way, the playhead goes along; both ways, it stays.
 * @param keep  Keeps the track that comes of it.
 */
export async function followAll(
  { store }: BenchParts,
  start: Track,
  { directions, most, words: said = `Following ${start.name}` }: FollowOptions,
  run: Run,
  keep: (track: Track) => void,
): Promise<void> {
  const { frame, plate, setFollowing, goTo } = store.getState()
  const stop = new AbortController()
  const lengths = directions.map((direction) => framesFrom(frame, direction, plate, most).length)
  const begunMs = performance.now()
  setFollowing({
    trackId: start.id,
    words: said,
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
    if (directions.length === 1 && most === undefined) goTo(frame)
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
