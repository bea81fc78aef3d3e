/** Renders LM_060: wall and stalls, and the marks that were laid over the finished picture. */
import sharp from 'sharp'
import { createRaster, type Raster } from '../../core/image/raster'
import { sampleManyInto } from '../../core/image/sample'
import { withKernelMemory } from '../../core/kernels/memory'
import { layOverShifted, paintLayer } from '../layer'
import { expose, filmGrain, type DemoFrame, type DemoShot } from '../shot'
import { paintStalls, paintStillMark, paintTravellingMark, paintWall } from './paint'
import { LM_060, momentAt, STILL_MARK, TRAVELLING_MARK, type Place } from './scene'

const BESIDE_PX = 240
const ABOVE_PX = 12

export const lm060: DemoShot = {
  description: LM_060,
  momentAt,
  async prepare() {
    const { width, height, seed } = LM_060
    const [wide, high] = [width + 2 * BESIDE_PX, height + 2 * ABOVE_PX]
    const [wall, stalls, still, travelling] = await Promise.all([
      paintLayer(paintWall(wide, high, seed), 0.7),
      paintLayer(paintStalls(wide, high, seed + 1), 0.45),
      paintMark(paintStillMark(STILL_MARK.width, STILL_MARK.height), STILL_MARK.opacity),
      paintMark(paintTravellingMark(TRAVELLING_MARK.width, TRAVELLING_MARK.height), TRAVELLING_MARK.opacity),
    ])
    return (frame) => {
      const { layers, marks } = momentAt(frame)
      const light = createRaster(width, height, 3)
      layOverShifted(light, wall, BESIDE_PX - layers.wall.x, ABOVE_PX - layers.wall.y)
      layOverShifted(light, stalls, BESIDE_PX - layers.stalls.x, ABOVE_PX - layers.stalls.y)
      const grain = filmGrain(seed, frame, light, LM_060.grainCoarsePx)
      const { truth, truthWithoutGrain } = expose(light, light, grain, () => LM_060.grainLevel8)
      return layMarks({ truth, truthWithoutGrain }, [
        [still, marks.still],
        [travelling, marks.travelling],
      ])
    }
  },
}

/** Code values times opacity, and the opacity as the fourth channel. */
async function paintMark(svg: string, opacity: number): Promise<Raster> {
  const { data, info } = await sharp(Buffer.from(svg))
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })
  const mark = createRaster(info.width, info.height, 4)
  for (let i = 0; i < data.length; i += 4) {
    const share = (opacity * data[i + 3]!) / 255
    for (let c = 0; c < 3; c++) mark.data[i + c] = data[i + c]! * share
    mark.data[i + 3] = share
  }
  return mark
}

/** Over the picture as it was handed on: in code values, above the grain. */
function layMarks(
  { truth, truthWithoutGrain }: Pick<DemoFrame, 'truth' | 'truthWithoutGrain'>,
  marks: readonly (readonly [Raster, Place])[],
): DemoFrame {
  const { width, height } = LM_060
  const plate = truth.slice()
  const matte = new Uint8Array(width * height)
  for (const [mark, { x, y }] of marks) {
    const [left, top] = [Math.floor(x), Math.floor(y)]
    const [cols, rows] = [mark.width + 1, mark.height + 1]
    const positions = new Float32Array(2 * cols * rows)
    for (let k = 0; k < cols * rows; k++) {
      positions[2 * k] = left + (k % cols) + 0.5 - x
      positions[2 * k + 1] = top + Math.floor(k / cols) + 0.5 - y
    }
    const read = new Float32Array(cols * rows * 4)
    withKernelMemory(mark.data.byteLength + positions.byteLength + read.byteLength + 8192, (scope) =>
      sampleManyInto(read, mark, positions, 'bilinear', scope),
    )
    for (let k = 0; k < cols * rows; k++) {
      const share = read[4 * k + 3]!
      if (share <= 0) continue
      const pixel = (top + Math.floor(k / cols)) * width + left + (k % cols)
      for (let c = 0; c < 3; c++)
        plate[3 * pixel + c] = (1 - share) * plate[3 * pixel + c]! + read[4 * k + c]! + 0.5
      matte[pixel] = Math.max(matte[pixel]!, 1, Math.round(255 * share))
    }
  }
  return { plate, truth, truthWithoutGrain, matte }
}
