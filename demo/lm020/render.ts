/** Renders LM_020: shop, clamp, rod, cart and banner, back to front; the truth leaves clamp and rod out. */
import { cos, sin, atan2 } from '../../core/kernels/exact'
import { createPlane, createRaster, type Raster } from '../../core/image/raster'
import { growRect, intersectRects, rectAround, wholePicture, type Rect } from '../../core/image/rect'
import { layOver, paintLayer } from '../layer'
import { expose, exposeMatte, filmGrain, type DemoFrame, type DemoShot } from '../shot'
import {
  CART_AT,
  CLAMP_AT,
  paintBanner,
  paintCart,
  paintClamp,
  paintRod,
  paintShop,
  ROD_LAYER,
} from './paint'
import { BANNER, bannerLeft, bannerMiddle, LM_020, momentAt, type Moment } from './scene'

interface Layers {
  /** Covers the frame: three channels. */
  readonly shop: Raster
  readonly cart: Raster
  readonly clamp: Raster
  readonly rod: Raster
  readonly banner: Raster
}

export const lm020: DemoShot = {
  description: LM_020,
  momentAt,
  async prepare() {
    const [shop, cart, clamp, rod, banner] = await Promise.all([
      paintLayer(paintShop(LM_020.seed), 0.4),
      paintLayer(paintCart(LM_020.seed + 1), 0.4),
      paintLayer(paintClamp(), 0.4),
      paintLayer(paintRod(), 0.4),
      paintLayer(paintBanner(LM_020.seed + 2), 0.4),
    ])
    const layers = { shop: withoutAlpha(shop), cart, clamp, rod, banner }
    return (frame) => renderFrame(layers, frame)
  },
}

/** More grain in the middle of the scale than at its ends, as on film. */
const levelAt = (code: number) => LM_020.grainLevel8 * (0.55 + (1.8 * code * (255 - code)) / 255 ** 2)

function renderFrame(layers: Layers, frame: number): DemoFrame {
  const moment = momentAt(frame)
  const light = { ...layers.shop, data: layers.shop.data.slice() }
  const truthLight = { ...light, data: light.data.slice() }
  // White where the trouble is seen: the trouble laid over in white, what passes in front in black.
  const seen = createRaster(LM_020.width, LM_020.height, 3)
  layTrouble(light, layers, moment)
  layTrouble(seen, { ...layers, clamp: flat(layers.clamp, 1), rod: flat(layers.rod, 1) }, moment)
  for (const target of [light, truthLight]) layFront(target, layers, moment)
  layFront(seen, { ...layers, cart: flat(layers.cart, 0), banner: flat(layers.banner, 0) }, moment)
  const grain = filmGrain(LM_020.seed, frame, light, LM_020.grainCoarsePx)
  const matte = createPlane(light.width, light.height)
  for (let i = 0; i < matte.data.length; i++) matte.data[i] = Math.min(1, seen.data[i * 3]!)
  return { ...expose(light, truthLight, grain, levelAt), matte: exposeMatte(matte) }
}

function layTrouble(target: Raster, { clamp, rod }: Layers, moment: Moment): void {
  layOver(
    target,
    clamp,
    [1, 0, -CLAMP_AT.x, 0, 1, -CLAMP_AT.y, 0, 0, 1],
    rectAt(CLAMP_AT.x, CLAMP_AT.y, clamp),
  )
  const { from, to } = moment.rod
  const [dx, dy] = [to.x - from.x, to.y - from.y]
  const turn = atan2(dx, dy)
  const scale = ROD_LAYER.lengthPx / Math.sqrt(dx * dx + dy * dy)
  const [c, s] = [cos(turn), sin(turn)]
  const { topAt } = ROD_LAYER
  // Along the rod its length decides, across it the painted width stays.
  const layerFromFrame = [
    c,
    -s,
    topAt.x - c * from.x + s * from.y,
    scale * s,
    scale * c,
    topAt.y - scale * (s * from.x + c * from.y),
    0,
    0,
    1,
  ] as const
  const rect = growRect(rectAround(Math.min(from.x, to.x), from.y, Math.max(from.x, to.x), to.y), 18)
  layOver(target, rod, layerFromFrame, intersectRects(rect, wholePicture(target))!)
}

