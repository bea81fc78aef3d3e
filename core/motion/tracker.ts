/** What every tracker is to whoever drives it: it says which pixels it needs, gets them, and answers. */
import type { Rect, Size } from '../image/rect'
import type { FrameWindow } from './window'

/**
 * held: seen, and where it was expected to be alike. covered: not seen now, its place is guessed until it
 * comes back. lost: given up; nothing is claimed. left-picture: lost because it went over the edge.
 */
export type TrackState = 'held' | 'covered' | 'lost' | 'left-picture'

export interface Observation {
  readonly state: TrackState
  /** The track's numbers on this frame, in picture px; meaningless when lost. */
  readonly values: readonly number[]
  /** 0 to 1. */
  readonly sure: number
}

export interface Tracker {
  /** Pyramid levels that it works on. */
  readonly levels: number
  /** Rectangles of the next frame that it wants to see; empty when its subject has left the picture. */
  windows(picture: Size): Rect[]
  /** Takes the frame that the track starts on. @returns false when there is nothing to hold on to. */
  begin(windows: readonly FrameWindow[]): boolean
  advance(windows: readonly FrameWindow[]): Observation
}

/** How sure a correlation makes us: 0 at the level of chance, 1 where only grain differs. */
export function sureOf(correlation: number): number {
  const f = Math.min(Math.max((correlation - LOST_BELOW) / (CERTAIN_FROM - LOST_BELOW), 0), 1)
  return f
}

/** Below this correlation a patch is taken for something else. */
export const LOST_BELOW = 0.6
const CERTAIN_FROM = 0.92
