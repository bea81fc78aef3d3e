/** Brightness and colour of a fill: agreed with its new place, and trimmed. */
import { srgb } from '../colour/transfer'
import { pow } from '../kernels/exact'

/** Sums over pairs (place, copy) on the ring around an area, per channel: n, Σp, Σc, Σpp, Σcc. */
export type PairSums = Float64Array

const SUMS = 5

export const newPairs = (channels: number): PairSums => new Float64Array(channels * SUMS)

export function addPair(sums: PairSums, channel: number, place: number, copy: number): void {
  const at = channel * SUMS
  sums[at]!++
  sums[at + 1]! += place
  sums[at + 2]! += copy
  sums[at + 3]! += place * place
  sums[at + 4]! += copy * copy
}

/** Pairs of several frames, each frame with its own weight. */
export function joinPairs(all: readonly { readonly sums: PairSums; readonly weight: number }[]): PairSums {
  const out = new Float64Array(all[0]?.sums.length ?? 0)
  for (const { sums, weight } of all) for (let i = 0; i < out.length; i++) out[i]! += weight * sums[i]!
  return out
}

/** What brings a copy's values to its new place: place ≈ gain × copy + offset. */
export interface ToneMatch {
  readonly gains: Float64Array
  readonly offsets: Float64Array
}

const MIN_PAIRS = 24
const CALM = 0.015 * 0.015 // variance, in the plate's scale: on flat ground grain alone must not decide the gain
const MAX_GAIN = 2

/**
 * Gain and offset per channel from mean and spread on the ring. @returns null where too little of it was seen.
 * Source: E. Reinhard et al., "Color transfer between images", IEEE CG&A 21(5), 2001 (means and deviations), calmed on flat ground.
 */
export function matchTone(sums: PairSums): ToneMatch | null {
  const channels = sums.length / SUMS
  const gains = new Float64Array(channels)
  const offsets = new Float64Array(channels)
  for (let channel = 0; channel < channels; channel++) {
    const [n, p, c, pp, cc] = sums.subarray(channel * SUMS, (channel + 1) * SUMS) as unknown as [
      number,
      number,
      number,
      number,
      number,
    ]
    if (n < MIN_PAIRS) return null
    const spread = (sum: number, squares: number) => Math.max(0, squares / n - (sum / n) * (sum / n))
    const gain = Math.sqrt((spread(p, pp) + CALM) / (spread(c, cc) + CALM))
    gains[channel] = Math.min(Math.max(gain, 1 / MAX_GAIN), MAX_GAIN)
    offsets[channel] = p / n - gains[channel]! * (c / n)
  }
  return { gains, offsets }
}

const STEPS = 2048

/** A curve that brightens code values by so many stops of light; null where it changes nothing. */
export function exposureCurve(stops: number): ((value: number) => number) | null {
  if (stops === 0) return null
  const gain = pow(2, stops)
  const curve = Float64Array.from({ length: STEPS + 2 }, (_, i) => srgb.encode(gain * srgb.decode(i / STEPS)))
  return (value) => {
    if (!(value >= 0 && value <= 1)) return srgb.encode(gain * srgb.decode(value))
    const at = value * STEPS
    const i = Math.floor(at)
    return curve[i]! + (at - i) * (curve[i + 1]! - curve[i]!)
  }
}

/** Luma weights. Source: ITU-R BT.709-6, item 3.2. */
const LUMA = [0.2126, 0.7152, 0.0722] as const

/** Moves the colours of one pixel away from its grey or towards it, in place. @param saturation  0 grey, 1 as it is. */
export function saturateInto(values: Float32Array, at: number, saturation: number): void {
  const grey = LUMA[0] * values[at]! + LUMA[1] * values[at + 1]! + LUMA[2] * values[at + 2]!
  for (let c = at; c < at + 3; c++) values[c] = grey + saturation * (values[c]! - grey)
}
