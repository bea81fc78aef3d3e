/** A picture with a hole at several scales, as patch synthesis sees it. */
import { createRaster, type Raster } from '../../image/raster'

export interface Level {
  readonly width: number
  readonly height: number
  /** Three colours (grey repeats), interleaved; inside the hole they are made up as synthesis goes. */
  readonly colours: Float32Array
  /** 1 where the colour is not known. */
  readonly isHole: Uint8Array
  /** 1 where a match is wanted: the hole, and what is blended around it. */
  readonly isTarget: Uint8Array
  /** 1 where pixels may be copied from. */
  readonly isUsable: Uint8Array
}

export function finestLevel(picture: Raster, isHole: Uint8Array, isTarget: Uint8Array, isUsable: Uint8Array): Level {
  const { width, height, channels, data } = picture
  const colours = new Float32Array(width * height * 3)
  for (let pixel = 0; pixel < width * height; pixel++) {
    for (let c = 0; c < 3; c++) colours[pixel * 3 + c] = data[pixel * channels + Math.min(c, channels - 1)]!
  }
  return { width, height, colours, isHole, isTarget, isUsable }
}

/** Half the size: the mean of what is known of each 2 × 2; a hole where anything is not known. */
export function halveLevel({ width, height, colours, isHole, isTarget, isUsable }: Level): Level {
  const [w, h] = [width >> 1, height >> 1]
  const half: Level = {
    width: w,
    height: h,
    colours: new Float32Array(w * h * 3),
    isHole: new Uint8Array(w * h),
    isTarget: new Uint8Array(w * h),
    isUsable: new Uint8Array(w * h),
  }
  for (let row = 0; row < h; row++) {
    for (let col = 0; col < w; col++) {
      const to = row * w + col
      const from = 2 * row * width + 2 * col
      let known = 0
      let usable = 1
      for (const at of [from, from + 1, from + width, from + width + 1]) {
        if (isHole[at] === 1) half.isHole[to] = 1
        else {
          known++
          for (let c = 0; c < 3; c++) half.colours[to * 3 + c]! += colours[at * 3 + c]!
        }
        if (isTarget[at] === 1) half.isTarget[to] = 1
        usable &= isUsable[at]!
      }
      half.isUsable[to] = usable
      if (known > 0) for (let c = 0; c < 3; c++) half.colours[to * 3 + c]! /= known
    }
  }
  return half
}

/** How deep the hole is where it is deepest, in px, counted in steps to the four sides. */
export function depthOf({ width, height, isHole }: Level): Int32Array {
  const depth = Int32Array.from(isHole, (hole) => (hole === 1 ? 1 << 20 : 0))
  const near = (at: number, other: number) => {
    if (depth[other]! + 1 < depth[at]!) depth[at] = depth[other]! + 1
  }
  for (let at = 0; at < depth.length; at++) {
    if (at % width > 0) near(at, at - 1)
    if (at >= width) near(at, at - width)
  }
  for (let at = depth.length - 1; at >= 0; at--) {
    if (at % width < width - 1) near(at, at + 1)
    if (at < width * (height - 1)) near(at, at + width)
  }
  return depth
}

export function coloursAsRaster({ width, height, colours }: Level): Raster {
  const raster = createRaster(width, height, 3)
  raster.data.set(colours)
  return raster
}
