/**
 * Whether ground whose shadow was lifted looks as it does in the light: as bright, of the same colour, with as much contrast.
 *
 * Against the same ground as other frames show it lit, place by place; where none does, what lies inside the edge against what lies outside it.
 * Contrast is the slope of fine differences over those of the lit ground, to which grain adds nothing. Source: common practice.
 */
import { srgb } from '../colour/transfer'
import type { Raster } from '../image/raster'
import { boxMeans } from '../image/windows'
import { log } from '../kernels/exact'
import type { EdgeField } from '../matte/edge'
import type { ShadeMeasure } from './mendMeasure'

export type ShadeLeft = Pick<ShadeMeasure, 'offStops' | 'castStops' | 'contrast'>

const NOT_TOLD: ShadeLeft = { offStops: null, castStops: null, contrast: null }
/** What changed by less was hardly in the shadow. */
const CHANGED = 0.02
const MIN_PLACES = 400
/** Of more entries every n-th is looked at. */
const ENOUGH = 8000
const FINE_RADIUS_PX = 4
/** Ground smoother than this, mean square in the plate's scale, has no contrast to tell by. */
const MIN_SQUARES = 2.5e-5
/** Where no frame shows it lit: so far inside and outside the edge. */
const BAND_PX = { from: 2, to: 14 } as const
const FLOOR = 0.002

/**
 * @param result, plate  Of one rectangle, after and before.
 * @param lit   For each entry of the field the ground as other frames show it lit, channels interleaved, NaN where none does; null: none at all.
 * @param taboo Pixels that are not 0 belong to others; null: none.
 */
export function measureShadeLeft(
  result: Raster,
  plate: Raster,
  field: EdgeField,
  outerPx: number,
  lit: Float32Array | null,
  taboo: Uint8Array | null,
): ShadeLeft {
  return lit ? againstLit(result, plate, field, lit) : acrossEdge(result, field, outerPx, taboo)
}

function againstLit(
  result: Raster,
  plate: Raster,
  { pixels, count }: EdgeField,
  lit: Float32Array,
): ShadeLeft {
  const { channels, width, height, data } = result
  const colours = Math.min(3, channels)
  const step = 1 + Math.floor(count / ENOUGH)
  const offs = new Float64Array(colours)
  let places = 0
  for (let i = 0; i < count; i += step) {
    if (!isTold(lit, i, channels) || !isChanged(result, plate, pixels[i]!)) continue
    places++
    for (let c = 0; c < colours; c++)
      offs[c]! += lightStops(data[pixels[i]! * channels + c]!) - lightStops(lit[i * channels + c]!)
  }
  if (places < MIN_PLACES) return NOT_TOLD
  const green = Math.min(1, channels - 1)
  const [own, there, known] = [
    new Float32Array(width * height),
    new Float32Array(width * height),
    new Float32Array(width * height),
  ]
  for (let i = 0; i < count; i++) {
    if (!isTold(lit, i, channels)) continue
    const pixel = pixels[i]!
    own[pixel] = data[pixel * channels + green]!
    there[pixel] = lit[i * channels + green]!
    known[pixel] = 1
  }
  const means = [own, there].map((map) => boxMeans(map, known, width, height, FINE_RADIUS_PX, 0))
  let [cross, squares, fine] = [0, 0, 0]
  for (let i = 0; i < count; i += step) {
    const pixel = pixels[i]!
    if (known[pixel] === 0 || !isChanged(result, plate, pixel)) continue
    const off = there[pixel]! - means[1]![pixel]!
    cross += (own[pixel]! - means[0]![pixel]!) * off
    squares += off * off
    fine++
  }
  const contrast = squares > MIN_SQUARES * fine ? cross / squares : null
  return { ...castOf(offs.map((one) => one / places)), contrast }
}

/** Means just inside the edge against means just outside it. Contrast of different ground is no measure. */
function acrossEdge(
  { channels, data }: Raster,
  { pixels, edges, count }: EdgeField,
  outerPx: number,
  taboo: Uint8Array | null,
): ShadeLeft {
  const colours = Math.min(3, channels)
  const sums = [new Float64Array(colours), new Float64Array(colours)]
  const places = [0, 0]
  for (let i = 0; i < count; i++) {
    const pixel = pixels[i]!
    const far = edges[i]! > 0 ? edges[i]! - outerPx : -edges[i]!
    if (far < BAND_PX.from || far > BAND_PX.to || (taboo && taboo[pixel] !== 0)) continue
    const side = edges[i]! > 0 ? 1 : 0
    places[side]!++
    for (let c = 0; c < colours; c++) sums[side]![c]! += lightStops(data[pixel * channels + c]!)
  }
  if (Math.min(...places) < MIN_PLACES) return NOT_TOLD
  return { ...castOf(sums[0]!.map((sum, c) => sum / places[0]! - sums[1]![c]! / places[1]!)), contrast: null }
}

function castOf(offs: Float64Array): Pick<ShadeMeasure, 'offStops' | 'castStops'> {
  const mean = offs.reduce((sum, one) => sum + one, 0) / offs.length
  return {
    offStops: mean,
    castStops: offs.length < 3 ? null : Math.max(...offs.map((one) => Math.abs(one - mean))),
  }
}

const isTold = (lit: Float32Array, entry: number, channels: number): boolean =>
  !Number.isNaN(lit[entry * channels]!)

function isChanged({ channels, data }: Raster, plate: Raster, pixel: number): boolean {
  for (let c = 0; c < Math.min(3, channels); c++)
    if (Math.abs(data[pixel * channels + c]! - plate.data[pixel * channels + c]!) > CHANGED) return true
  return false
}

const LOG_2 = log(2)
const lightStops = (value: number): number => log(Math.max(0, srgb.decode(value)) + FLOOR) / LOG_2
