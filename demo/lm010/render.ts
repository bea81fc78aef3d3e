/** Renders LM_010: every frame as plate, truth, truth without grain, and the matte of the threads. */
import { createPlane, createRaster, type Matte, type Raster } from '../../core/image/raster'
import type { Matrix3 } from '../../core/geometry/transform'
import { cos, sin } from '../../core/kernels/exact'
import { layOver, layOverShifted, paintLayer } from '../layer'
import { expose, exposeMatte, filmGrain, type DemoFrame, type DemoShot } from '../shot'
import { LAYER_MARGIN_PX, MOTH, paintFarTown, paintMoth, paintRoofs, paintSky } from './paint'
import { LM_010, momentAt, type Moment, type Thread } from './scene'

interface PaintedSet {
  readonly sky: Raster
  readonly farTown: Raster
  readonly roofs: Raster
  readonly moth: Raster
}

const FOLLOW = { sky: 0.15, farTown: 0.45, roofs: 1 } as const // nearer things pass faster: parallax

export const lm010: DemoShot = {
  description: LM_010,
  momentAt,
  async prepare() {
    const set = await paintSet()
    return (frame) => renderFrame(set, frame)
  },
}

async function paintSet(): Promise<PaintedSet> {
  const [sky, farTown, roofs, moth] = await Promise.all([
    paintLayer(paintSky(LM_010.seed)),
    paintLayer(paintFarTown(LM_010.seed + 1), 2.2),
    paintLayer(paintRoofs(LM_010.seed + 2), 0.5),
    paintLayer(paintMoth(LM_010.seed + 3)),
  ])
  return { sky, farTown, roofs, moth }
}

function renderFrame(set: PaintedSet, frame: number): DemoFrame {
  const moment = momentAt(frame)
  const light = createRaster(LM_010.width, LM_010.height, 3)
  for (const name of ['sky', 'farTown', 'roofs'] as const) {
    const { x, y } = moment.camera
    layOverShifted(light, set[name], LAYER_MARGIN_PX + FOLLOW[name] * x, LAYER_MARGIN_PX + FOLLOW[name] * y)
  }
  layOver(light, set.moth, mothFromFrame(moment), mothRect(moment))
  const grain = filmGrain(LM_010.seed, frame, light)
  const truthLight: Raster = { ...light, data: light.data.slice() }
  const matte = createPlane(light.width, light.height)
  for (const thread of moment.threads) drawThread(light, matte, thread)
  return { ...expose(light, truthLight, grain, levelAt), matte: exposeMatte(matte) }
}

function mothFromFrame({ moth }: Moment): Matrix3 {
  const c = cos(moth.turnRad) / moth.scale
  const s = sin(moth.turnRad) / moth.scale
  return [
    c,
    s,
    MOTH.centre.x - c * moth.x - s * moth.y,
    -s,
    c,
    MOTH.centre.y + s * moth.x - c * moth.y,
    0,
    0,
    1,
  ]
}

function mothRect({ moth }: Moment) {
  // Inside the layer's clear border everywhere, so that no edge pixel is repeated into the frame.
  const half = Math.floor((MOTH.sizePx / 2) * moth.scale * 0.9)
  return { col: Math.round(moth.x) - half, row: Math.round(moth.y) - half, width: 2 * half, height: 2 * half }
}

/** A lit round thread over the frame; it stops at its contact with the wing. */
function drawThread(light: Raster, matte: Matte, thread: Thread): void {
  const { points } = thread
  const reach = 8
  for (let i = 0; i + 1 < points.length; i++) {
    const [p, q] = [points[i]!, points[i + 1]!]
    const [dx, dy] = [q.x - p.x, q.y - p.y]
    const length = Math.sqrt(dx * dx + dy * dy)
    // Rows belong to one piece each: threads run downwards, and no pixel may be drawn twice.
    const isLast = i + 2 === points.length
    for (
      let row = Math.max(0, Math.ceil(p.y - 0.5));
      row + 0.5 < q.y + (isLast ? 2 : 0) && row < light.height;
      row++
    ) {
      const centre = p.x + ((row + 0.5 - p.y) / dy) * dx
      for (let col = Math.floor(centre - reach); col <= centre + reach; col++) {
        if (col < 0 || col >= light.width) continue
        const [ox, oy] = [col + 0.5 - p.x, row + 0.5 - p.y]
        const along = (ox * dx + oy * dy) / length
        const off = (oy * dx - ox * dy) / length
        const width = p.widthPx + Math.min(Math.max(along / length, 0), 1) * (q.widthPx - p.widthPx)
        const edge = Math.min(1, Math.max(0, width / 2 + 0.5 - Math.abs(off)))
        const end = isLast ? Math.min(1, Math.max(0, 0.5 - (along - length))) : 1
        const coverage = edge * end
        if (coverage === 0) continue
        const sheen = 0.02 + 0.05 * Math.max(0, 1 - Math.abs(off + width * 0.18) / (width / 2))
        const at = row * light.width + col
        for (let channel = 0; channel < 3; channel++) {
          const colour = sheen * (channel === 2 ? 0.9 : 1)
          light.data[at * 3 + channel] = light.data[at * 3 + channel]! * (1 - coverage) + colour * coverage
        }
        matte.data[at] = Math.max(matte.data[at]!, coverage)
      }
    }
  }
}

const levelAt = () => LM_010.grainLevel8
