/** Renders LM_080: wall, floor and columns, each at its own distance, and the bollard in front. */
import { convolveSeparable } from '../../core/image/convolve'
import { createPlane, createRaster, type Raster } from '../../core/image/raster'
import { intersectRects, wholePicture } from '../../core/image/rect'
import { paintColumns, paintFloor, paintWall, WALL_FOOT } from '../arcade/paint'
import { cubicTaps, layOver, layOverRaster, layOverShifted, paintLayer } from '../layer'
import { svg } from '../svg'
import { expose, exposeMatte, filmGrain, type DemoFrame, type DemoShot } from '../shot'
import { BOLLARD, floorRateAt, LM_080, momentAt, type Moment } from './scene'

/** Layers reach beyond the frame by this to the left and right, and the wall and the columns above and below. */
const BESIDE_PX = 260
const ABOVE_PX = 12

interface Layers {
  readonly wall: Raster
  readonly floor: Raster
  readonly columns: Raster
  readonly bollard: Raster
}

export const lm080: DemoShot = {
  description: LM_080,
  momentAt,
  async prepare() {
    const { width, height, seed } = LM_080
    const wide = width + 2 * BESIDE_PX
    const [wall, floor, columns, bollard] = await Promise.all([
      paintLayer(paintWall(wide, seed), 0.6),
      paintLayer(paintFloor(wide, height + ABOVE_PX, seed + 1), 0.4),
      paintLayer(paintColumns(wide, 190, seed + 2), 0.4),
      paintLayer(paintBollard(), 0.4),
    ])
    const layers = {
      wall: padded(wall, height, true),
      floor: padded(floor, height),
      columns: padded(columns, height),
      bollard,
    }
    return (frame) => renderFrame(layers, frame)
  },
}

/** A layer with its first row repeated above; and its last one below, where something else will cover that. */
function padded(layer: Raster, height: number, goesOn = false): Raster {
  const out = createRaster(layer.width, height + 2 * ABOVE_PX, 4)
  const line = layer.width * 4
  const last = goesOn ? ABOVE_PX : 0
  for (let row = 0; row < ABOVE_PX + layer.height + last && row < out.height; row++) {
    const from = Math.min(Math.max(row - ABOVE_PX, 0), layer.height - 1)
    out.data.set(layer.data.subarray(from * line, (from + 1) * line), row * line)
  }
  return out
}

const levelAt = () => LM_080.grainLevel8

function renderFrame(layers: Layers, frame: number): DemoFrame {
  const moment = momentAt(frame)
  const truthLight = createRaster(LM_080.width, LM_080.height, 3)
  const { wall, columns } = moment.layers
  layOverShifted(truthLight, layers.wall, BESIDE_PX - wall.x, ABOVE_PX - wall.y)
  layFloor(truthLight, layers.floor, moment)
  layOverShifted(truthLight, layers.columns, BESIDE_PX - columns.x, ABOVE_PX - columns.y)
  const light: Raster = { ...truthLight, data: truthLight.data.slice() }
  const matte = createPlane(LM_080.width, LM_080.height)
  layBollard(light, matte.data, layers.bollard, moment)
  const grain = filmGrain(LM_080.seed, frame, light, LM_080.grainCoarsePx)
  return { ...expose(light, truthLight, grain, levelAt), matte: exposeMatte(matte) }
}

/** The floor keeps its perspective: each row goes at its own rate. */
function layFloor(frame: Raster, floor: Raster, { camera }: Moment): void {
  const { shake, goneX } = camera
  const down = Math.floor(ABOVE_PX - shake.y)
  const first = WALL_FOOT - 8
  const crop = {
    width: floor.width,
    height: frame.height - first + 8,
    channels: 4 as const,
    data: new Float32Array(0),
  }
  const from = (first - 4 + down) * floor.width * 4
  const tall = { ...crop, data: floor.data.slice(from, from + crop.height * floor.width * 4) }
  const moved = convolveSeparable(tall, [1], cubicTaps(ABOVE_PX - shake.y - down))
  const row = createRaster(frame.width, 1, 4)
  for (let y = first; y < frame.height; y++) {
    const source = moved.data.subarray((y - first + 4) * floor.width * 4, (y - first + 5) * floor.width * 4)
    const x = BESIDE_PX - shake.x + floorRateAt(y + 0.5 - shake.y) * goneX
    const col = Math.floor(x)
    const taps = cubicTaps(x - col).slice(1)
    for (let i = 0; i < frame.width; i++) {
      for (let channel = 0; channel < 4; channel++) {
        let sum = 0
        for (let k = 0; k < 4; k++) sum += taps[k]! * source[(col + i - 1 + k) * 4 + channel]!
        row.data[i * 4 + channel] = sum
      }
    }
    layOverRaster(
      { ...frame, height: 1, data: frame.data.subarray(y * frame.width * 3, (y + 1) * frame.width * 3) },
      row,
      0,
      0,
    )
  }
}

function layBollard(light: Raster, matte: Float32Array, bollard: Raster, moment: Moment): void {
  const [x, y] = [moment.bollard.x - BOLLARD.foot.x, moment.bollard.y - BOLLARD.foot.y]
  const around = {
    col: Math.floor(x) + 3,
    row: Math.floor(y) + 3,
    width: BOLLARD.width - 6,
    height: BOLLARD.height - 6,
  }
  const rect = intersectRects(around, wholePicture(light))!
  layOver(light, bollard, [1, 0, -x, 0, 1, -y, 0, 0, 1], rect)
  const white = createRaster(light.width, light.height, 3)
  const silhouette: Raster = { ...bollard, data: bollard.data.map((_, i) => bollard.data[i | 3]!) }
  layOver(white, silhouette, [1, 0, -x, 0, 1, -y, 0, 0, 1], rect)
  for (let pixel = 0; pixel < matte.length; pixel++) matte[pixel] = Math.min(1, white.data[pixel * 3]!)
}

/** A cast-iron post with a ring round its head, and the soft shadow at its foot. */
const paintBollard = (): string =>
  svg(
    BOLLARD.width,
    BOLLARD.height,
    `<defs><linearGradient id="iron"><stop offset="0" stop-color="#15181a"/><stop offset="0.3" stop-color="#5c6468"/><stop offset="0.6" stop-color="#2e3437"/><stop offset="1" stop-color="#0d0f10"/></linearGradient>
    <filter id="soft" x="-40%" y="-120%" width="180%" height="340%"><feGaussianBlur stdDeviation="4"/></filter></defs>
    <ellipse cx="75" cy="300" rx="44" ry="8" fill="#000" opacity="0.6" filter="url(#soft)"/>
    <path d="M44 102 L40 284 h70 L106 102 Z" fill="url(#iron)"/><path d="M30 284 h90 v14 h-90 Z" fill="url(#iron)"/>
    <path d="M40 96 q0 -66 35 -66 q35 0 35 66 Z" fill="url(#iron)"/><rect x="36" y="92" width="78" height="14" rx="6" fill="#7d6a3d"/><path d="M58 44 q-8 14 -8 40" stroke="#9aa4a8" stroke-width="3" fill="none"/>`,
  )
