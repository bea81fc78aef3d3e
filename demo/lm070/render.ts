/** Renders LM_070: the set once, then for every frame the stagehand in it and the lamps' light on both. */
import { cos, exp, sin } from '../../core/kernels/exact'
import { convolveSeparable } from '../../core/image/convolve'
import { createPlane, createRaster, type Raster } from '../../core/image/raster'
import { wholePicture, intersectRects, type Rect } from '../../core/image/rect'
import { paintColumns, paintFloor, paintWall } from '../arcade/paint'
import { layOver, layOverRaster, paintLayer } from '../layer'
import { expose, exposeMatte, filmGrain, type DemoFrame, type DemoShot } from '../shot'
import {
  ARM,
  BODY,
  LANTERN,
  LEG,
  paintArm,
  paintBody,
  paintLantern,
  paintLeg,
  paintShadow,
  SHADOW,
} from './paint'
import { LAMPS, LM_070, momentAt, type Figure, type Moment } from './scene'

interface Layers {
  /** Wall, floor and columns, as painted. */
  readonly set: Raster
  /** What the lamps give at each pixel where they give 1. */
  readonly lamps: Float32Array
  readonly body: Raster
  readonly nearLeg: Raster
  readonly farLeg: Raster
  readonly nearArm: Raster
  readonly farArm: Raster
  readonly shadow: Raster
}

export const lm070: DemoShot = {
  description: LM_070,
  momentAt,
  async prepare() {
    const { width, height, seed } = LM_070
    const [wall, floor, columns, body, nearLeg, farLeg, nearArm, farArm, shadow, lantern] = await Promise.all(
      [
        paintLayer(paintWall(width, seed), 0.6),
        paintLayer(paintFloor(width, height, seed + 1), 0.4),
        paintLayer(paintColumns(width, 110, seed + 2), 0.4),
        ...[
          paintBody(),
          paintLeg('#39332f'),
          paintLeg('#262220'),
          paintArm('#354350'),
          paintArm('#222b33'),
          paintShadow(),
          paintLantern(),
        ].map((one) => paintLayer(one, 0.4)),
      ],
    )
    const set = createRaster(width, height, 3)
    for (const layer of [wall, floor, columns]) layOverRaster(set, layer, 0, 0)
    for (const lamp of LAMPS) layOverRaster(set, lantern!, lamp.x - LANTERN.light.x, lamp.y - LANTERN.light.y)
    const layers = {
      set,
      lamps: lampLight(),
      body: body!,
      nearLeg: nearLeg!,
      farLeg: farLeg!,
      nearArm: nearArm!,
      farArm: farArm!,
      shadow: shadow!,
    }
    return (frame) => renderFrame(layers, frame)
  },
}

function lampLight(): Float32Array {
  const { width, height } = LM_070
  const out = new Float32Array(width * height)
  for (let row = 0, i = 0; row < height; row++) {
    for (let col = 0; col < width; col++, i++) {
      for (const lamp of LAMPS) {
        const [dx, dy] = [(col - lamp.x) / lamp.reachPx, (row - lamp.y) / (1.5 * lamp.reachPx)]
        out[i]! += exp(-(dx * dx + dy * dy))
      }
    }
  }
  return out
}

const DUSK = [0.42, 0.46, 0.6] as const
const LAMP_COLOUR = [0.98, 0.76, 0.46] as const

function lit(set: Raster, lamps: Float32Array, lamp: number): Raster {
  const light = createRaster(set.width, set.height, 3)
  for (let pixel = 0, at = 0; pixel < lamps.length; pixel++) {
    const given = lamp * lamps[pixel]!
    for (let channel = 0; channel < 3; channel++, at++)
      light.data[at] = set.data[at]! * (DUSK[channel]! + given * LAMP_COLOUR[channel]!)
  }
  return light
}

const levelAt = () => LM_070.grainLevel8

