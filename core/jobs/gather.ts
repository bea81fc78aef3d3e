/** How far a mend's frames have been gathered ahead. */
export type GatherState = 'none' | 'waiting' | 'working' | 'done' | 'failed' | 'cancelled'

export interface GatherStatus {
  readonly state: GatherState
  readonly framesDone: number
  readonly framesTotal: number
  /** Since it was begun; null before. */
  readonly seconds: number | null
  readonly error: string | null
}
