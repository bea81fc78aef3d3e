/**
 * A painted layer of the set: made once at high resolution, then moved and lit for each frame.
 * Samples are linear light with premultiplied alpha, so that moving and laying over are plain sums.
 */
import sharp from 'sharp'
import { srgb } from '../core/colour/transfer'
import { convolveSeparable } from '../core/image/convolve'
import { createRaster, type Raster } from '../core/image/raster'
import { compose, translationBy, type Matrix3 } from '../core/geometry/transform'
import { warpProjective } from '../core/image/sample'
import type { Rect } from '../core/image/rect'

const linearOf8 = Float32Array.from({ length: 256 }, (_, value) => srgb.decode(value / 255))

/** Rasterises a drawing. `blurPx` puts it out of focus. */
export async function paintLayer(svg: string, blurPx = 0): Promise<Raster> {
  let picture = sharp(Buffer.from(svg), { limitInputPixels: 1e8 }).ensureAlpha()
  if (blurPx > 0) picture = picture.blur(blurPx)
  const { data, info } = await picture.raw().toBuffer({ resolveWithObject: true })
  const layer = createRaster(info.width, info.height, 4)
  for (let i = 0; i < layer.data.length; i += 4) {
    const alpha = data[i + 3]! / 255
    for (let channel = 0; channel < 3; channel++)
      layer.data[i + channel] = linearOf8[data[i + channel]!]! * alpha
    layer.data[i + 3] = alpha
  }
  return layer
}

/**
 * Lays a layer over a frame, or over another layer, inside `rect`. Linear light; a frame has three channels.
 * @param layerFromFrame  Takes a position in the frame to the position it shows in the layer.
 */
export function layOver(frame: Raster, layer: Raster, layerFromFrame: Matrix3, rect: Rect): void {
  const fromRect = compose(layerFromFrame, translationBy(rect.col, rect.row))
  const moved = warpProjective(layer, fromRect, rect, 'bicubic')
  for (let row = 0; row < rect.height; row++) {
    for (let col = 0; col < rect.width; col++) {
      const from = (row * rect.width + col) * 4
      blendOver(frame, (rect.row + row) * frame.width + rect.col + col, moved.data, from)
    }
  }
}

/**
 * Lays a layer over the whole frame, only shifted: frame position (0, 0) shows layer position (x, y).
 * A shift by a fraction is the same four cubic weights everywhere, so two short convolutions do it.
 */
export function layOverShifted(frame: Raster, layer: Raster, x: number, y: number): void {
  const [col, row] = [Math.floor(x), Math.floor(y)]
  const crop = createRaster(frame.width + 6, frame.height + 6, 4)
  for (let line = 0; line < crop.height; line++) {
    const from = ((row - 3 + line) * layer.width + col - 3) * 4
    crop.data.set(layer.data.subarray(from, from + crop.width * 4), line * crop.width * 4)
  }
  const moved = convolveSeparable(crop, cubicTaps(x - col), cubicTaps(y - row))
  for (let line = 0; line < frame.height; line++) {
    let from = ((line + 3) * crop.width + 3) * 4
    for (let pixel = line * frame.width; pixel < (line + 1) * frame.width; pixel++, from += 4)
      blendOver(frame, pixel, moved.data, from)
  }
}

/** Keys 1981, a = −1/2, for reading `f` px past a pixel: five weights, the first unused. */
export function cubicTaps(f: number): number[] {
  return [
    0,
    ((-0.5 * f + 1) * f - 0.5) * f,
    (1.5 * f - 2.5) * f * f + 1,
    ((-1.5 * f + 2) * f + 0.5) * f,
    (0.5 * f - 0.5) * f * f,
  ]
}

function blendOver({ data, channels }: Raster, pixel: number, layer: Float32Array, from: number): void {
  const through = 1 - Math.min(1, Math.max(0, layer[from + 3]!))
  const to = pixel * channels
  for (let channel = 0; channel < channels; channel++)
    data[to + channel] = Math.max(0, layer[from + channel]!) + through * data[to + channel]!
}

/** Lays a layer over a frame by whole pixels, as far as both reach. @param onPixel  Told what of the layer each frame pixel got. */
export function layOverRaster(
  frame: Raster,
  layer: Raster,
  left: number,
  top: number,
  onPixel?: (pixel: number, alpha: number) => void,
): void {
  for (let row = Math.max(0, -top); row < layer.height && top + row < frame.height; row++) {
    for (let col = Math.max(0, -left); col < layer.width && left + col < frame.width; col++) {
      const from = (row * layer.width + col) * 4
      if (layer.data[from + 3]! <= 0) continue
      const pixel = (top + row) * frame.width + left + col
      blendOver(frame, pixel, layer.data, from)
      onPixel?.(pixel, Math.min(1, layer.data[from + 3]!))
    }
  }
}
