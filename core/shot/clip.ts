/** A clip that yields frames: what everything that looks at footage is given. */
import type { Rect } from '../image/rect'
import type { BitDepth, Samples } from '../image/samples'
import type { MarkPicture } from '../image/markPicture'
import type { ReadMatte } from '../matte/pictureMatte'
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

/**
 * Results by the digest of all that made them, kept for longer than a worker lives, and for others too. It may lack
 * anything; what is in it is never changed.
 */
export interface ResultStore {
  read(key: string): Promise<Uint8Array | null>
  write(key: string, bytes: Uint8Array): Promise<void>
}

/** What was worked out already, of one plate alone: in memory, and for longer. */
export interface Kept {
  readonly cache?: Cache
  readonly results?: ResultStore
}

/** A rectangle of a frame. */
export interface FrameRect {
  readonly frame: Frame
  readonly rect: Rect
}

export interface Clip extends Kept {
  readonly plate: PlateShape
  /** The plate's own samples of a rectangle inside the picture. */
  readRect(frame: Frame, rect: Rect): Promise<Samples>
  /** Says what will be read soon, so that it can be brought together from far. */
  prefetch?(wanted: readonly FrameRect[]): void
  /** A picture of a matte sequence, cut to what it covers; null where it covers nothing or has no such frame. */
  readMatte(pattern: string, frame: Frame): Promise<ReadMatte | null>
  /** A rectangle of a still picture of the plate's size, at the plate's depth; null where there is no such still. */
  readStill(name: string, rect: Rect): Promise<Samples | null>
  /** The picture of a mark; null where there is none of that name. */
  readMark(name: string): Promise<MarkPicture | null>
}
