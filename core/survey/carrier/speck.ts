/** What a speck is, and the frames that specks are looked for in. */
import type { Place } from '../../geometry/transform'
import type { Frame } from '../../time'
import type { Sizes } from './blockMotion'
import type { Extent } from './blotches'
import { rangeAround, type Ranges } from './ranges'

export interface Speck extends Extent {
  readonly frame: Frame
  /** Its middle, px. */
  readonly x: number
  readonly y: number
  /** 0 to 1. */
  readonly sure: number
}

/** A frame that specks are looked for in. */
export interface SpeckFrame extends Sizes {
  readonly frame: Frame
  readonly ranges: Ranges
  /** By how much the whole picture has moved since the frame before, cells of 4 px. */
  readonly shift: Place
}

export const speckFrame = (frame: Frame, sizes: Sizes, shift: SpeckFrame['shift']): SpeckFrame => ({
  ...sizes,
  frame,
  shift,
  ranges: rangeAround(sizes.full),
})

/** A speck as far as the frames beside tell. */
export interface Candidate {
  readonly speck: Speck
  readonly pixels: readonly number[]
  /** How what it lies on goes from frame to frame, beside what the whole picture does, px. */
  readonly drift: Place
}

/** What stood out on a frame: perhaps specks, and places where it was something else, by its middle, px. */
export interface SeenSpecks {
  readonly candidates: readonly Candidate[]
  readonly doubts: readonly { readonly frame: Frame; readonly x: number; readonly y: number }[]
}
