/** Reading other frames at the places of one frame, and joining what they show. */
import type { Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import type { LayerMap } from '../scene/layerMap'
import { kernels } from '../kernels/module'
import { withKernelMemory, type KernelScope } from '../kernels/memory'

/** A crop of another frame, and what of it may be taken: nothing where `taboo` is not 0. */
export interface GatherFrame {
  readonly frame: number
  readonly picture: Raster
  /** Where the crop lies in the full picture. */
  readonly rect: Rect
  readonly taboo: Uint8Array | null
  /** Where places of this frame lie there, for each layer of the scene; the first is the largest. */
  readonly layersFromHere: readonly Matrix3[]
  /** Where which layer is seen there, if that is known. */
  readonly layerMap?: LayerMap | null
}

/** What one frame shows of many places. */
export interface Readings {
  /** Channels interleaved; meaningless where `kept` is below 0. */
  readonly values: Float32Array
  /** The share of the grain's variance that reading between pixels keeps; −1 where nothing may be read. */
  readonly kept: Float32Array
}

/** A frame's samples and taboo in kernel memory, for reading many times. */
export interface OpenFrame {
  /** @param places  x, y pairs in px of the full picture. */
  read(thereFromHere: Matrix3, places: Float32Array): Readings
}

/** Room that `openFrame` and its readings of so many places take. */
export const openFrameBytes = ({ picture }: GatherFrame, places: number): number =>
  picture.data.byteLength + picture.width * picture.height + places * (8 + 4 * picture.channels + 4) + 4096

/** Source: bicubic reading, R. Keys 1981; see the kernel. */
export function openFrame({ picture, rect, taboo }: GatherFrame, scope: KernelScope): OpenFrame {
  const source = scope.pointerTo(picture.data)
  const masked = taboo ? scope.pointerTo(taboo) : 0
  const matrixAt = scope.pointerTo(new Float64Array(9))
  return {
    read(thereFromHere, places) {
      const count = places.length / 2
      const values = new Float32Array(count * picture.channels)
      const kept = new Float32Array(count)
      withKernelMemory(0, (inner) => {
        const xy = inner.pointerTo(places)
        const [to, share] = [inner.reserve(values.byteLength), inner.reserve(kept.byteLength)]
        const { buffer } = kernels().memory
        new Float64Array(buffer, matrixAt, 9).set(thereFromHere)
        kernels().readThrough(
          source,
          rect.col,
          rect.row,
          picture.width,
          picture.height,
          picture.channels,
          masked,
          matrixAt,
          xy,
          count,
          to,
          share,
        )
        values.set(new Float32Array(buffer, to, values.length))
        kept.set(new Float32Array(buffer, share, count))
      })
      return { values, kept }
    },
  }
}

export interface Joined {
  /** Channels interleaved; 0 where nobody saw the place. */
  readonly values: Float32Array
  /** The share of one frame's grain variance that the joined values still have, if every reading's grain is its own. */
  readonly variance: Float32Array
  /** How many frames saw each place. */
  readonly seen: Float32Array
  /** The share of those, by weight, that agree with each other: low where something passes through. */
  readonly agree: Float32Array
}

/**
 * The weighted median of each channel, and around it the mean with weights that fall as Tukey's biweight.
 * @param tolerances  For each channel: values further from the median have no say.
 */
export function joinReadings(
  readings: readonly Readings[],
  weights: readonly number[],
  tolerances: readonly number[],
): Joined {
  const channels = tolerances.length
  const frames = readings.length
  const count = frames === 0 ? 0 : readings[0]!.kept.length
  const joined: Joined = {
    values: new Float32Array(count * channels),
    variance: new Float32Array(count),
    seen: new Float32Array(count),
    agree: new Float32Array(count),
  }
  // In pieces: the memory of the kernels stays small however large the area is.
  for (let from = 0; from < count; from += PIECE)
    joinPiece(joined, readings, weights, tolerances, from, Math.min(PIECE, count - from))
  return joined
}

const PIECE = 16384

function joinPiece(
  joined: Joined,
  readings: readonly Readings[],
  weights: readonly number[],
  tolerances: readonly number[],
  from: number,
  count: number,
): void {
  const channels = tolerances.length
  const frames = readings.length
  withKernelMemory(
    frames * count * (channels + 1) * 4 + frames * 8 + count * (channels + 3) * 4 + 8192,
    (scope) => {
      const [valuesAt, keptAt] = [
        scope.reserve(frames * count * channels * 4),
        scope.reserve(frames * count * 4),
      ]
      const weightsAt = scope.pointerTo(Float32Array.from(weights))
      const tolerancesAt = scope.pointerTo(Float32Array.from(tolerances))
      const orderAt = scope.reserve(frames * 4)
      const [outAt, varianceAt, seenAt, agreeAt] = [
        scope.reserve(count * channels * 4),
        scope.reserve(count * 4),
        scope.reserve(count * 4),
        scope.reserve(count * 4),
      ]
      const { buffer } = kernels().memory
      readings.forEach(({ values, kept }, i) => {
        new Float32Array(buffer, valuesAt + i * count * channels * 4, count * channels).set(
          values.subarray(from * channels, (from + count) * channels),
        )
        new Float32Array(buffer, keptAt + i * count * 4, count).set(kept.subarray(from, from + count))
      })
      new Float32Array(buffer, outAt, count * channels).fill(0)
      kernels().joinReadings(
        valuesAt,
        keptAt,
        weightsAt,
        frames,
        count,
        channels,
        tolerancesAt,
        orderAt,
        outAt,
        varianceAt,
        seenAt,
        agreeAt,
      )
      joined.values.set(new Float32Array(buffer, outAt, count * channels), from * channels)
      joined.variance.set(new Float32Array(buffer, varianceAt, count), from)
      joined.seen.set(new Float32Array(buffer, seenAt, count), from)
      joined.agree.set(new Float32Array(buffer, agreeAt, count), from)
    },
  )
}
