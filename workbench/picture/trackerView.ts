/** The plate as a tracker sees it, for looking only. */
import { samplesFromRaster, type Samples } from '../../core/image/samples'
import { trackerPlane, type TrackerInput } from '../../core/motion/input'

let last: { readonly key: string; readonly canvas: HTMLCanvasElement } | null = null

/** A canvas of the picture's size; the one made last is kept. */
export function trackerView(plate: ImageBitmap, frame: number, input: TrackerInput): HTMLCanvasElement {
  const key = JSON.stringify([frame, plate.width, input.channel, input.boost, input.degrainPx])
  if (last?.key === key) return last.canvas
  const canvas = document.createElement('canvas')
  canvas.width = plate.width
  canvas.height = plate.height
  const context = canvas.getContext('2d', { willReadFrequently: true })!
  context.drawImage(plate, 0, 0)
  const image = context.getImageData(0, 0, plate.width, plate.height)
  const samples: Samples = {
    width: plate.width,
    height: plate.height,
    channels: 4,
    data: new Uint8Array(image.data.buffer),
  }
  const seen = samplesFromRaster({ ...trackerPlane(samples, input), channels: 1 }, 8)
  for (let i = 0; i < seen.data.length; i++) image.data.fill(seen.data[i]!, 4 * i, 4 * i + 3)
  context.putImageData(image, 0, 0)
  last = { key, canvas }
  return canvas
}
