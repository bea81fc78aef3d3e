/** What of a face must stay sharp while its skin is evened: outlines through places that were located. */
import { cos, sin } from '../kernels/exact'
import { norm, type Place } from '../geometry/transform'

/** Which of the located places are kept, part by part. Source of the numbers: the connections of the face mesh that come with its weights (Apache-2.0). */
const PARTS = {
  lips: [61, 146, 91, 181, 84, 17, 314, 405, 321, 375, 291, 409, 270, 269, 267, 0, 37, 39, 40, 185],
  'right eye': [33, 7, 163, 144, 145, 153, 154, 155, 133, 173, 157, 158, 159, 160, 161, 246],
  'left eye': [263, 249, 390, 373, 374, 380, 381, 382, 362, 398, 384, 385, 386, 387, 388, 466],
  'right brow': [70, 63, 105, 66, 107, 55, 65, 52, 53, 46],
  'left brow': [300, 293, 334, 296, 336, 285, 295, 282, 283, 276],
  nostrils: [48, 64, 98, 97, 2, 326, 327, 294, 278, 440, 275, 4, 45, 220],
  face: [
    10, 338, 297, 332, 284, 251, 389, 356, 454, 323, 361, 288, 397, 365, 379, 378, 400, 377, 152, 148, 176,
    149, 150, 136, 172, 58, 132, 93, 234, 127, 162, 21, 54, 103, 67, 109,
  ],
} as const
export type FacePart = keyof typeof PARTS

const NAMES = Object.keys(PARTS) as FacePart[]
/** Where the middle of the nose's base is among the numbers of the nostrils. */
const NOSE_AT = 2 * PARTS.nostrils.indexOf(2)
/** What is held out of a mend of skin. */
export const FEATURES: readonly FacePart[] = NAMES.filter((name) => name !== 'face')
const KEPT = NAMES.flatMap((name) => [...PARTS[name]])

/** Lashes, the lips' soft edge: outlines through the places themselves cut them off, so they lie further out by so many distances between the eyes. Set on scikit-image's portrait, moved: .04 holds 99 % of all of them, .03 does not. */
const GROWN = 0.05
/** An outline has so many points: few enough to be set right by hand. */
const OUTLINE_POINTS = 12

/** The places that are kept of all that were located, x, y pairs. */
export const keptPlaces = (points: ArrayLike<number>): number[] =>
  KEPT.flatMap((index) => [points[2 * index]!, points[2 * index + 1]!])

/** The places of one part among those kept. */
export function placesOfPart(kept: readonly number[], part: FacePart): number[] {
  let from = 0
  for (const name of NAMES) {
    const length = 2 * PARTS[name].length
    if (name === part) return kept.slice(from, from + length)
    from += length
  }
  return []
}

/** Around a part, a little further out: for each of some directions the place that lies furthest that way. */
export function outlineOfPart(kept: readonly number[], part: FacePart): Place[] {
  const reachPx = GROWN * eyesPxOf(kept)
  const places = placesOfPart(kept, part)
  return Array.from({ length: OUTLINE_POINTS }, (_, i) => {
    const angle = (2 * Math.PI * i) / OUTLINE_POINTS
    const [x, y] = [cos(angle), sin(angle)]
    let best = 0
    for (let at = 0; at < places.length; at += 2)
      if (places[at]! * x + places[at + 1]! * y > places[best]! * x + places[best + 1]! * y) best = at
    return { x: places[best]! + reachPx * x, y: places[best + 1]! + reachPx * y }
  })
}

/** How far a face is turned aside: 0 from the front, about .5 where the nose lies over an eye's corner. */
export function turnedAside(kept: readonly number[]): number {
  const [right, left] = [placesOfPart(kept, 'right eye'), placesOfPart(kept, 'left eye')]
  const nose = placesOfPart(kept, 'nostrils').slice(NOSE_AT, NOSE_AT + 2)
  const [x, y] = [left[0]! - right[0]!, left[1]! - right[1]!]
  const along = ((nose[0]! - right[0]!) * x + (nose[1]! - right[1]!) * y) / (x * x + y * y)
  return Math.abs(along - 0.5)
}

/** The distance between the outer corners of the eyes: the measure of a face. */
function eyesPxOf(kept: readonly number[]): number {
  const [right, left] = [placesOfPart(kept, 'right eye'), placesOfPart(kept, 'left eye')]
  return norm(left[0]! - right[0]!, left[1]! - right[1]!)
}
