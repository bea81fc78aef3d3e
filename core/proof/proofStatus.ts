/** What a page knows of a proof: how far it is, and what it came to. */
import type { Snag } from '../snags/snags'
import type { Frame } from '../time'
import type { ProofMeasure } from './frameProof'
import type { SeriesPoint } from './thinSeries'

export type ProofState = 'none' | 'waiting' | 'working' | 'done' | 'failed' | 'cancelled'

export interface ProofStatus {
  readonly state: ProofState
  readonly framesDone: number
  readonly framesTotal: number
  /** Since it was begun, or what it took; null before. */
  readonly seconds: number | null
  readonly error: string | null
  /** The shot's revision whose mends were measured. */
  readonly revision: number
  /** Frames that were measured. */
  readonly measured: number
  /** Of all measured frames, samples that differ from the plate where no mend has laid anything; and the frames with any. */
  readonly changedOutside: number
  readonly changedFrames: readonly { readonly frame: Frame; readonly count: number }[]
  /** Frames of the file that are not as they were rendered; null where no file was read. */
  readonly notAsRendered: readonly Frame[] | null
  readonly charts: readonly ProofChart[]
  /** The most visible first. */
  readonly snags: readonly Snag[]
}

export interface ProofChart {
  readonly measure: ProofMeasure
  readonly points: readonly SeriesPoint[]
}

/** The digests of one frame. */
export interface FrameDigests {
  readonly frame: Frame
  readonly plateSha256: string
  readonly resultSha256: string
  readonly changedOutside: number
}

/** A mend that is worked on in a view of an all-round picture. */
export interface MendOfView {
  readonly mendId: string
  readonly name: string
  /** Of the view. */
  readonly shotId: string
}
