/** What a shadow is: how strong it is at each place, and how much of each colour's light it takes where it is full. */

/** Places of a crop that a shadow may lie on. */
export interface ShadedPlaces {
  readonly width: number
  readonly height: number
  /** Index `row * width + col` of each place, in reading order. */
  readonly pixels: Int32Array
  readonly colours: number
}

export interface Shade {
  /** For each place, 0 where it is lit and 1 where the shadow is full. */
  readonly strengths: Float32Array
  /** For each colour the share of light that is missing at strength 1, above 0 and below 1. */
  readonly missing: readonly number[]
}

/** Nothing that shows comes through where less than this share of the light is left. */
const LEAST_THROUGH = 0.01

/** The share of a colour's light that comes through. */
export const shareThrough = (strength: number, missing: number): number =>
  Math.max(LEAST_THROUGH, 1 - strength * missing)
