import type { Scene } from '../scene/scene'

/** How far the motion of a shot's background is worked out. */
export type SceneState = 'waiting' | 'working' | 'done' | 'failed'

export interface SceneStatus {
  readonly state: SceneState | 'none'
  readonly stepsDone: number
  readonly stepsTotal: number
  /** The last one that was finished; kept while a new one is worked out. */
  readonly scene: Scene | null
  readonly error: string | null
}
