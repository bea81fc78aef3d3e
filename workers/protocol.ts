/** What a compute worker is asked and what it answers; the same in the browser and on the server. */
import type { MendMeasure, MendNote } from '../core/mend/evaluate'
import type { PlacedMend } from '../core/mend/place'
import type { ClingOutcome, ClingRequest } from '../core/motion/cling/runCling'
import type { TrackedFrame, TrackOutcome, TrackRequest } from '../core/motion/runTrack'
import type { Rect } from '../core/image/rect'
import type { BitDepth, Samples } from '../core/image/samples'
import type { Frame } from '../core/time'

/** A plate and where its frames and mattes are to be had; both locations mean something to the source only. */
export interface PlateReference {
  readonly plateId: string
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
  readonly location: string
  readonly matteLocation: string
}

export interface EvaluateRequest {
  readonly kind: 'evaluate'
  readonly plate: PlateReference
  readonly frame: Frame
  /** As they are on this frame. */
  readonly mends: readonly PlacedMend[]
}

export interface TrackJob {
  readonly kind: 'track'
  readonly plate: PlateReference
  readonly request: TrackRequest
}

export interface ClingJob {
  readonly kind: 'cling'
  readonly plate: PlateReference
  readonly request: ClingRequest
}

export interface EvaluateAnswer {
  readonly patches: readonly { readonly rect: Rect; readonly samples: Samples }[]
  readonly measures: readonly MendMeasure[]
  readonly notes: readonly MendNote[]
}

export type ComputeRequest = EvaluateRequest | TrackJob | ClingJob
export type AnswerTo<R extends ComputeRequest> = R extends EvaluateRequest ? EvaluateAnswer : R extends TrackJob ? TrackOutcome : ClingOutcome
export type ComputeAnswer = EvaluateAnswer | TrackOutcome | ClingOutcome

/** Main thread to worker. `token` names the task; the stop flag holds the token that is to stop. */
export type ToWorker =
  | { readonly kind: 'start'; readonly stopFlag: SharedArrayBuffer | null }
  | { readonly kind: 'task'; readonly token: number; readonly request: ComputeRequest }

/** An error on its way between threads: made an error again on the other side. */
export interface PlainError {
  readonly code: string
  readonly message: string
}

export type FromWorker =
  | { readonly kind: 'progress'; readonly token: number; readonly tracked: TrackedFrame }
  | { readonly kind: 'done'; readonly token: number; readonly answer: ComputeAnswer }
  | { readonly kind: 'failed'; readonly token: number; readonly error: PlainError }
