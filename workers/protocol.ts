/** What a compute worker is asked and what it answers; the same in the browser and on the server. */
import type { MendNote } from '../core/mend/evaluate'
import type { Mend } from '../core/mend/schema'
import type { Rect } from '../core/image/rect'
import type { BitDepth, Samples } from '../core/image/samples'
import type { Frame } from '../core/time'

/** A plate and where its frames are to be had; `location` means something to the source only. */
export interface PlateReference {
  readonly plateId: string
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
  readonly location: string
}

export interface EvaluateRequest {
  readonly plate: PlateReference
  readonly frame: Frame
  readonly mends: readonly Mend[]
}

export interface EvaluateAnswer {
  readonly patches: readonly { readonly rect: Rect; readonly samples: Samples }[]
  readonly notes: readonly MendNote[]
}

/** Main thread to worker. `token` names the task; the stop flag holds the token that is to stop. */
export type ToWorker =
  | { readonly kind: 'start'; readonly stopFlag: SharedArrayBuffer | null }
  | { readonly kind: 'evaluate'; readonly token: number; readonly request: EvaluateRequest }

/** An error on its way between threads: made an error again on the other side. */
export interface PlainError {
  readonly code: string
  readonly message: string
}

export type FromWorker =
  | { readonly kind: 'done'; readonly token: number; readonly answer: EvaluateAnswer }
  | { readonly kind: 'failed'; readonly token: number; readonly error: PlainError }
