/** Plate around an area in kernel memory: places that this frame and others show, by which frames are laid over each other. */
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import { kernels } from '../kernels/module'
import type { KernelScope } from '../kernels/memory'
import { padded, placesOfPixels, type KernelPlaces } from './places'

export interface Anchors {
  readonly places: KernelPlaces
  /** How many there are; `places.count` is padded. */
  readonly count: number
  readonly channels: number
  /** Pixels of the crop. */
  readonly pixels: Int32Array
  /** Planes of `places.count` floats: what this frame shows, for each channel. */
  readonly values: number
  /** Brightness and its slopes on this frame, per px. */
  readonly brightness: number
  readonly slopesX: number
  readonly slopesY: number
  /** The places in units around their middle: for fits. */
  readonly unitXs: number
  readonly unitYs: number
  readonly frame: { readonly x: number; readonly y: number; readonly unit: number }
  /** Scratch for lists of `places.count` floats, and more. */
  readonly work: number
}

/** Beyond these hardly more is learnt: so many lay frames over each other to .05 px in grain. Set on generated pictures. */
export const MAX_ANCHORS = 1400
const INSET_PX = 2 // slopes are taken from means of 3 x 3 px
const WORK_VECTORS = 64

export const anchorsBytes = (count: number, channels: number): number =>
  padded(count) * 4 * (2 + channels + 5 + 2) + 16 * WORK_VECTORS + 1024

/** Some of the pixels, evenly thinned, that do not lie at the crop's edge. */
export function anchorPixels(around: Int32Array, { width, height }: Raster): Int32Array {
  const stride = Math.max(1, Math.ceil(around.length / MAX_ANCHORS))
  const out = new Int32Array(Math.min(around.length, MAX_ANCHORS + width))
  let count = 0
  for (let i = 0; i < around.length; i++) {
    const pixel = around[i]!
    const row = (pixel / width) | 0
    const col = pixel - row * width
    if (stride > 1 && (i + row) % stride !== 0) continue
    if (col < INSET_PX || row < INSET_PX || col >= width - INSET_PX || row >= height - INSET_PX) continue
    if (count < out.length) out[count++] = pixel
  }
  return out.slice(0, count)
}

export function openAnchors(scope: KernelScope, pixels: Int32Array, picture: Raster, rect: Rect): Anchors {
  const { channels, width, data } = picture
  const places = placesOfPixels(scope, pixels, rect)
  const plane = 4 * places.count
  const [values, brightness, slopesX, slopesY, unitXs, unitYs] = [
    scope.reserve(plane * channels),
    scope.reserve(plane),
    scope.reserve(plane),
    scope.reserve(plane),
    scope.reserve(plane),
    scope.reserve(plane),
  ]
  const work = scope.reserve(2 * plane + 16 * WORK_VECTORS)
  const { buffer } = kernels().memory
  const floats = (at: number, length = places.count) => new Float32Array(buffer, at, length)
  for (const at of [brightness, slopesX, slopesY]) floats(at).fill(0)
  const planes = floats(values, places.count * channels).fill(0)
  for (let k = 0; k < pixels.length; k++) {
    for (let c = 0; c < channels; c++) planes[c * places.count + k] = data[pixels[k]! * channels + c]!
  }
  slopesInto(picture, pixels, floats(brightness), floats(slopesX), floats(slopesY), width)
  const frame = unitsInto(floats(places.xs), floats(places.ys), pixels.length, floats(unitXs), floats(unitYs))
  return {
    places,
    count: pixels.length,
    channels,
    pixels,
    values,
    brightness,
    slopesX,
    slopesY,
    unitXs,
    unitYs,
    frame,
    work,
  }
}

/** Brightness, and its slopes as differences of means over 3 x 3 px. */
function slopesInto(
  { channels, data }: Raster,
  pixels: Int32Array,
  brightness: Float32Array,
  slopesX: Float32Array,
  slopesY: Float32Array,
  width: number,
): void {
  const lit = channels >= 3 ? 3 : 1
  const down = width * channels
  // Three columns, or rows, of which the middle one drops out of the difference: six means of three.
  const line = (at: number, step: number) => {
    let sum = 0
    for (let c = 0; c < channels; c++) sum += data[at + c - step]! + data[at + c]! + data[at + c + step]!
    return sum
  }
  for (let k = 0; k < pixels.length; k++) {
    const at = pixels[k]! * channels
    let sum = 0
    for (let c = 0; c < lit; c++) sum += data[at + c]!
    brightness[k] = sum / lit
    const right = line(at + 2 * channels, down) + line(at + channels, down)
    const left = line(at - 2 * channels, down) + line(at - channels, down)
    const below = line(at + 2 * down, channels) + line(at + down, channels)
    const above = line(at - 2 * down, channels) + line(at - down, channels)
    slopesX[k] = (right - left) / (18 * channels)
    slopesY[k] = (below - above) / (18 * channels)
  }
}

const MIN_UNIT_PX = 8

/** Places in units around the middle of their box, so that unknowns of a fit are of one size. */
function unitsInto(
  xs: Float32Array,
  ys: Float32Array,
  count: number,
  unitXs: Float32Array,
  unitYs: Float32Array,
) {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let k = 0; k < count; k++) {
    left = Math.min(left, xs[k]!)
    right = Math.max(right, xs[k]!)
    top = Math.min(top, ys[k]!)
    bottom = Math.max(bottom, ys[k]!)
  }
  const [x, y] = count === 0 ? [0, 0] : [(left + right) / 2, (top + bottom) / 2]
  const unit = count === 0 ? MIN_UNIT_PX : Math.max(MIN_UNIT_PX, (right - left) / 2, (bottom - top) / 2)
  unitXs.fill(0)
  unitYs.fill(0)
  for (let k = 0; k < count; k++) {
    unitXs[k] = (xs[k]! - x) / unit
    unitYs[k] = (ys[k]! - y) / unit
  }
  return { x, y, unit }
}
