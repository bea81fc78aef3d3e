/** What gathering is given and what it gives back. */
import type { Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import type { LayerMap } from '../scene/layerMap'
import type { Joined } from './join'
import type { GatherFrame } from './places'
import type { Registration } from './registerFrames'

export interface GatherInput {
  readonly frame: number
  readonly picture: Raster
  readonly rect: Rect
  /** Pixels of the crop to find out, in rising order, and how deep in the area each lies, px. */
  readonly hidden: Int32Array
  readonly depths: Float32Array
  /** Pixels around them that show what is really there. */
  readonly around: Int32Array
  /** Of those around, the ones next to the hidden ones: compared with what is gathered. */
  readonly rim: Int32Array
  readonly frames: readonly GatherFrame[]
  /** Layers of this frame around the area, where the scene has several. */
  readonly layerMap: LayerMap | null
  readonly registration: Registration
  /** Whether what each frame shows is wanted too: it takes memory. */
  readonly keepsReadings?: boolean
  readonly shouldStop: () => boolean
  /** How many of the frames are registered. */
  readonly onProgress?: (done: number, total: number) => void
}

export interface FrameReport {
  readonly frame: number
  /** 0 to 1: how well it lies over this frame, around the area. */
  readonly sure: number
  /** Where the largest layer's places lie there. */
  readonly thereFromHere: Matrix3
}

/** What one frame shows of the hidden places, in this frame's light. */
export interface Readings {
  /** Channels interleaved; meaningless where `kept` is not above 0. */
  readonly values: Float32Array
  /** The share of the grain's variance that reading between pixels keeps; not above 0 where nothing may be read. */
  readonly kept: Float32Array
}

export interface Gathered extends Joined {
  /** The frame that had the most say, for each hidden pixel; −1 where nobody saw it. */
  readonly from: Int32Array
  readonly layers: Uint8Array
  readonly reports: readonly FrameReport[]
  /** Place by place and frame by frame, where that was asked for; else empty. */
  readonly readings: readonly Readings[]
  /** How much each frame has to say. */
  readonly weights: readonly number[]
  /** Values further than this from each other are not the same thing, for each channel. */
  readonly tolerances: readonly number[]
  /** Deviation of one frame's grain, as frames that show the same place differ by it, for each channel. */
  readonly grainDeviations: readonly number[]
}

export interface GatherStatistics {
  readonly weights: readonly number[]
  readonly tolerances: readonly number[]
  readonly grainDeviations: readonly number[]
}
