/** What a compute worker is asked and what it answers; the same in the browser and on the server. */
import type { EvaluatedFrame } from '../core/shot/clip'
import type { FramePlan } from '../core/plan/planFrame'
import type { SuggestedSource, SuggestRequest } from '../core/evaluate/suggestSources'
import type { ClingOutcome, ClingRequest } from '../core/motion/cling/runCling'
import type { TrackedFrame, TrackOutcome, TrackRequest } from '../core/motion/runTrack'
import type { BitDepth } from '../core/image/samples'
import type { SceneRequest } from '../core/evaluate/analyseScene'
import type { Scene } from '../core/scene/scene'
import type { SurveyedHalf } from '../core/survey/surveyPlate'
import type { FrameRange } from '../core/time'

/** A plate and where its frames, mattes, stills and what was gathered are to be had; the locations mean something to the source only. */
export interface PlateReference {
  readonly plateId: string
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
  readonly location: string
  readonly matteLocation: string
  readonly stillLocation: string
  readonly resultLocation: string
}

export interface EvaluateRequest {
  readonly kind: 'evaluate'
  readonly plate: PlateReference
  readonly plan: FramePlan
  /** A first look, soon: see `RunContext`. */
  readonly isPreview: boolean
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

export interface SuggestJob {
  readonly kind: 'suggest'
  readonly plate: PlateReference
  readonly request: SuggestRequest
}

/** Works out the motion of the background. */
export interface SceneJob {
  readonly kind: 'scene'
  readonly plate: PlateReference
  readonly request: SceneRequest
  /** The last one, where only what has changed since is to be done. */
  readonly last?: Scene
}

/** Looks through all frames for one half of what must go. */
export interface SurveyJob {
  readonly kind: 'survey'
  readonly half: SurveyedHalf['half']
  readonly plate: PlateReference
  readonly range: FrameRange
}

export type EvaluateAnswer = EvaluatedFrame
/** The best sources, the best first. */
export type SuggestAnswer = readonly SuggestedSource[]
/** Null when it was stopped, or when the last one still holds. */
export interface SceneAnswer {
  readonly scene: Scene | null
  readonly isSame: boolean
}

/** Null when it was stopped. */
export interface SurveyAnswer {
  readonly surveyed: SurveyedHalf | null
}

export type ComputeRequest = EvaluateRequest | TrackJob | ClingJob | SuggestJob | SceneJob | SurveyJob
export type AnswerTo<R extends ComputeRequest> = R extends EvaluateRequest
  ? EvaluateAnswer
  : R extends TrackJob
    ? TrackOutcome
    : R extends SuggestJob
      ? SuggestAnswer
      : R extends SceneJob
        ? SceneAnswer
        : R extends SurveyJob
          ? SurveyAnswer
          : ClingOutcome
export type ComputeAnswer =
  EvaluateAnswer | TrackOutcome | ClingOutcome | SuggestAnswer | SceneAnswer | SurveyAnswer

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
  | { readonly kind: 'share'; readonly token: number; readonly done: number; readonly total: number }
  | { readonly kind: 'done'; readonly token: number; readonly answer: ComputeAnswer }
  | { readonly kind: 'failed'; readonly token: number; readonly error: PlainError }
