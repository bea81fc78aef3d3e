/** How far the survey of a shot is, and what it has found. */
import type { Find, Survey } from '../survey/finds'

export type SurveyState = 'waiting' | 'working' | 'done' | 'failed' | 'cancelled'

/** What a survey says of the clip as a whole, and how long it took. */
export type SurveyAbout = Pick<Survey, 'rest' | 'cuts' | 'flashes' | 'flickerStops'> & {
  readonly seconds: number
  readonly frames: number
}

export interface ListedFind {
  readonly find: Find
  readonly isDismissed: boolean
}

export interface SurveyStatus {
  readonly state: SurveyState | 'none'
  readonly framesDone: number
  readonly framesTotal: number
  /** Since it was begun; null before. */
  readonly seconds: number | null
  readonly error: string | null
  /** Of the last one that was finished; null where there was none. */
  readonly about: SurveyAbout | null
  /** In the order of sureness. */
  readonly finds: readonly ListedFind[]
}
