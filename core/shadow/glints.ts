/**
 * Glints in a shadow: small places that shine by light which the shadow does not take, the sky in water, a lamp in a wet stone. Given the missing light
 * back they would burn; what the same place shows lit is better.
 */
import { boxSums } from '../image/windows'
import { shareThrough, type Shade, type ShadedPlaces } from './shade'

/** Brighter than the ground lit by so much, as a factor and in light of a scale of 1, a place is none of its ground. Set on made-up specks; LM_030 and `shadow_01` have none that are found. */
const [BRIGHTER, BRIGHTER_BY] = [1.4, 0.02]
/** Something that passes by itself is larger: of a square of 2 radius + 1 px it covers more than this share. */
const RADIUS_PX = 4
const MAX_SHARE = 0.35
/** Its rim belongs to a glint, brighter by half of that. */
const RIM_PX = 1

/**
 * @param own, lit  Light of the plate and of the ground lit, colours interleaved, place by place. @param isLit  1 for each place that was seen lit.
 * @returns 1 for each place that is a glint.
 */
export function glintsOf(
  own: Float32Array,
  lit: Float32Array,
  isLit: Uint8Array,
  { strengths, missing }: Shade,
  { width, height, colours, pixels }: ShadedPlaces,
): Uint8Array {
  const [brighter, rims] = [new Float32Array(width * height), new Uint8Array(pixels.length)]
  for (let k = 0; k < pixels.length; k++) {
    if (isLit[k] === 0) continue
    let [lifted, ground] = [0, 0]
    for (let c = 0; c < colours; c++) {
      lifted += own[k * colours + c]! / shareThrough(strengths[k]!, missing[c]!) / colours
      ground += lit[k * colours + c]! / colours
    }
    if (lifted > BRIGHTER * ground + BRIGHTER_BY) brighter[pixels[k]!] = 1
    if (lifted > (1 + (BRIGHTER - 1) / 2) * ground + BRIGHTER_BY / 2) rims[k] = 1
  }
  const around = boxSums(brighter, width, height, RADIUS_PX)
  const max = MAX_SHARE * (2 * RADIUS_PX + 1) * (2 * RADIUS_PX + 1)
  for (let at = 0; at < brighter.length; at++) if (around[at]! > max) brighter[at] = 0
  const near = boxSums(brighter, width, height, RIM_PX)
  return Uint8Array.from(pixels, (pixel, k) => (near[pixel]! > 0.5 && rims[k] === 1 ? 1 : 0))
}
