/** What evaluating a frame gives back. */
import type { Rect } from '../image/rect'
import type { Samples } from '../image/samples'
import type { MendMeasure } from '../measure/mendMeasure'

/** Samples to lay over the plate; those that no mend covers are the plate's own. */
export interface Patch {
  readonly rect: Rect
  readonly samples: Samples
  /** Where mends left holes: one sample for each pixel, the maximum where there is none. */
  readonly alpha: Samples | null
  /** How far mends cover each pixel, 0 to 1, all together; only where that was asked for. */
  readonly covered?: Float32Array
  /** The pixels on which any mend has laid anything, as runs in reading order: where each begins, how long it is. All others are the plate's. */
  readonly mendedRuns: Int32Array
}

/** What a mend could not do on this frame. The other mends still stand. */
export interface MendNote {
  readonly mendId: string
  readonly reason:
    'outside-picture' | 'nothing-known' | 'no-source' | 'stopped' | 'unknown-fill' | 'needs-path'
  readonly detail: string
}

/** What a map of a matte has where all is covered. */
export const MATTE_FULL = 1000

/** Where the pixels of an area came from that was gathered from other frames; or how far a fill that finds its own place does anything there. */
export interface SeenMap {
  readonly mendId: string
  readonly rect: Rect
  readonly isMatte: boolean
  /** For each pixel: how many frames showed it, or of a matte 0 to `MATTE_FULL`; −1 where the area does not reach. */
  readonly seen: Int16Array
  /** For each pixel the frame that had the most say; −1 where none did. */
  readonly from: Int32Array
}

/** What mends that see each other's pixels come to on a frame, or all mends of it. */
export interface EvaluatedFrame {
  readonly patches: readonly Patch[]
  readonly measures: readonly MendMeasure[]
  readonly notes: readonly MendNote[]
  readonly seenMaps: readonly SeenMap[]
}
