/**
 * How grainy a plate is around an area: a level for each channel and brightness, and how coarse the grain is.
 *
 * Two measures are taken. In space, second differences at two spacings: flat colour and ramps drop out, the lower
 * quartile of their sizes ignores edges and texture as long as a quarter of the places is free of them. In time, the
 * difference to the frames beside, moved as the surroundings move: all that rests or drifts drops out. Both can only be too high, by
 * texture the one, by motion that is not known the other; the lower one is taken.
 * Sources: J. Immerkær, "Fast noise variance estimation", CVIU 64(2), 1996 (the mask); quartiles: common practice.
 */
import type { Raster } from '../image/raster'
import type { Rect } from '../image/rect'
import type { EdgeField } from '../matte/edge'
import { coarsenessWhere, fineGain, statsOf, wideGain } from './coarseness'
import type { PictureBeside } from './drift'
import { measureGrainInTime } from './grainInTime'
import type { GrainModel, MeasuredGrain } from './measuredGrain'
import { BinnedSizes, GRAIN_BINS, levelsFrom, ROUNDING, Sizes } from './grainSizes'

const MAX_PLACES = 2000 // beyond this the estimate no longer improves, only its cost
const MIN_PLACES = 16
/** So many times as many entries are looked at as places are taken at most. */
const LOOKED_AT = 8

/**
 * Integer plates have rounding noise of their own and differences that are whole steps. Sizes are therefore spread over a
 * step each, and what rounding and spreading add is taken off again: a finished frame is rounded once more by itself.
 *
 * @param clearPx   Distance from the area's edge at which untouched plate begins; nearer is left out.
 * @param taboo     Pixels that are not 0 are left out too.
 * @param stepSize  One step of the plate's samples in the raster's scale: 1/255 for 8 bits.
 */
export function measureGrain(
  picture: Raster,
  rect: Rect,
  field: EdgeField,
  clearPx: number,
  taboo: Uint8Array | null,
  stepSize: number,
  beside: readonly PictureBeside[] = [],
): GrainModel {
  const places = clearPlaces(picture, field, clearPx, taboo)
  const none = { levels: new Float32Array(picture.channels * GRAIN_BINS), coarsePx: 0 }
  if (places.length < MIN_PLACES) return none
  const inSpace = measureInSpace(picture, places, stepSize)
  const inTime = measureGrainInTime(picture, rect, places, stepSize, beside)
  if (!inTime) return inSpace
  const [lower, upper] = inTime.pooled < inSpace.pooled ? [inTime, inSpace] : [inSpace, inTime]
  return {
    coarsePx: lower.coarsePx,
    levels: lower.levels.map((level, bin) =>
      upper.levels[bin]! < CLEARLY * level ? upper.levels[bin]! : level,
    ),
  }
}

/** Estimates that are nearer than this differ by chance: always the lower one would be too low. */
const CLEARLY = 0.85

/** The level at a brightness; between bins it runs straight. */
export function grainLevelAt({ levels }: GrainModel, channel: number, value: number): number {
  const at = Math.min(Math.max(value * GRAIN_BINS - 0.5, 0), GRAIN_BINS - 1)
  const bin = Math.min(Math.floor(at), GRAIN_BINS - 2)
  const f = at - bin
  const from = channel * GRAIN_BINS + bin
  return levels[from]! + f * (levels[from + 1]! - levels[from]!)
}

/** Levels are looked up in a table of so many steps over the range 0 to 1. */
export const LEVEL_STEPS = 256

/** The levels of each channel at 0 to 1 in steps: `LEVEL_STEPS + 1` of them. */
export function grainLevelTable(model: GrainModel, channels: number): Float32Array {
  const table = new Float32Array(channels * (LEVEL_STEPS + 1))
  for (let c = 0; c < channels; c++) {
    for (let i = 0; i <= LEVEL_STEPS; i++)
      table[c * (LEVEL_STEPS + 1) + i] = grainLevelAt(model, c, i / LEVEL_STEPS)
  }
  return table
}

