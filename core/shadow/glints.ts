/**
 * Glints in a shadow: small places that shine by light which the shadow does not take, the sky in water, a lamp in a wet stone. Given the missing light
 * back they would burn, and taken for ground they say that there is no shadow around them; what the same place shows lit is better.
 */
import { boxSums } from '../image/windows'
import type { ShadedPlaces } from './shade'

/** A place that has so many times as much of its light as what lies around it, and so much more light of a scale of 1, is none of its ground. Set on made-up specks; LM_030 and `shadow_01` report. */
const [BRIGHTER, BRIGHTER_BY] = [1.4, 0.02]
/** What lies around are squares of 2 radius + 1 px to four sides, so far away: beside a shadow's own edge one of them is as bright. */
const [RADIUS_PX, ASIDE_PX] = [3, 6]
/** Something that passes by itself is larger: it covers more than this share of such a square. */
const MAX_SHARE = 0.35
/** The rim of a glint belongs to it, brighter by half of that. */
const RIM_PX = 1

/**
 * @param own, lit  Light of the plate and of the ground lit, colours interleaved, place by place. @param isLit  1 for each place that was seen lit.
 * @returns 1 for each place that is a glint.
 */
export function glintsOf(
  own: Float32Array,
  lit: Float32Array,
  isLit: Uint8Array,
  { width, height, colours, pixels }: ShadedPlaces,
): Uint8Array {
  const [shares, known] = [new Float32Array(width * height), new Float32Array(width * height)]
  for (let k = 0; k < pixels.length; k++) {
    if (isLit[k] === 0) continue
    const ground = lightOf(lit, k, colours)
    if (ground <= 0) continue
    shares[pixels[k]!] = lightOf(own, k, colours) / ground
    known[pixels[k]!] = 1
  }
  const [sums, counts] = [boxSums(shares, width, height, RADIUS_PX), boxSums(known, width, height, RADIUS_PX)]
  const [bright, isRim] = [new Float32Array(width * height), new Uint8Array(pixels.length)]
  for (let k = 0; k < pixels.length; k++) {
    const pixel = pixels[k]!
    if (known[pixel] === 0) continue
    const around = brightestAround(sums, counts, width, height, pixel)
    const [share, over] = [shares[pixel]!, (shares[pixel]! - around) * lightOf(lit, k, colours)]
    if (share > BRIGHTER * around && over > BRIGHTER_BY) bright[pixel] = 1
    if (share > ((1 + BRIGHTER) / 2) * around && over > BRIGHTER_BY / 2) isRim[k] = 1
  }
  const near = boxSums(bright, width, height, RADIUS_PX)
  const max = MAX_SHARE * (2 * RADIUS_PX + 1) * (2 * RADIUS_PX + 1)
  for (let at = 0; at < bright.length; at++) if (near[at]! > max) bright[at] = 0
  const beside = boxSums(bright, width, height, RIM_PX)
  return Uint8Array.from(pixels, (pixel, k) => (beside[pixel]! > 0.5 && isRim[k] === 1 ? 1 : 0))
}

function lightOf(values: Float32Array, place: number, colours: number): number {
  let sum = 0
  for (let c = 0; c < colours; c++) sum += values[place * colours + c]!
  return sum / colours
}

/** The largest of the means of squares to four sides, of those in which anything is known; infinite where none is. */
function brightestAround(
  sums: Float32Array,
  counts: Float32Array,
  width: number,
  height: number,
  pixel: number,
): number {
  const row = Math.floor(pixel / width)
  const col = pixel - row * width
  let max = -Infinity
  for (let side = 0; side < 4; side++) {
    const away = side % 2 === 0 ? -ASIDE_PX : ASIDE_PX
    const isAcross = side < 2
    const at = isAcross ? col + away : row + away
    if (at < 0 || at >= (isAcross ? width : height)) continue
    const there = pixel + (isAcross ? away : away * width)
    if (counts[there]! > 0.5) max = Math.max(max, sums[there]! / counts[there]!)
  }
  return max === -Infinity ? Infinity : max
}
