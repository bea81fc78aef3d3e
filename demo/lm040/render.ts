/** Renders LM_040: every frame as plate, truth, truth without grain, and the matte of dust and bad pixels. */
import { convolveSeparable } from '../../core/image/convolve'
import { createPlane, createRaster, type Matte, type Raster } from '../../core/image/raster'
import { layOverShifted, paintLayer } from '../layer'
import { expose, exposeMatte, filmGrain, type DemoFrame, type DemoShot } from '../shot'
import { addFaults } from './faults'
import { MARGIN_PX, paintTown } from './paint'
import { LM_040, momentAt, SMEAR_PX, throughMote, type Mote } from './scene'

export const lm040: DemoShot = {
  description: LM_040,
  momentAt,
  async prepare() {
    // The pan is even: its motion blur is the same on every frame.
    const town = convolveSeparable(await paintLayer(paintTown(LM_040.seed)), smear(SMEAR_PX), [1])
    return (frame) => renderFrame(town, frame)
  },
}

/** Weights of a shutter that is open while the picture moves on by `lengthPx`. */
function smear(lengthPx: number): number[] {
  const reach = Math.ceil(lengthPx / 2 - 0.5)
  const taps = Array.from({ length: 2 * reach + 1 }, (_, i) =>
    Math.min(1, Math.max(0, lengthPx / 2 + 0.5 - Math.abs(i - reach))),
  )
  const sum = taps.reduce((all, tap) => all + tap, 0)
  return taps.map((tap) => tap / sum)
}

function renderFrame(town: Raster, frame: number): DemoFrame {
  const { camera } = momentAt(frame)
  const truthLight = createRaster(LM_040.width, LM_040.height, 3)
  layOverShifted(truthLight, town, MARGIN_PX + camera.x, MARGIN_PX + camera.y)
  const light: Raster = { ...truthLight, data: truthLight.data.slice() }
  const matte = createPlane(light.width, light.height)
  for (const mote of LM_040.motes) shade(light, matte, mote)
  const made = expose(light, truthLight, filmGrain(LM_040.seed, frame, light), () => LM_040.grainLevel8)
  addFaults(made.plate, matte, LM_040.pixels)
  return { ...made, matte: exposeMatte(matte) }
}

function shade(light: Raster, matte: Matte, mote: Mote): void {
  const reach = Math.ceil(Math.max(mote.radiusXPx, mote.radiusYPx))
  for (let row = Math.floor(mote.y) - reach; row <= mote.y + reach; row++) {
    for (let col = Math.floor(mote.x) - reach; col <= mote.x + reach; col++) {
      const through = throughMote(mote, col + 0.5, row + 0.5)
      if (through === 1) continue
      const at = row * light.width + col
      matte.data[at] = 1 - through
      for (let c = 0; c < 3; c++) light.data[at * 3 + c]! *= through
    }
  }
}
