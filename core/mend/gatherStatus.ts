/** How far a mend's frames have been gathered ahead. */
export type GatherState = 'none' | 'waiting' | 'working' | 'done' | 'failed' | 'cancelled'

export interface GatherStatus {
  readonly state: GatherState
  readonly framesDone: number
  readonly framesTotal: number
  /** Frames a second so far; null while nothing is known. */
  readonly framesPerSecond: number | null
  readonly error: string | null
}