/** The level at a brightness, to the nearest step of the table. */
export function levelIn(table: Float32Array, channel: number, value: number): number {
  const step = value <= 0 ? 0 : value >= 1 ? LEVEL_STEPS : (value * LEVEL_STEPS + 0.5) | 0
  return table[channel * (LEVEL_STEPS + 1) + step]!
}

const MARGIN_PX = 2 // the wider mask reads so far

/** Places around the area, clear of it and of what is taboo; of many every n-th. */
function clearPlaces(
  { width, height }: Raster,
  { count, pixels, edges }: EdgeField,
  clearPx: number,
  taboo: Uint8Array | null,
): Int32Array {
  // Of very many only some are looked at, evenly: an odd step falls in step with nothing.
  const step = 1 + 2 * Math.floor(count / (LOOKED_AT * MAX_PLACES))
  const places = new Int32Array(count)
  const from = clearPx + MARGIN_PX + 0.5
  const [rightmost, lowest] = [width - MARGIN_PX, height - MARGIN_PX]
  let found = 0
  for (let i = 0; i < count; i += step) {
    if (!(edges[i]! > from)) continue
    const pixel = pixels[i]!
    const row = (pixel / width) | 0
    const col = pixel - row * width
    if (col < MARGIN_PX || row < MARGIN_PX || col >= rightmost || row >= lowest) continue
    if (taboo !== null && isTabooNear(taboo, pixel, width)) continue
    places[found++] = pixel
  }
  const stride = Math.max(1, Math.ceil(found / MAX_PLACES))
  const some = new Int32Array(Math.ceil(found / stride))
  for (let i = 0; i < some.length; i++) some[i] = places[i * stride]!
  return some
}

const isTabooNear = (taboo: Uint8Array, pixel: number, width: number): boolean =>
  taboo[pixel] !== 0 ||
  taboo[pixel - MARGIN_PX] !== 0 ||
  taboo[pixel + MARGIN_PX] !== 0 ||
  taboo[pixel - MARGIN_PX * width] !== 0 ||
  taboo[pixel + MARGIN_PX * width] !== 0

function measureInSpace(
  { width, channels, data }: Raster,
  places: Int32Array,
  stepSize: number,
): MeasuredGrain {
  const all = places.length * channels
  const [fine, pooled, wide] = [
    new BinnedSizes(channels, places.length, stepSize),
    new Sizes(all, stepSize),
    new Sizes(all, stepSize),
  ]
  const down = width * channels
  for (const pixel of places) {
    for (let c = 0; c < channels; c++) {
      const at = pixel * channels + c
      const brightness =
        (data[at - channels]! + data[at + channels]! + data[at - down]! + data[at + down]! + 2 * data[at]!) /
        6
      const size = secondDifference(data, at, channels, down)
      fine.add(c, brightness, size)
      pooled.add(size)
      wide.add(secondDifference(data, at, 2 * channels, 2 * down))
    }
  }
  const rounding = ROUNDING * stepSize * stepSize
  // Rounding noise is white: the mask makes 36 times its variance of it.
  const clean = (variance: number) => Math.max(0, variance - 36 * rounding)
  const [narrow, broad] = [clean(pooled.variance()), clean(wide.variance())]
  const coarsePx = coarsenessWhere(
    (one) => wideGain(one) / fineGain(one),
    narrow > 0 ? Math.sqrt(broad / narrow) : 1,
  )
  const gain = fineGain(statsOf(coarsePx))
  return {
    levels: levelsFrom(fine, (variance) => clean(variance) / (gain * gain)),
    coarsePx,
    pooled: Math.sqrt(narrow) / gain,
  }
}

/** The mask (1 −2 1)ᵀ(1 −2 1): it turns white noise of deviation s into 6 s. */
function secondDifference(data: Float32Array, at: number, side: number, down: number): number {
  const above = data[at - down - side]! - 2 * data[at - down]! + data[at - down + side]!
  const here = data[at - side]! - 2 * data[at]! + data[at + side]!
  const below = data[at + down - side]! - 2 * data[at + down]! + data[at + down + side]!
  return above - 2 * here + below
}
