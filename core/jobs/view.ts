/** Straight views of an all-round shot: how far they are made, and what a version keeps of them. */
import type { MendDocument } from '../document/document'
import type { Scene } from '../scene/scene'
import type { StraightView } from '../sphere/straightView'

export type ViewState = 'waiting' | 'working' | 'done' | 'failed'

export interface ViewStatus {
  readonly id: string
  readonly name: string
  readonly view: StraightView
  readonly state: ViewState
  readonly framesDone: number
  readonly framesTotal: number
  /** Since it was begun; null before. */
  readonly seconds: number | null
  readonly error: string | null
  /** The shot to work in; null until it is made. */
  readonly madeShotId: string | null
}

/** What was mended in a view when a version was asked for. */
export interface VersionView {
  readonly shotId: string
  readonly view: StraightView
  readonly document: MendDocument
  readonly scene: Scene | null
}
