/**
 * The rim of a gathered area: plate that is known on this frame as well as on the others. Where both agree, what was
 * gathered beside it can be trusted; where they do not, one of them shows something else there.
 */
import type { Raster } from '../image/raster'
import { kernels } from '../kernels/module'
import type { KernelScope } from '../kernels/memory'
import { padded, type ReadingPlanes } from './places'

/** Pixels of the rim in kernel memory, in rising order, with the plate there and the neighbours of each. */
export interface Rim {
  readonly pixels: Int32Array
  readonly count: number
  /** Planes of `count` floats. */
  readonly plate: number
  readonly starts: number
  readonly around: number
  /** Scratch of `count` floats. */
  readonly offs: number
  /** The least mean difference so far, and what it belongs to. */
  readonly least: number
  readonly best: number
  readonly verdicts: number
  readonly scales: number
  readonly channels: number
}

export const NOT_SHOWN = 2

const WINDOW_PX = 2 // to each side
const NEIGHBOURS = (2 * WINDOW_PX + 1) * (2 * WINDOW_PX + 1)
/** A single sample counts for so many variances at most: one speck of grain is no other thing. */
const MAX_OFF = 16
/** Mean squared difference, in variances, from which on it is something else: joints that lie a fraction of a pixel off stay below. */
const DIFFERS_FROM = 5
/** What a place is said to belong to may differ from it so much more than something else does. */
const FAVOUR = 0.6
/** Rounding, in the plate's scale. */
const MIN_DEVIATION = 1 / 255

export const rimBytes = (count: number, channels: number): number =>
  count * (4 * channels + 4 + 4 * NEIGHBOURS + 4 + 4 + 2) + 512

export function openRim(scope: KernelScope, pixels: Int32Array, picture: Raster): Rim {
  const { channels, data } = picture
  const count = pixels.length
  const plate = scope.reserve(4 * channels * count)
  const planes = new Float32Array(kernels().memory.buffer, plate, channels * count)
  for (let k = 0; k < count; k++)
    for (let c = 0; c < channels; c++) planes[c * count + k] = data[pixels[k]! * channels + c]!
  const { starts, around } = neighboursOf(pixels, picture)
  return {
    pixels,
    count,
    plate,
    starts: scope.pointerTo(starts),
    around: scope.pointerTo(around),
    offs: scope.reserve(4 * count),
    least: scope.reserve(4 * count),
    best: scope.reserve(count),
    verdicts: scope.reserve(count),
    scales: scope.reserve(4 * channels),
    channels,
  }
}

/** For each pixel those of the rim around it: from its start on, up to the next start. */
function neighboursOf(pixels: Int32Array, { width, height }: Raster) {
  const indexOf = new Int32Array(width * height).fill(-1)
  for (let k = 0; k < pixels.length; k++) indexOf[pixels[k]!] = k
  const starts = new Int32Array(pixels.length + 1)
  const around = new Int32Array(pixels.length * NEIGHBOURS)
  let found = 0
  for (let k = 0; k < pixels.length; k++) {
    const pixel = pixels[k]!
    const row = (pixel / width) | 0
    const col = pixel - row * width
    const [left, right] = [Math.max(0, col - WINDOW_PX), Math.min(width - 1, col + WINDOW_PX)]
    const last = Math.min(height - 1, row + WINDOW_PX)
    for (let y = Math.max(0, row - WINDOW_PX); y <= last; y++) {
      for (let at = y * width + left; at <= y * width + right; at++) {
        const other = indexOf[at]!
        if (other >= 0) around[found++] = other
      }
    }
    starts[k + 1] = found
  }
  return { starts, around: around.subarray(0, found) }
}

/** Begins a comparison. @param deviations  Of one frame's grain, for each channel. */
export function beginComparison({ count, least, scales }: Rim, deviations: readonly number[]): void {
  const { buffer } = kernels().memory
  new Float32Array(buffer, least, count).fill(Infinity)
  new Float32Array(buffer, scales, deviations.length).set(
    deviations.map((deviation) => 1 / Math.max(MIN_DEVIATION, deviation)),
  )
}

/**
 * Compares what is shown at the rim's places with the plate.
 * @param index  What it is called. @param told  In kernel memory, for each pixel the one it is said to belong to; 0: not known.
 */
export function compareShown(rim: Rim, shown: ReadingPlanes, index: number, told = 0): void {
  const { plate, count, channels, scales, starts, around, offs, least, best } = rim
  // prettier-ignore
  kernels().compareRim(
    plate, shown.values, shown.stride, shown.kept, count, channels, scales, MAX_OFF, starts, around, told, index, FAVOUR,
    offs, least, best,
  )
}

/**
 * The verdicts on what was compared: 1 where nothing agrees with the plate, 0 where something does, NOT_SHOWN where
 * nothing is shown. @returns How many are 1.
 */
export const endComparison = ({ least, count, verdicts }: Rim): number =>
  kernels().rimVerdicts(least, count, DIFFERS_FROM, verdicts)

/** The verdicts, and what each pixel is said to belong to, as plain arrays. */
export function readComparison({ count, best, verdicts }: Rim): { best: Uint8Array; differs: Uint8Array } {
  const { buffer } = kernels().memory
  return {
    best: new Uint8Array(buffer, best, count).slice(),
    differs: new Uint8Array(buffer, verdicts, count).slice(),
  }
}

/** Planes for what is shown at a rim, so that readings of all its places fit. */
export const rimStride = (count: number): number => padded(count)
