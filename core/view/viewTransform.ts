/**
 * Looking aids: the picture as it is shown, so that what hides in it can be seen. They work on pictures for the screen (8-bit RGBA)
 * and never on the footage.
 */
import { srgb } from '../colour/transfer'
import { boxSums } from '../image/windows'
import { pow } from '../kernels/exact'

export const AIDS = ['plain', 'boosted', 'mean', 'spread', 'neighbour', 'red', 'green', 'blue'] as const
export type Aid = (typeof AIDS)[number]

export interface ViewTransform {
  readonly aid: Aid
  /** Of the view: brighter by so many stops of light. */
  readonly exposureStops: number
  /** Of the view: above 1 lifts the middle. */
  readonly gamma: number
}

export const PLAIN_VIEW: ViewTransform = { aid: 'plain', exposureStops: 0, gamma: 1 }
export const EXPOSURE_STOPS = { min: -6, max: 6 } as const
export const GAMMA = { min: 0.25, max: 4 } as const

export const isPlain = ({ aid, exposureStops, gamma }: ViewTransform): boolean =>
  aid === 'plain' && exposureStops === 0 && gamma === 1

export interface ScreenPicture {
  readonly width: number
  readonly height: number
  /** RGBA, interleaved; changed in place. */
  readonly data: Uint8ClampedArray
}

/** Code values for code values: exposure in light, then gamma. Null where nothing changes. */
export function viewCurve({ exposureStops, gamma }: ViewTransform): Uint8ClampedArray | null {
  if (exposureStops === 0 && gamma === 1) return null
  const gain = pow(2, exposureStops)
  return Uint8ClampedArray.from(
    { length: 256 },
    (_, code) => 255 * pow(Math.min(1, srgb.encode(srgb.decode(code / 255) * gain)), 1 / gamma),
  )
}

export function applyCurve({ data }: ScreenPicture, curve: Uint8ClampedArray): void {
  for (let i = 0; i < data.length; i += 4) {
    data[i] = curve[data[i]!]!
    data[i + 1] = curve[data[i + 1]!]!
    data[i + 2] = curve[data[i + 2]!]!
  }
}

/** Shows one channel as grey. @param channel  0 red, 1 green, 2 blue. */
export function showChannel({ data }: ScreenPicture, channel: 0 | 1 | 2): void {
  for (let i = 0; i < data.length; i += 4) data[i] = data[i + 1] = data[i + 2] = data[i + channel]!
}

/** A deviation around a place is brought to so many code values; smoothness is not driven further than so many times. */
const SHOWN_DEVIATION = 42
const MAX_GAIN = 12
const MIN_DEVIATION = SHOWN_DEVIATION / MAX_GAIN

/**
 * Local contrast: each pixel as its difference from the mean around it, in deviations of what is around it. Faint and strong
 * structure show alike, whatever the light. Source: common practice (local normalisation).
 * @param radiusPx  How far around, in px of this picture.
 */
export function boostContrast({ data, width, height }: ScreenPicture, radiusPx: number): void {
  const count = width * height
  const [grey, square, ones] = [
    new Float32Array(count),
    new Float32Array(count),
    new Float32Array(count).fill(1),
  ]
  for (let i = 0; i < count; i++) {
    const value = (data[4 * i]! + 2 * data[4 * i + 1]! + data[4 * i + 2]!) / 4
    grey[i] = value
    square[i] = value * value
  }
  const radius = Math.max(1, Math.round(radiusPx))
  const [sums, squares, counts] = [grey, square, ones].map((map) => boxSums(map, width, height, radius)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  for (let i = 0; i < count; i++) {
    const mean = sums[i]! / counts[i]!
    const deviation = Math.sqrt(Math.max(0, squares[i]! / counts[i]! - mean * mean))
    const gain = SHOWN_DEVIATION / Math.max(MIN_DEVIATION, deviation)
    const shown = 128 + gain * (grey[i]! - mean)
    // Colours stay as they are: only light and dark are driven apart.
    for (let c = 0; c < 3; c++) data[4 * i + c] = shown + data[4 * i + c]! - grey[i]!
  }
}

const DIFFERENCE_GAIN = 3

/** What differs from another picture of the same size: mid grey where nothing does. */
export function showDifference({ data }: ScreenPicture, other: Uint8ClampedArray): void {
  for (let i = 0; i < data.length; i += 4) {
    for (let c = 0; c < 3; c++) data[i + c] = 128 + DIFFERENCE_GAIN * (data[i + c]! - other[i + c]!)
  }
}
