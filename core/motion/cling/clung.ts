/** What a cling finds on a frame. */
import type { PathPoint } from '../../geometry/pathCurve'
import type { EndPlaces } from './lineEnds'

export interface ClungFrame {
  readonly points: readonly PathPoint[]
  /** 0 to 1. */
  readonly sure: number
  readonly isHeld: boolean
}

/** Everywhere that a line may be on a frame, and what is told of its ends there. */
export interface ClingCandidates {
  /** The best first. */
  readonly places: readonly ClingCandidate[]
  readonly ends: EndPlaces
}

/** A place where the line may be. */
export interface ClingCandidate {
  readonly points: readonly PathPoint[]
  /** How clear it is there, of the first frame's clarity. */
  readonly quality: number
}
