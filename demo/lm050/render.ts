/** Renders LM_050: the wall, the collar, the head and its wool, twice: as it was shot, and with the skin as it ought to be. The matte is the skin. */
import { translationBy } from '../../core/geometry/transform'
import { createPlane, createRaster, type Raster } from '../../core/image/raster'
import { wholePicture } from '../../core/image/rect'
import { layOver, paintLayer } from '../layer'
import { expose, exposeMatte, filmGrain, type DemoFrame, type DemoShot } from '../shot'
import { chartOfHead, chartOfWool, layShell } from './head'
import { paintCollar, paintFeatures, paintWall, paintWool } from './paint'
import { LM_050, momentAt } from './scene'

interface PaintedSet {
  readonly wall: Raster
  readonly collar: Raster
  readonly head: Raster
  readonly wool: Raster
}

const MARGIN_PX = 20
const COLLAR = { width: 1100, height: 420, top: 520 } as const
const WOOL_BY = 1.06

export const lm050: DemoShot = {
  description: LM_050,
  momentAt,
  async prepare() {
    const { width, height, seed } = LM_050
    const [wall, collar, features, wool] = await Promise.all([
      paintLayer(paintWall(width + 2 * MARGIN_PX, height + 2 * MARGIN_PX, seed), 7),
      paintLayer(paintCollar(COLLAR.width, COLLAR.height, seed + 1), 0.6),
      paintLayer(paintFeatures(seed + 2), 0.6),
      paintLayer(paintWool(seed + 3), 0.6),
    ])
    const set = { wall, collar, head: chartOfHead(features, seed), wool: chartOfWool(wool, seed) }
    return (frame) => renderFrame(set, frame)
  },
}

const levelAt = (code: number) => LM_050.grainLevel8 * (0.6 + (1.6 * code * (255 - code)) / 255 ** 2)

function renderFrame(set: PaintedSet, frame: number): DemoFrame {
  const { width, height, seed } = LM_050
  const moment = momentAt(frame)
  const { head, lamp } = moment
  const light = createRaster(width, height, 3)
  layOver(light, set.wall, translationBy(MARGIN_PX, MARGIN_PX), wholePicture(LM_050))
  const across = (COLLAR.width - width) / 2 - 0.6 * (head.x - width / 2)
  const rect = { col: 0, row: COLLAR.top + 10, width, height: height - COLLAR.top - 10 }
  // Beyond its sides the layer would be repeated: it is clear there.
  layOver(light, set.collar, translationBy(across, -COLLAR.top), rect)
  for (let i = 0; i < light.data.length; i++) light.data[i]! *= 0.3 + 0.5 * lamp[i % 3]!
  const truth: Raster = { ...light, data: light.data.slice() }
  const matte = createPlane(width, height)
  layShell(light, truth, matte, set.head, moment, { byHow: 1, isWool: false })
  layShell(light, truth, matte, set.wool, moment, { byHow: WOOL_BY, isWool: true })
  const grain = filmGrain(seed, frame, light, LM_050.grainCoarsePx)
  return { ...expose(light, truth, grain, levelAt), matte: exposeMatte(matte) }
}
