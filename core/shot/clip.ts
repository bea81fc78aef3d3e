/** What the evaluator is given, and what it gives back. */
import type { Rect } from '../image/rect'
import type { BitDepth, Samples } from '../image/samples'
import type { ReadMatte } from '../matte/pictureMatte'
import type { MendMeasure } from '../measure/mendMeasure'
import type { Frame } from '../time'

export interface PlateShape {
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
}

/** Keeps what was worked out on single frames, for the frames that look at them next. It may forget anything at any time. */
export interface Cache {
  get(key: string): unknown
  set(key: string, value: object): void
}

/** Keeps what costs most for longer than a worker lives, and for others too. It may lack anything; what is on it is never changed. */
export interface ResultStore {
  read(key: string): Promise<Uint8Array | null>
  write(key: string, bytes: Uint8Array): Promise<void>
}

/** Where the evaluator gets its pixels from. */
export interface FrameSource {
  readonly plate: PlateShape
  /** The plate's own samples of a rectangle inside the picture. */
  readRect(frame: Frame, rect: Rect): Promise<Samples>
  /** A picture of a matte sequence, cut to what it covers; null where it covers nothing or has no such frame. */
  readMatte(pattern: string, frame: Frame): Promise<ReadMatte | null>
  /** A rectangle of a still picture of the plate's size, at the plate's depth; null where there is no such still. */
  readStill(name: string, rect: Rect): Promise<Samples | null>
  /** Of this plate alone. */
  readonly cache?: Cache
  /** Of this plate alone. */
  readonly resultStore?: ResultStore
}

/** Samples to lay over the plate; those that no mend covers are the plate's own. */
export interface Patch {
  readonly rect: Rect
  readonly samples: Samples
  /** Where mends left holes: one sample for each pixel, the maximum where there is none. */
  readonly alpha: Samples | null
}

/** What a mend could not do on this frame. The other mends still stand. */
export interface MendNote {
  readonly mendId: string
  readonly reason:
    'outside-picture' | 'nothing-known' | 'no-source' | 'stopped' | 'unknown-fill' | 'needs-path'
  readonly detail: string
}

/** Where the pixels of an area came from that was gathered from other frames. */
export interface SeenMap {
  readonly mendId: string
  readonly rect: Rect
  /** For each pixel: how many frames showed it; −1 where the area does not reach. */
  readonly seen: Int16Array
  /** For each pixel the frame that had the most say; −1 where none did. */
  readonly from: Int32Array
}

export interface EvaluatedFrame {
  readonly seenMaps: readonly SeenMap[]
  readonly patches: readonly Patch[]
  readonly measures: readonly MendMeasure[]
  readonly notes: readonly MendNote[]
}
