/** Joining what frames show of the same places: see `assembly/join.ts`. */
import { kernels } from '../kernels/module'
import type { KernelScope } from '../kernels/memory'

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

/** Readings of several frames at the same places, in kernel memory: those of frame f begin f planes further on. */
export interface FrameReadings {
  readonly values: number
  readonly kept: number
  readonly frames: number
  /** Places, a multiple of a vector; planes are as long. */
  readonly stride: number
  readonly channels: number
}

/** What joins frames: their weights, and how far values may be apart. */
export interface Joining {
  readonly frames: number
  readonly channels: number
  readonly weights: number
  readonly tolerances: number
  readonly network: number
  readonly exchanges: number
  readonly scratch: number
}

/** What was joined, in kernel memory: planes of `stride` floats, those of the channels one after the other. */
export interface JoinedPlanes {
  readonly values: number
  readonly variance: number
  readonly seen: number
  readonly agree: number
  /** The index of the frame with the most say, as whole numbers. */
  readonly from: number
  readonly stride: number
}

const VECTOR_BYTES = 16

export const joiningBytes = (frames: number, channels: number): number =>
  4 * (frames + channels) + 8 * sortingNetwork(frames).length + 3 * VECTOR_BYTES * frames + 512

export function openJoining(
  scope: KernelScope,
  weights: readonly number[],
  tolerances: readonly number[],
): Joining {
  const network = sortingNetwork(weights.length)
  return {
    frames: weights.length,
    channels: tolerances.length,
    weights: scope.pointerTo(Float32Array.from(weights)),
    tolerances: scope.pointerTo(Float32Array.from(tolerances)),
    network: scope.pointerTo(network),
    exchanges: network.length / 2,
    scratch: scope.reserve(3 * VECTOR_BYTES * weights.length),
  }
}

export const joinedBytes = (stride: number, channels: number): number => 4 * stride * (channels + 4) + 256

export function reserveJoined(scope: KernelScope, stride: number, channels: number): JoinedPlanes {
  const plane = () => scope.reserve(4 * stride)
  return {
    values: scope.reserve(4 * stride * channels),
    variance: plane(),
    seen: plane(),
    agree: plane(),
    from: plane(),
    stride,
  }
}

/** The planes from a place on: for joining an area piece by piece. */
export const joinedFrom = (planes: JoinedPlanes, begin: number): JoinedPlanes => ({
  values: planes.values + 4 * begin,
  variance: planes.variance + 4 * begin,
  seen: planes.seen + 4 * begin,
  agree: planes.agree + 4 * begin,
  from: planes.from + 4 * begin,
  stride: planes.stride,
})

/** Joins the readings of so many places. */
export function joinInto(
  to: JoinedPlanes,
  { values, kept, frames, stride, channels }: FrameReadings,
  { weights, tolerances, network, exchanges, scratch }: Joining,
  count: number,
): void {
  // prettier-ignore
  kernels().joinPlaces(
    values, kept, weights, frames, count, stride, channels, tolerances, network, exchanges, scratch,
    to.values, to.stride, to.variance, to.seen, to.agree, to.from,
  )
}

const networks = new Map<number, Int32Array>()

/**
 * The exchanges that sort so many vectors, pairs of byte offsets, the lesser to come first.
 * Source: K. E. Batcher, "Sorting networks and their applications", AFIPS 1968: merge exchange, for any number.
 */
export function sortingNetwork(count: number): Int32Array {
  const known = networks.get(count)
  if (known) return known
  const pairs: number[] = []
  for (let p = 1; p < count; p *= 2) {
    for (let k = p; k >= 1; k /= 2) {
      for (let j = k % p; j + k < count; j += 2 * k) {
        for (let i = 0; i < Math.min(k, count - j - k); i++) {
          if (Math.floor((i + j) / (2 * p)) === Math.floor((i + j + k) / (2 * p)))
            pairs.push(VECTOR_BYTES * (i + j), VECTOR_BYTES * (i + j + k))
        }
      }
    }
  }
  const network = Int32Array.from(pairs)
  networks.set(count, network)
  return network
}
