/**
 * Pictures in memory.
 *
 * A raster is row-major and interleaved: sample (col, row, channel) lies at
 * `(row * width + col) * channels + channel`. Values are 32-bit floats in the plate's own encoding,
 * 0 to 1 for integer plates; alpha, where there is one, is the last channel and straight.
 * Positions `x`, `y` are continuous: pixel (col, row) covers [col, col + 1) × [row, row + 1) and its
 * value sits at its centre, +0.5.
 */
import type { KernelScope } from '../kernels/memory'
import type { Rect } from './rect'

export interface Raster {
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly data: Float32Array
}

/** One channel. A matte is a plane of coverage: 0 keeps the plate, 1 replaces it, between blends. */
export interface Plane {
  readonly width: number
  readonly height: number
  readonly data: Float32Array
}
export type Matte = Plane

/** A new raster, all zero. @throws RangeError when a size is not a whole number above zero. */
export function createRaster(width: number, height: number, channels: number): Raster {
  requireCount('width', width)
  requireCount('height', height)
  requireCount('channels', channels)
  return { width, height, channels, data: new Float32Array(width * height * channels) }
}

export function createPlane(width: number, height: number): Plane {
  requireCount('width', width)
  requireCount('height', height)
  return { width, height, data: new Float32Array(width * height) }
}

/** A rectangle cut out of a raster, inside of it; the same raster where that is all of it. */
export function cropRaster(raster: Raster, { col, row, width, height }: Rect): Raster {
  if (width === raster.width && height === raster.height) return raster
  const { channels } = raster
  const data = new Float32Array(width * height * channels)
  for (let y = 0; y < height; y++) {
    const from = ((row + y) * raster.width + col) * channels
    data.set(raster.data.subarray(from, from + width * channels), y * width * channels)
  }
  return { width, height, channels, data }
}

/** A rectangle of a raster in kernel memory, its rows one after the other. @returns Its address. */
export function pointerToPart(raster: Raster, { col, row, width, height }: Rect, scope: KernelScope): number {
  if (width === raster.width && height === raster.height) return scope.pointerTo(raster.data)
  const { channels, data } = raster
  const out = scope.floats(width * height * channels)
  for (let y = 0; y < height; y++) {
    const from = ((row + y) * raster.width + col) * channels
    out.set(data.subarray(from, from + width * channels), y * width * channels)
  }
  return out.byteOffset
}

/** One channel of a raster as a plane of its own. */
export function extractChannel(raster: Raster, channel: number): Plane {
  if (!(channel >= 0 && channel < raster.channels)) {
    throw new RangeError(`channel must be 0 to ${raster.channels - 1}. Received ${channel}`)
  }
  const plane = createPlane(raster.width, raster.height)
  for (let i = 0, from = channel; i < plane.data.length; i++, from += raster.channels)
    plane.data[i] = raster.data[from]!
  return plane
}

function requireCount(name: string, value: number): void {
  if (!Number.isInteger(value) || value < 1)
    throw new RangeError(`${name} must be a whole number above 0. Received ${value}`)
}
