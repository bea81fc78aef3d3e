/**
 * A shadow that no frame shows lit is measured once, on the anchor frame, and goes with its ground from there: measured anew on each frame it
 * would flicker with the grain.
 */
import { apply, type Matrix3 } from '../../geometry/transform'
import type { Rect } from '../../image/rect'
import type { Shade } from '../../shadow/shade'
import type { FillInput, Prepared } from '../method'

/** A shadow as it lies on the anchor frame. */
export interface SteadyShade {
  readonly rect: Rect
  /** Strength of each pixel of the rectangle; NaN where the area does not lie. */
  readonly strengths: Float32Array
  readonly missing: readonly number[]
  /** Pixels of the area: all that it covers there during the span. */
  readonly count: number
}

/** So much of the area may lie beside what was measured, and what was measured be so many times as large: else the area does not rest on its ground. */
const MAX_BESIDE = 0.02
const MAX_LARGER = 1.05

export function steadyShade(
  { rect }: FillInput,
  pixels: Int32Array,
  { strengths, missing }: Shade,
): SteadyShade {
  const map = new Float32Array(rect.width * rect.height).fill(NaN)
  for (let k = 0; k < pixels.length; k++) map[pixels[k]!] = strengths[k]!
  return { rect, strengths: map, missing, count: pixels.length }
}

/** What was measured on the anchor frame, at the places of this one; null where it does not tell, or the area goes its own ways over the ground. */
export function shadeFromAnchor(
  prepared: readonly Prepared[],
  { rect }: FillInput,
  pixels: Int32Array,
): Shade | null {
  const anchor = prepared.find(({ purpose }) => purpose === 'anchor') as Prepared<SteadyShade> | undefined
  if (!anchor) return null
  const { value: there, groundFromHere } = anchor
  if (there.count > MAX_LARGER * pixels.length * areaScaleOf(groundFromHere)) return null
  const strengths = new Float32Array(pixels.length)
  let beside = 0
  for (let k = 0; k < pixels.length; k++) {
    const row = (pixels[k]! / rect.width) | 0
    const col = pixels[k]! - row * rect.width
    const { x, y } = apply(groundFromHere, rect.col + col + 0.5, rect.row + row + 0.5)
    const strength = strengthAt(there, x, y)
    if (Number.isNaN(strength)) beside++
    else strengths[k] = strength
  }
  return beside > MAX_BESIDE * pixels.length ? null : { strengths, missing: there.missing }
}

/** How many times as large an area becomes; near the middle of the picture, as far as it is seen in perspective. */
const areaScaleOf = ([a, b, , d, e, , , , w]: Matrix3): number => Math.abs(a * e - b * d) / (w * w)

/** Between four pixels, of those that were measured; NaN where none was. */
function strengthAt({ rect, strengths }: SteadyShade, x: number, y: number): number {
  const [left, top] = [x - rect.col - 0.5, y - rect.row - 0.5]
  const [col, row] = [Math.floor(left), Math.floor(top)]
  let [sum, say] = [0, 0]
  for (let down = 0; down < 2; down++) {
    for (let across = 0; across < 2; across++) {
      const [c, r] = [col + across, row + down]
      if (c < 0 || r < 0 || c >= rect.width || r >= rect.height) continue
      const strength = strengths[r * rect.width + c]!
      if (Number.isNaN(strength)) continue
      const weight = Math.abs(1 - across - (left - col)) * Math.abs(1 - down - (top - row)) + 1e-6
      sum += weight * strength
      say += weight
    }
  }
  return say > 0 ? sum / say : NaN
}
