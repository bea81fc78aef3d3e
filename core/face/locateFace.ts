/** The places of one face in a picture: its outline, eyes, brows, lips, nose. */
import type { Raster } from '../image/raster'
import { AROUND_FACE, directionOf } from './detectFaces'
import { FACE_POINTS, LOCATOR_PX, type FaceModel } from './faceModel'
import { boxAlong } from './turnedBox'
import { placeIn, squareOf, type TurnedSquare } from './turnedSquare'

/** Of faces it is .99 and more, of other things a few hundredths. */
const IS_FACE = 0.5
/** The outer corners of the eyes, right and left of the person. */
const EYE_CORNERS = [33, 263] as const

export interface LocatedFace {
  /** x, y pairs of all places, px of the picture. */
  readonly points: Float32Array
  /** How sure it is a face, 0 to 1. */
  readonly sure: number
}

/**
 * Looks twice: what lies in the square, and again in the square around what was found, which is steadier.
 * @returns null where it is no face.
 * Source: Y. Kartynnik et al., "Real-time facial surface geometry from monocular video on mobile GPUs", arXiv:1907.06724, 2019.
 */
export function locateFace(picture: Raster, square: TurnedSquare, model: FaceModel): LocatedFace | null {
  const first = locateOnce(picture, square, model)
  return first && locateOnce(picture, squareAround(first.points), model)
}

function locateOnce(picture: Raster, square: TurnedSquare, model: FaceModel): LocatedFace | null {
  const { points, sure } = model.locate(squareOf(picture, square, LOCATOR_PX, [0, 1]))
  if (sure <= IS_FACE) return null
  const out = new Float32Array(2 * FACE_POINTS)
  for (let i = 0; i < FACE_POINTS; i++) {
    const { x, y } = placeIn(square, points[3 * i]! / LOCATOR_PX, points[3 * i + 1]! / LOCATOR_PX)
    out[2 * i] = x
    out[2 * i + 1] = y
  }
  return { points: out, sure }
}

/** The square in which a face that lies there is looked for. */
export function squareAround(points: Float32Array): TurnedSquare {
  const [a, b] = EYE_CORNERS
  const right = directionOf(points[2 * b]! - points[2 * a]!, points[2 * b + 1]! - points[2 * a + 1]!)
  const { x, y, width, height } = boxAlong(points, right)
  return { x, y, sidePx: AROUND_FACE * Math.max(width, height), right }
}
