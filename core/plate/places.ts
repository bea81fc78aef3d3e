/** Places of a frame and what other frames show there, in kernel memory; the kernels are in `assembly/places.ts`. */
import type { Matrix3 } from '../geometry/transform'
import type { Rect } from '../image/rect'
import { maximumOf, type Samples } from '../image/samples'
import { kernels } from '../kernels/module'
import type { KernelScope } from '../kernels/memory'
import type { LayerMap } from '../scene/layerMap'

/** A crop of another frame, and what of it may be taken: nothing where `masked` is not 0. */
export interface GatherFrame {
  readonly frame: number
  readonly samples: Samples
  /** Where the crop lies in the full picture. */
  readonly rect: Rect
  readonly masked: Uint8Array | null
  /** Where places of this frame lie there, for each layer of the scene; the first is the largest. */
  readonly layersFromHere: readonly Matrix3[]
  /** Where which layer is seen there, if that is known. */
  readonly layerMap?: LayerMap | null
}

const LANES = 4
const OUTSIDE = -1e9 // no picture reaches so far

/** Rounded up to whole vectors. */
export const padded = (count: number): number => Math.ceil(count / LANES) * LANES

/** Planes of x and y in kernel memory, px of the full picture. What lies beyond the last place lies outside every picture. */
export interface KernelPlaces {
  readonly xs: number
  readonly ys: number
  /** Places to read: a multiple of a vector. */
  readonly count: number
}

/** The centres of pixels of a crop, as places. */
export function placesOfPixels(
  scope: KernelScope,
  pixels: Int32Array,
  { col, row, width }: Rect,
  begin = 0,
  end = pixels.length,
): KernelPlaces {
  const count = padded(end - begin)
  const [xs, ys] = [scope.reserve(4 * count), scope.reserve(4 * count)]
  const { buffer } = kernels().memory
  const [toX, toY] = [new Float32Array(buffer, xs, count), new Float32Array(buffer, ys, count)]
  for (let k = 0; k < end - begin; k++) {
    const pixel = pixels[begin + k]!
    const down = (pixel / width) | 0
    toX[k] = col + (pixel - down * width) + 0.5
    toY[k] = row + down + 0.5
  }
  toX.fill(OUTSIDE, end - begin)
  toY.fill(OUTSIDE, end - begin)
  return { xs, ys, count }
}

/** Bytes that `placesOfPixels` takes. */
export const placesBytes = (count: number): number => 8 * padded(count) + 64

/** How the light of a frame differs, in kernel memory; see `assembly/places.ts`. */
export interface KernelTone {
  readonly terms: number
  readonly x0: number
  readonly y0: number
  readonly unit: number
}

/** Where readings go: a plane of `stride` floats for each channel, and one for what a reading keeps of the grain. */
export interface ReadingPlanes {
  readonly values: number
  readonly kept: number
  readonly stride: number
}

export const readingBytes = (stride: number, channels: number): number => 4 * stride * (channels + 1)

/** A frame in kernel memory, for reading many times. */
export interface KernelFrame {
  readonly channels: number
  /**
   * Reads the places, sent through a matrix, into planes; brought to another light where `tone` says how.
   * @param hasMarks  What shares are kept holds which places are read: see `markOtherLayers`.
   */
  readInto(
    to: ReadingPlanes,
    places: KernelPlaces,
    thereFromHere: Matrix3,
    tone: KernelTone | null,
    hasMarks?: boolean,
  ): void
}

/** Kernel memory that `openFrame` takes. */
export const openFrameBytes = ({ samples, masked }: GatherFrame): number =>
  samples.data.byteLength + (masked?.length ?? 0) + 256

/** Source: bicubic reading, R. Keys 1981; see the kernel. */
export function openFrame({ samples, rect, masked }: GatherFrame, scope: KernelScope): KernelFrame {
  const { width, height, channels, data } = samples
  const source = scope.pointerTo(data)
  const shut = masked ? scope.pointerTo(masked) : 0
  scope.reserve(16) // a line is read sixteen bytes at a time: the last one needs room behind it
  const matrixAt = scope.reserve(72)
  const is16 = data.BYTES_PER_ELEMENT === 2
  const scale = 1 / maximumOf(data)
  return {
    channels,
    readInto({ values, kept, stride }, { xs, ys, count }, thereFromHere, tone, hasMarks = false) {
      new Float64Array(kernels().memory.buffer, matrixAt, 9).set(thereFromHere)
      // prettier-ignore
      kernels().readPlaces(
        source, is16, scale, rect.col, rect.row, width, height, channels, shut, matrixAt, xs, ys, count,
        tone?.terms ?? 0, tone?.x0 ?? 0, tone?.y0 ?? 0, tone?.unit ?? 1, values, stride, kept, hasMarks,
      )
    },
  }
}
