/** CIELAB and how far two colours look apart. CIE 15:2004 under D65, from linear sRGB (IEC 61966-2-1). */
import { atan2, cos, exp, pow, sin } from '../kernels/exact'

/** L* 0 to 100, a* and b* about −130 to 130. */
export type Lab = readonly [lightness: number, a: number, b: number]

/** The white of D65, CIE 15, for the 2° observer. */
const WHITE = [0.95047, 1, 1.08883] as const
const [LINEAR_BELOW, LINEAR_SLOPE, LINEAR_AT_0] = [216 / 24389, 841 / 108, 4 / 29]

/** @param red, green, blue  Linear light, 1 for white. */
export function labOf(red: number, green: number, blue: number): Lab {
  const x = 0.4124564 * red + 0.3575761 * green + 0.1804375 * blue
  const y = 0.2126729 * red + 0.7151522 * green + 0.072175 * blue
  const z = 0.0193339 * red + 0.119192 * green + 0.9503041 * blue
  const [fx, fy, fz] = [rooted(x / WHITE[0]), rooted(y / WHITE[1]), rooted(z / WHITE[2])]
  return [116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)]
}

const rooted = (share: number): number =>
  share > LINEAR_BELOW ? pow(share, 1 / 3) : LINEAR_SLOPE * share + LINEAR_AT_0

const DEGREE = Math.PI / 180
const FULL_CHROMA = pow(25, 7)

/**
 * CIEDE2000, with all weights 1: about 1 is just seen side by side.
 * Source: G. Sharma, W. Wu, E. N. Dalal, "The CIEDE2000 color-difference formula: implementation notes, supplementary test data, and mathematical
 * observations", Color Research and Application 30(1), 2005.
 */
export function deltaE2000([l1, a1, b1]: Lab, [l2, a2, b2]: Lab): number {
  const meanChroma = (lengthOf(a1, b1) + lengthOf(a2, b2)) / 2
  const raised = 0.5 * (1 - Math.sqrt(seventh(meanChroma) / (seventh(meanChroma) + FULL_CHROMA)))
  const [c1, c2] = [lengthOf((1 + raised) * a1, b1), lengthOf((1 + raised) * a2, b2)]
  const [h1, h2] = [hueOf((1 + raised) * a1, b1), hueOf((1 + raised) * a2, b2)]
  const isGrey = c1 * c2 === 0
  const turn = isGrey ? 0 : h2 - h1 > 180 ? h2 - h1 - 360 : h2 - h1 < -180 ? h2 - h1 + 360 : h2 - h1
  const [dl, dc, dh] = [l2 - l1, c2 - c1, 2 * Math.sqrt(c1 * c2) * sin((turn / 2) * DEGREE)]
  const [l, c] = [(l1 + l2) / 2, (c1 + c2) / 2]
  const sum = h1 + h2
  const h = isGrey ? sum : Math.abs(h1 - h2) <= 180 ? sum / 2 : sum < 360 ? (sum + 360) / 2 : (sum - 360) / 2
  const t =
    1 -
    0.17 * cos((h - 30) * DEGREE) +
    0.24 * cos(2 * h * DEGREE) +
    0.32 * cos((3 * h + 6) * DEGREE) -
    0.2 * cos((4 * h - 63) * DEGREE)
  const square = (l - 50) * (l - 50)
  const sl = 1 + (0.015 * square) / Math.sqrt(20 + square)
  const [sc, sh] = [1 + 0.045 * c, 1 + 0.015 * c * t]
  const near = (h - 275) / 25
  const turned = 60 * exp(-near * near)
  const rt = -2 * Math.sqrt(seventh(c) / (seventh(c) + FULL_CHROMA)) * sin(turned * DEGREE)
  const [x, y, z] = [dl / sl, dc / sc, dh / sh]
  return Math.sqrt(x * x + y * y + z * z + rt * y * z)
}

const lengthOf = (a: number, b: number): number => Math.sqrt(a * a + b * b)
const seventh = (value: number): number => value * value * value * value * value * value * value
const hueOf = (a: number, b: number): number => {
  if (a === 0 && b === 0) return 0
  const degrees = atan2(b, a) / DEGREE
  return degrees < 0 ? degrees + 360 : degrees
}
