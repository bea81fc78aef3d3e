/** Renders LM_030: the square as the camera sees it, and the crane's shadow, which takes a share of the direct light. */
import { createPlane, createRaster, type Raster } from '../../core/image/raster'
import { wholePicture } from '../../core/image/rect'
import { layOver, paintLayer } from '../layer'
import { expose, exposeMatte, filmGrain, type DemoFrame, type DemoShot } from '../shot'
import { paintSquare } from './paint'
import { LM_030, MISSING, momentAt, SQUARE, strengthAt } from './scene'

export const lm030: DemoShot = {
  description: LM_030,
  momentAt,
  async prepare() {
    const square = await paintLayer(paintSquare(SQUARE.width, SQUARE.height, LM_030.seed), 0.5)
    return (frame) => renderFrame(square, frame)
  },
}

/** More grain in the middle of the scale than at its ends, as on film. */
const levelAt = (code: number) => LM_030.grainLevel8 * (0.55 + (1.8 * code * (255 - code)) / 255 ** 2)

function renderFrame(square: Raster, frame: number): DemoFrame {
  const { width, height, seed } = LM_030
  const { squareFromFrame, shadow } = momentAt(frame)
  const lit = createRaster(width, height, 3)
  layOver(lit, square, squareFromFrame, wholePicture(LM_030))
  const light = { ...lit, data: lit.data.slice() }
  const matte = createPlane(width, height)
  for (let row = 0, pixel = 0; row < height; row++) {
    for (let col = 0; col < width; col++, pixel++) {
      const strength = strengthAt(shadow, col + 0.5, row + 0.5)
      if (strength === 0) continue
      matte.data[pixel] = strength
      for (let c = 0; c < 3; c++) light.data[pixel * 3 + c]! *= 1 - MISSING[c]! * strength
    }
  }
  const grain = filmGrain(seed, frame, light, LM_030.grainCoarsePx)
  return { ...expose(light, lit, grain, levelAt), matte: exposeMatte(matte) }
}
