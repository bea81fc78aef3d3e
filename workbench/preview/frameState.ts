/** What the cache of frames is asked, and what it tells of a frame. */
import type { ShotDocument } from '../../core/plan/shotDocument'
import type { Frame, FrameRange } from '../../core/time'
import type { ComputePool } from '../../workers/pool'
import type { PlateReference } from '../../workers/protocol'
import type { Mended } from './mendedPieces'

/** What is to be seen of a frame; a new object whenever anything of it has changed. */
export interface FrameState {
  readonly plate: ImageBitmap | null
  readonly mended: Mended | null
  /** What the pieces are of: the mends as they are, a first look at them, or mends as they were before. */
  readonly stage: 'full' | 'draft' | 'older' | 'none'
  /** How much of what is being worked out is done, 0 to 1; null while nothing is. */
  readonly progress: number | null
}

export const NOTHING_YET: FrameState = { plate: null, mended: null, stage: 'none', progress: null }
export interface FrameCacheOptions {
  readonly plate: PlateReference & { readonly firstFrame: Frame; readonly lastFrame: Frame }
  readonly documentId: string
  readonly pool: Pick<ComputePool, 'run' | 'setDocument' | 'dropDocument' | 'size'>
  readonly onProblem: (message: string) => void
  /** A draft is asked for after so many ms; else when full results have been coming late. */
  readonly draftAfterMs?: number
}

export interface Wanted {
  readonly frame: Frame
  readonly document: ShotDocument
  /** A value is being dragged: nothing is worked ahead, and nothing of it is stored. */
  readonly isPassing?: boolean
  /** The mends are about to change: only plates are fetched. */
  readonly isHeld?: boolean
  readonly isPlaying?: boolean
  /** The frames that are played: those are worked ahead; left out: all. */
  readonly range?: FrameRange
  /** Frames beside are filled before they are come to; else only as they play. */
  readonly fillsAhead?: boolean
  /** Where the pixels of gathered areas were seen is shown. */
  readonly showsSeen?: boolean
  /** How far mends cover each pixel is shown. */
  readonly tellsCovered?: boolean
}
