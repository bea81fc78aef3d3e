/** Frames as whole numbers of light: what specks and standing lines are looked for in. */
import type { SampleArray, Samples } from '../../image/samples'

/** Of white; a step of 8 bits is four of them. */
export const LIGHT_MAX = 1020

/** How light each pixel of a frame is, 0 to `LIGHT_MAX`. */
export interface Light {
  readonly width: number
  readonly height: number
  readonly data: Int16Array
}

/** Half of green, a quarter each of red and blue: as a sensor has its pixels, common practice. */
export function lightOf({ width, height, channels, data }: Samples): Light {
  const out = new Int16Array(width * height)
  const [g, b] = channels < 3 ? [0, 0] : [1, 2]
  if (data instanceof Uint8Array) addUp8(out, data, channels, g, b)
  else addUp16(out, data, channels, g, b)
  return { width, height, data: out }
}

function addUp8(out: Int16Array, data: Uint8Array, channels: number, g: number, b: number): void {
  for (let i = 0, at = 0; i < out.length; i++, at += channels)
    out[i] = data[at]! + 2 * data[at + g]! + data[at + b]!
}

/** A step of 8 bits is 257 of 16. */
function addUp16(out: Int16Array, data: SampleArray, channels: number, g: number, b: number): void {
  for (let i = 0, at = 0; i < out.length; i++, at += channels)
    out[i] = (data[at]! + 2 * data[at + g]! + data[at + b]!) / 257
}

/** The mean of each 4 x 4 pixels. */
export function quarterLight({ width, height, data }: Light): Light {
  const [w, h] = [Math.max(1, width >> 2), Math.max(1, height >> 2)]
  const out = new Int16Array(w * h)
  for (let row = 0; row < h; row++) {
    for (let col = 0; col < w; col++) {
      let sum = 0
      for (let line = 0; line < 4; line++) {
        const at = Math.min(4 * row + line, height - 1) * width + 4 * col
        sum += data[at]! + data[at + 1]! + data[at + 2]! + data[at + 3]!
      }
      out[row * w + col] = sum >> 4
    }
  }
  return { width: w, height: h, data: out }
}
