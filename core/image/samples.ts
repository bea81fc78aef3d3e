/**
 * Integer samples as files hold them, and their way to floats and back.
 *
 * A picture of samples has the layout of a raster (interleaved, row-major) at 8 or 16 bits. Floats are
 * sample / maximum; the way back rounds to the nearest sample. There and back returns every sample.
 */
import { kernels } from '../kernels/module'
import { type KernelScope, withKernelMemory, writeWithKernel } from '../kernels/memory'
import type { Raster } from './raster'
import type { Rect } from './rect'

export type SampleArray = Uint8Array | Uint16Array
export type BitDepth = 8 | 16

export interface Samples {
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly data: SampleArray
}

const { floor } = Math // looked up once: it runs for every sample

export const maximumOf = (data: SampleArray): number => (data.BYTES_PER_ELEMENT === 1 ? 255 : 65535)

export function createSamples(width: number, height: number, channels: number, bitDepth: BitDepth): Samples {
  const length = width * height * channels
  return { width, height, channels, data: bitDepth === 8 ? new Uint8Array(length) : new Uint16Array(length) }
}

/** Floats 0 to 1 from samples; both have the same number of values. */
export function floatsFromSamplesInto(target: Float32Array, source: SampleArray, scope: KernelScope): void {
  if (target.length !== source.length) {
    throw new RangeError(`target must hold ${source.length} values. Received ${target.length}`)
  }
  const from = scope.pointerTo(source)
  const convert = source.BYTES_PER_ELEMENT === 1 ? kernels().integersToFloats8 : kernels().integersToFloats16
  writeWithKernel(scope, target, (to) => convert(from, to, source.length))
}

/** Samples as a raster of floats. @param into  As many floats that it may lie in. */
export function rasterFromSamples(
  { width, height, channels, data }: Samples,
  into: Float32Array = new Float32Array(data.length),
): Raster {
  const raster: Raster = { width, height, channels, data: into }
  withKernelMemory(data.length * 6 + 4096, (scope) => floatsFromSamplesInto(raster.data, data, scope))
  return raster
}

/** The nearest sample for a float; beyond 0 to 1 the end of the range. */
export function sampleFromFloat(value: number, maximum: number): number {
  const scaled = floor(value * maximum + 0.5)
  return scaled < 0 ? 0 : scaled > maximum ? maximum : scaled
}

/** Samples from floats, rounded to the nearest and limited to the range. */
export function samplesFromRaster(raster: Raster, bitDepth: BitDepth): Samples {
  const samples = createSamples(raster.width, raster.height, raster.channels, bitDepth)
  withKernelMemory(samplesBytes(raster.data.length), (scope) =>
    samplesFromFloatsInto(samples.data, raster.data, scope),
  )
  return samples
}

/** Kernel memory for `samplesFromFloatsInto`. */
export const samplesBytes = (length: number): number => 6 * length + 64

/** The nearest samples for floats; both have the same number of values. As `sampleFromFloat` does it one by one. */
export function samplesFromFloatsInto(target: SampleArray, source: Float32Array, scope: KernelScope): void {
  const { memory, floatsToIntegers8, floatsToIntegers16 } = kernels()
  const is8 = target.BYTES_PER_ELEMENT === 1
  const [from, to] = [scope.pointerTo(source), scope.reserve(target.byteLength)]
  ;(is8 ? floatsToIntegers8 : floatsToIntegers16)(from, to, target.length)
  target.set(is8 ? new Uint8Array(memory.buffer, to, target.length) : new Uint16Array(memory.buffer, to, target.length)) // prettier-ignore
}

/** The smallest rectangle outside which two pictures of one size are the same; null where they are the same all over. */
export function differingRect(one: Samples, other: Samples): Rect | null {
  const { width, height, channels, data } = one
  const stride = width * channels
  let [left, right, top, bottom] = [stride, -1, -1, -1]
  for (let row = 0, start = 0; row < height; row++, start += stride) {
    let first = 0
    while (first < stride && data[start + first] === other.data[start + first]) first++
    if (first === stride) continue
    let last = stride - 1
    while (data[start + last] === other.data[start + last]) last--
    left = first < left ? first : left
    right = last > right ? last : right
    top = top < 0 ? row : top
    bottom = row
  }
  if (top < 0) return null
  const col = floor(left / channels)
  return { col, row: top, width: floor(right / channels) + 1 - col, height: bottom + 1 - top }
}

/** A rectangle cut out of samples. @throws RangeError when it reaches beyond them. */
export function cropSamples(source: Samples, rect: Rect): Samples {
  const { channels } = source
  if (
    rect.col < 0 ||
    rect.row < 0 ||
    rect.col + rect.width > source.width ||
    rect.row + rect.height > source.height
  ) {
    throw new RangeError(
      `rect must lie inside ${source.width} × ${source.height}. Received ${JSON.stringify(rect)}`,
    )
  }
  const out = createSamples(rect.width, rect.height, channels, source.data.BYTES_PER_ELEMENT === 1 ? 8 : 16)
  copyRectInto(out, 0, 0, source, rect)
  return out
}

/** Writes a rectangle of `source` over `target`, its top left corner at (col, row); both are inside, at one depth, with the same channels. */
export function copyRectInto(target: Samples, col: number, row: number, source: Samples, rect: Rect): void {
  const { channels } = target
  const length = rect.width * channels
  let from = (rect.row * source.width + rect.col) * channels
  let to = (row * target.width + col) * channels
  for (let y = 0; y < rect.height; y++) {
    target.data.set(source.data.subarray(from, from + length), to)
    from += source.width * channels
    to += target.width * channels
  }
}

/** Writes a patch of samples over `target` with its top left corner at (rect.col, rect.row). */
export function pasteSamplesInto(target: Samples, patch: Samples, rect: Rect): void {
  const { channels } = target
  if (patch.channels !== channels || patch.data.BYTES_PER_ELEMENT !== target.data.BYTES_PER_ELEMENT) {
    throw new RangeError('patch must have the channels and the depth of the target')
  }
  const { width, height } = rect
  copyRectInto(target, rect.col, rect.row, { ...patch, width }, { col: 0, row: 0, width, height })
}

/** 8-bit RGBA for a canvas: the top eight bits of each sample of three or four channels, opaque. */
export function rgba8FromSamples({ width, height, channels, data }: Samples): Uint8ClampedArray<ArrayBuffer> {
  const pixels = width * height
  const make = data.BYTES_PER_ELEMENT === 1 ? kernels().pictureOf8 : kernels().pictureOf16
  return withKernelMemory(data.byteLength + pixels * 4 + 4096, (scope) => {
    const from = scope.pointerTo(data)
    const to = scope.reserve(pixels * 4)
    make(from, to, pixels, channels)
    return new Uint8ClampedArray(kernels().memory.buffer, to, pixels * 4).slice()
  })
}

/** The same with an alpha of one sample for each pixel. */
export function rgba8WithAlpha(samples: Samples, alpha: Samples): Uint8ClampedArray<ArrayBuffer> {
  const out = rgba8FromSamples(samples)
  const shift = alpha.data.BYTES_PER_ELEMENT === 1 ? 0 : 8
  for (let i = 0; i < alpha.data.length; i++) out[i * 4 + 3] = alpha.data[i]! >> shift
  return out
}
