/** Bad pixels of a sensor as they come out of a camera: what demosaicing makes of them reaches into their neighbours. */
import type { Matte } from '../../core/image/raster'
import type { FaultyPixel, PixelFault } from './scene'

/** What a fault says whatever the light; null leaves a channel alone. 8-bit code values. */
const LEVELS: Readonly<Record<PixelFault, readonly (number | null)[]>> = {
  dead: [0, 0, 0],
  hot: [255, 250, 246],
  'stuck-red': [255, null, null],
  'stuck-green': [null, 255, null],
  'stuck-blue': [null, null, 255],
  cluster: [252, 255, 248],
}
/** Share of the neighbours' value that is the fault's, beside it and across the corner: bilinear demosaicing, common practice. */
const BESIDE = 0.25
const ACROSS = 0.0625

/** Into a picture of 8-bit RGB; the matte gets how much of each pixel is not the scene's. */
export function addFaults(picture: Uint8Array, matte: Matte, faults: readonly FaultyPixel[]): void {
  for (const { fault, col, row } of faults) {
    const reach = fault === 'cluster' ? 1 : 0
    for (let dy = -reach - 1; dy <= reach + 1; dy++) {
      for (let dx = -reach - 1; dx <= reach + 1; dx++) {
        const [outX, outY] = [Math.max(0, Math.abs(dx) - reach), Math.max(0, Math.abs(dy) - reach)]
        const share = outX + outY === 0 ? 1 : outX + outY === 1 ? BESIDE : ACROSS
        const at = (row + dy) * matte.width + col + dx
        LEVELS[fault].forEach((level, c) => {
          if (level !== null) picture[at * 3 + c] = picture[at * 3 + c]! * (1 - share) + level * share + 0.5
        })
        matte.data[at] = Math.max(matte.data[at]!, share)
      }
    }
  }
}
