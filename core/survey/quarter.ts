/** Frames at a quarter of their size, as stops of light: what takes a share of the light is a difference there, whatever is behind it. */
import { srgb } from '../colour/transfer'
import { createPlane, type Plane } from '../image/raster'
import { maximumOf, type SampleArray, type Samples } from '../image/samples'
import { log } from '../kernels/exact'

/** Side of the block of pixels that a cell is the mean of. */
export const CELL_PX = 4

const STEPS = 1024
/** Below this code value, 0 to 1, light is all noise. */
const DARKEST = 5 / 255
const stopsOfCode = Float32Array.from(
  { length: STEPS + 1 },
  (_, i) => log(srgb.decode(Math.max(DARKEST, i / STEPS))) / Math.LN2,
)

/** Half of green, a quarter each of red and blue: as a sensor has its pixels, common practice. Cells that are cut off are left out. */
export function quarterStops({ width, height, channels, data }: Samples): Plane {
  const out = createPlane(Math.max(1, Math.floor(width / CELL_PX)), Math.max(1, Math.floor(height / CELL_PX)))
  const sums = new Uint32Array(out.width)
  const scale = STEPS / (maximumOf(data) * 4 * CELL_PX * CELL_PX)
  const isGrey = channels < 3
  for (let row = 0; row < out.height; row++) {
    sums.fill(0)
    for (let line = 0; line < CELL_PX; line++)
      addLine(sums, data, (row * CELL_PX + line) * width * channels, channels, isGrey)
    for (let col = 0; col < out.width; col++)
      out.data[row * out.width + col] = stopsOfCode[(sums[col]! * scale + 0.5) | 0]!
  }
  return out
}

function addLine(
  sums: Uint32Array,
  data: SampleArray,
  from: number,
  channels: number,
  isGrey: boolean,
): void {
  const [g, b] = isGrey ? [0, 0] : [1, 2]
  let at = from
  for (let col = 0; col < sums.length; col++) {
    let sum = 0
    for (let k = 0; k < CELL_PX; k++, at += channels) sum += data[at]! + 2 * data[at + g]! + data[at + b]!
    sums[col]! += sum
  }
}