function layFront(target: Raster, { cart, banner }: Layers, moment: Moment): void {
  const [x, y] = [CART_AT.x + moment.cart.x, CART_AT.y + moment.cart.y]
  layOver(target, cart, [1, 0, -x, 0, 1, -y, 0, 0, 1], rectAt(CART_AT.x, CART_AT.y, cart))
  layBanner(target, banner, moment.frame)
}

const rectAt = (col: number, row: number, { width, height }: Raster): Rect => ({
  col: col + 4,
  row: row + 4,
  width: width - 8,
  height: height - 8,
})

function withoutAlpha({ width, height, data }: Raster): Raster {
  const out = createRaster(width, height, 3)
  for (let from = 0, to = 0; to < out.data.length; from += 4, to += 3) {
    for (let channel = 0; channel < 3; channel++) out.data[to + channel] = data[from + channel]!
  }
  return out
}

/** A silhouette: the layer's alpha in one shade of light. */
function flat({ width, height, channels, data }: Raster, shade: number): Raster {
  const out = createRaster(width, height, channels)
  for (let i = 0; i < data.length; i += 4) {
    out.data.fill(shade * data[i + 3]!, i, i + 3)
    out.data[i + 3] = data[i + 3]!
  }
  return out
}

const SHUTTER_STEPS = 4
const SHUTTER = 0.5 // of the frame's time: 180°, common practice
const BORDER_PX = 10 // clear border of the painted banner

/** The banner hangs in columns that rise and fall with the wind; blurred by its own motion. */
function layBanner(target: Raster, banner: Raster, frame: number): void {
  const moments = Array.from(
    { length: SHUTTER_STEPS },
    (_, i) => frame + (SHUTTER * (i - (SHUTTER_STEPS - 1) / 2)) / SHUTTER_STEPS,
  )
  const lefts = moments.map(bannerLeft)
  const first = Math.max(0, Math.floor(Math.min(...lefts)) - 2)
  const last = Math.min(target.width, Math.ceil(Math.max(...lefts)) + BANNER.widthPx + 2)
  const sum = new Float64Array(4)
  for (let col = first; col < last; col++) {
    const hangs = moments.map((moment, i) => {
      const along = col + 0.5 - lefts[i]!
      const middle = bannerMiddle(moment, along)
      // Cloth that rises towards the lamp catches more of its light.
      return { along, middle, gain: 0.8 - 0.9 * (bannerMiddle(moment, along + 1) - middle) }
    })
    const middles = hangs.map(({ middle }) => middle)
    const half = BANNER.heightPx / 2 + BORDER_PX
    for (let row = Math.floor(Math.min(...middles) - half); row < Math.max(...middles) + half; row++) {
      sum.fill(0)
      for (const { along, middle, gain } of hangs)
        addBilinear(sum, banner, along + BORDER_PX, row + 0.5 - middle + half, gain)
      const alpha = sum[3]! / SHUTTER_STEPS
      if (alpha <= 0) continue
      const at = (row * target.width + col) * 3
      for (let channel = 0; channel < 3; channel++) {
        target.data[at + channel] = sum[channel]! / SHUTTER_STEPS + (1 - alpha) * target.data[at + channel]!
      }
    }
  }
}

function addBilinear(
  sum: Float64Array,
  { width, height, data }: Raster,
  x: number,
  y: number,
  gain: number,
): void {
  const [u, v] = [x - 0.5, y - 0.5]
  const [col, row] = [Math.floor(u), Math.floor(v)]
  if (col < 0 || row < 0 || col + 1 >= width || row + 1 >= height) return
  const [fu, fv] = [u - col, v - row]
  const at = (row * width + col) * 4
  const down = at + width * 4
  for (let channel = 0; channel < 4; channel++) {
    const above = data[at + channel]! + fu * (data[at + 4 + channel]! - data[at + channel]!)
    const below = data[down + channel]! + fu * (data[down + 4 + channel]! - data[down + channel]!)
    sum[channel]! += (above + fv * (below - above)) * (channel === 3 ? 1 : gain)
  }
}
