/** What looks at small square pictures for faces. It is given from outside: core opens no files and runs no networks. */

/** Sides of the squares that it takes, px. */
export const DETECTOR_PX = 256
export const LOCATOR_PX = 192

/** Places at which the detector looks: so many to a cell of so many px. */
export const DETECTOR_CELLS = [
  { stridePx: 16, each: 2 },
  { stridePx: 32, each: 6 },
] as const
/** Numbers that say where a face is, of each place: middle, width and height, then two eyes, nose, mouth and two ears; px of the square, from the cell's middle. */
export const BOX_NUMBERS = 16
/** Places of a face that are located: x, y and depth of each. */
export const FACE_POINTS = 468

export interface FaceModel {
  /** @param square  Red, green, blue, row after row, −1 to 1. @returns Before the sigmoid; cells of the first stride come first. */
  detect(square: Float32Array): { readonly scores: Float32Array; readonly boxes: Float32Array }
  /** @param square  Of one upright face: red, green, blue, 0 to 1. @returns Places in px of the square, and how likely it is a face, 0 to 1. */
  locate(square: Float32Array): { readonly points: Float32Array; readonly sure: number }
}
