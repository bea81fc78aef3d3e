/**
 * Transfer curves between light and code values, both 0 to 1, per channel.
 * Beyond 0 to 1 the curves go on; below 0 they are mirrored, so that nothing is lost on the way.
 */
import { pow } from '../kernels/exact'

export interface Transfer {
  /** Code value from linear light. */
  encode(linear: number): number
  /** Linear light from code value. */
  decode(encoded: number): number
}

/** sRGB. Source: IEC 61966-2-1:1999, 5.2. */
export const srgb: Transfer = {
  encode: mirrored((linear) => (linear <= 0.0031308 ? 12.92 * linear : 1.055 * pow(linear, 1 / 2.4) - 0.055)),
  decode: mirrored((encoded) => (encoded <= 0.04045 ? encoded / 12.92 : pow((encoded + 0.055) / 1.055, 2.4))),
}

/** The camera curve of high-definition video. Source: ITU-R BT.709-6, item 1.2. */
export const rec709: Transfer = {
  encode: mirrored((linear) => (linear < 0.018 ? 4.5 * linear : 1.099 * pow(linear, 0.45) - 0.099)),
  decode: mirrored((encoded) => (encoded < 0.081 ? encoded / 4.5 : pow((encoded + 0.099) / 1.099, 1 / 0.45))),
}

function mirrored(curve: (value: number) => number): (value: number) => number {
  return (value) => (value < 0 ? -curve(-value) : curve(value))
}
