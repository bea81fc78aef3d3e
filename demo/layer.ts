/**
 * A painted layer of the set: made once at high resolution, then moved and lit for each frame.
 * Samples are linear light with premultiplied alpha, so that moving and laying over are plain sums.
 */
import sharp from 'sharp'
import { srgb } from '../core/colour/transfer'
import { createRaster, type Raster } from '../core/image/raster'
import { warpProjective, type Matrix3 } from '../core/image/sample'
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
    for (let channel = 0; channel < 3; channel++) layer.data[i + channel] = linearOf8[data[i + channel]!]! * alpha
    layer.data[i + 3] = alpha
  }
  return layer
}

/**
 * Lays a layer over a frame (three channels, linear light) inside `rect`.
 * @param layerFromFrame  Takes a position in the frame to the position it shows in the layer.
 */
export function layOver(frame: Raster, layer: Raster, layerFromFrame: Matrix3, rect: Rect): void {
  const [a, b, c, d, e, f, g, h, k] = layerFromFrame
  const fromRect: Matrix3 = [
    a, b, a * rect.col + b * rect.row + c,
    d, e, d * rect.col + e * rect.row + f,
    g, h, g * rect.col + h * rect.row + k,
  ]
  const moved = warpProjective(layer, fromRect, rect, 'bicubic')
  for (let row = 0; row < rect.height; row++) {
    for (let col = 0; col < rect.width; col++) {
      const from = (row * rect.width + col) * 4
      const to = ((rect.row + row) * frame.width + rect.col + col) * 3
      const through = 1 - Math.min(1, Math.max(0, moved.data[from + 3]!))
      for (let channel = 0; channel < 3; channel++) {
        frame.data[to + channel] = Math.max(0, moved.data[from + channel]!) + through * frame.data[to + channel]!
      }
    }
  }
}

export const translation = (x: number, y: number): Matrix3 => [1, 0, x, 0, 1, y, 0, 0, 1]