function renderFrame(layers: Layers, frame: number): DemoFrame {
  const moment = momentAt(frame)
  const withFigure: Raster = { ...layers.set, data: layers.set.data.slice() }
  const matte = createPlane(LM_070.width, LM_070.height)
  layFigure(withFigure, matte.data, layers, moment)
  const light = lit(withFigure, layers.lamps, moment.lamp)
  const truthLight = lit(layers.set, layers.lamps, moment.lamp)
  const grain = filmGrain(LM_070.seed, frame, light, LM_070.grainCoarsePx)
  return { ...expose(light, truthLight, grain, levelAt), matte: exposeMatte(matte) }
}

const FIGURE_HALF_PX = 150
const TURN = 0.62 // radians that a leg swings out

function layFigure(target: Raster, matte: Float32Array, layers: Layers, { figure }: Moment): void {
  const left = Math.floor(figure.x) - FIGURE_HALF_PX
  const top = figure.groundY - 380
  const figureRaster = createRaster(2 * FIGURE_HALF_PX, 420, 4)
  for (const { layer, pivot, x, y, turn } of piecesOf(layers, figure)) {
    const [c, s] = [cos(turn), sin(turn)]
    const [px, py] = [x - left, y - top]
    layOver(
      figureRaster,
      layer,
      [c, s, pivot.x - c * px - s * py, -s, c, pivot.y + s * px - c * py, 0, 0, 1],
      rectOf(pivot, px, py, layer),
    )
  }
  const blurred = blurredAlong(figureRaster, figure.blurPx)
  layOverRaster(target, blurred, left, top, (pixel, alpha) => (matte[pixel] = alpha))
}

function piecesOf(layers: Layers, { x, groundY, swing }: Figure) {
  const hip = groundY - 148
  const shoulder = hip - 128
  const legs = TURN * swing
  // Lower while the legs are apart.
  const dip = 148 * (1 - cos(legs))
  return [
    {
      layer: layers.shadow,
      pivot: { x: SHADOW.width / 2, y: SHADOW.height / 2 },
      x,
      y: groundY + 2,
      turn: 0,
    },
    { layer: layers.farArm, pivot: ARM.pivot, x: x + 4, y: shoulder + dip, turn: 0.8 * legs },
    { layer: layers.farLeg, pivot: LEG.pivot, x, y: hip + dip, turn: legs },
    { layer: layers.nearLeg, pivot: LEG.pivot, x, y: hip + dip, turn: -legs },
    { layer: layers.body, pivot: BODY.pivot, x, y: hip + dip + 6, turn: 0.03 * swing },
    { layer: layers.nearArm, pivot: ARM.pivot, x: x - 3, y: shoulder + dip, turn: -0.8 * legs },
  ]
}

/** All that a turned piece may cover in the figure's own raster. */
function rectOf(pivot: { x: number; y: number }, x: number, y: number, { width, height }: Raster): Rect {
  const reach = Math.ceil(
    Math.sqrt(Math.max(pivot.x, width - pivot.x) ** 2 + Math.max(pivot.y, height - pivot.y) ** 2),
  )
  const around = {
    col: Math.floor(x) - reach,
    row: Math.floor(y) - reach,
    width: 2 * reach,
    height: 2 * reach,
  }
  return intersectRects(around, wholePicture({ width: 2 * FIGURE_HALF_PX, height: 420 }))!
}

/** A box as long as the way that it goes during the shutter. */
function blurredAlong(raster: Raster, blurPx: number): Raster {
  const half = Math.max(0, (blurPx - 1) / 2)
  const reach = Math.ceil(half)
  const taps = Array.from({ length: 2 * reach + 1 }, (_, i) =>
    Math.abs(i - reach) <= half ? 1 : Math.max(0, 1 - (Math.abs(i - reach) - half)),
  )
  const sum = taps.reduce((a, b) => a + b, 0)
  return convolveSeparable(
    raster,
    taps.map((tap) => tap / sum),
    [1],
  )
}
