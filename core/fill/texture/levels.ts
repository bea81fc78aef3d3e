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

export function finestLevel(
  picture: Raster,
  isHole: Uint8Array,
  isTarget: Uint8Array,
  isUsable: Uint8Array,
): Level {
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
      for (let corner = 0; corner < 4; corner++) {
        const at = from + (corner & 1) + (corner >> 1) * width
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

/** How deep in the hole each pixel lies, in px counted in steps to the four sides; 0 outside. */
export function depthOf({ width, height, isHole }: Level): Int32Array {
  const size = width * height
  const depth = new Int32Array(size)
  for (let at = 0; at < size; at++) {
    if (isHole[at] === 0) continue
    const left = at % width > 0 ? depth[at - 1]! : FAR
    const above = at >= width ? depth[at - width]! : FAR
    depth[at] = (left < above ? left : above) + 1
  }
  for (let at = size - 1; at >= 0; at--) {
    if (isHole[at] === 0) continue
    const right = at % width < width - 1 ? depth[at + 1]! + 1 : FAR
    const below = at < size - width ? depth[at + width]! + 1 : FAR
    if (right < depth[at]!) depth[at] = right
    if (below < depth[at]!) depth[at] = below
  }
  return depth
}

const FAR = 1 << 20

export function coloursAsRaster({ width, height, colours }: Level): Raster {
  const raster = createRaster(width, height, 3)
  raster.data.set(colours)
  return raster
}
