/** Creases of skin: darker than what lies to both sides, narrower than a blotch. */
import { brightnessOf } from '../colour/ycc'
import type { Raster } from '../image/raster'
import { boxSums, slidingLeast } from '../image/windows'

/** What is darker by more than this share of its surroundings is no crease but a hole: a nostril, a shadow. Chosen, tuned on nothing. */
const MAX_DEPTH = 0.45
/** Darker brightness than this says nothing of shares. */
const MIN_LIGHT = 0.02
/** So much of a crease goes at most: filled altogether it would be a scar. */
const MAX_LIFT = 0.8

/**
 * How far each pixel has to be raised so that creases are softer.
 * @param middle  Red, green, blue without pores, and the matte. @param widthPx  Creases are at most so wide.
 * @param share  Of them that goes, 0 to 1. @returns Shares by which each pixel becomes brighter.
 * Source: closing by a flat square, J. Serra, "Image analysis and mathematical morphology", 1982, softened by a mean of the same width.
 */
export function creaseLifts({ width, height, data }: Raster, widthPx: number, share: number): Float32Array {
  const radius = Math.max(1, Math.round(widthPx / 2))
  const light = Float32Array.from({ length: width * height }, (_, at) =>
    data[4 * at + 3]! > 0 ? brightnessOf(data[4 * at]!, data[4 * at + 1]!, data[4 * at + 2]!) : 0,
  )
  const lifts = closed(light, width, height, radius)
  for (let at = 0; at < lifts.length; at++) {
    const depth = light[at]! > MIN_LIGHT ? lifts[at]! / light[at]! - 1 : 0
    lifts[at] = depth < MAX_DEPTH ? depth : 0
  }
  const soft = Math.max(1, radius >> 1)
  const sums = boxSums(lifts, width, height, soft)
  const each = (MAX_LIFT * share) / ((2 * soft + 1) * (2 * soft + 1))
  return sums.map((sum) => each * sum)
}

/** The least over squares of what is largest over squares: never below the map itself. */
function closed(map: Float32Array, width: number, height: number, radius: number): Float32Array {
  const negative = map.map((value) => -value)
  const largest = slidingLeast(negative, width, height, radius).map((value) => -value)
  return slidingLeast(largest, width, height, radius)
}
