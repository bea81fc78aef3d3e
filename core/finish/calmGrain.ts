/**
 * Grain that was raised with the contrast of what lies under it is brought back down to that of its new brightness.
 *
 * A value is what would be there without grain, and the rest, which is made less by as much as it was raised. What would be there is told by the fill, as other frames
 * show it, in the brightness that the values have by now; or else by a guided filter. A rest that is more than grain can be is something that is there, and stays.
 * Source: K. He, J. Sun, X. Tang, "Guided image filtering", ECCV 2010; what is added back: common practice.
 */
import { guidedMean } from '../image/guided'
import { boxMeans } from '../image/windows'
import type { Size } from '../image/rect'
import type { EdgeField } from '../matte/edge'
import { grainLevelTable, levelIn } from './grainModel'
import type { GrainModel } from './measuredGrain'

const RADIUS_PX = 2
/** By how much values are brighter than what other frames show is averaged over so much. */
const BRIGHTER_RADIUS_PX = 6
/** In deviations of the raised grain: what varies more around a place is its own detail. */
const EDGE_DEVIATIONS = 2
/** A rest of more deviations of the raised grain than this is none. */
const MOST_DEVIATIONS = 3.5
/** So much above what is wanted nothing shows. */
const RAISED_FROM = 1.03

/**
 * Calms values in place.
 *
 * @param raised  For each entry the variance of its grain in parts of what the plate's is there; not above 1 where nothing was raised.
 * @param plate   What the entries were made of, channels interleaved by pixel of the rectangle.
 * @param grainless  What would be there without grain, entry by entry, NaN where nothing tells.
 * @returns For each entry the variance that its grain now has, in parts of what is wanted, at most 1: below that some lacks.
 */
export function calmGrain(
  values: Float32Array,
  raised: Float32Array,
  plate: Float32Array,
  { pixels, count }: EdgeField,
  { width, height }: Size,
  channels: number,
  model: GrainModel,
  grainless: Float32Array | null = null,
): Float32Array {
  const kept = raised.map((one) => Math.min(1, one))
  const levels = grainLevelTable(model, channels)
  const size = width * height
  for (let c = 0; c < channels; c++) {
    const levelAt = (value: number) => levelIn(levels, c, value)
    const map = new Float32Array(size)
    for (let pixel = 0; pixel < size; pixel++) map[pixel] = plate[pixel * channels + c]!
    let [deviations, asked] = [0, 0]
    for (let i = 0; i < count; i++) {
      map[pixels[i]!] = values[i * channels + c]!
      if (raised[i]! <= 1) continue
      deviations += Math.sqrt(raised[i]!) * levelAt(plate[pixels[i]! * channels + c]!)
      asked++
    }
    if (asked === 0 || deviations === 0) continue
    const without = grainlessMap(grainless, map, raised, pixels, { width, height }, channels, c, () => {
      const edgeDeviation = (EDGE_DEVIATIONS * deviations) / asked
      const guided = { guide: map, width, height, radiusPx: RADIUS_PX, edgeDeviation }
      return guidedMean(guided, map, new Float32Array(size).fill(1), 1)
    })
    for (let i = 0; i < count; i++) {
      if (raised[i]! <= 1) continue
      const pixel = pixels[i]!
      const has = Math.sqrt(raised[i]!) * levelAt(plate[pixel * channels + c]!)
      const wanted = levelAt(map[pixel]!)
      if (!(has > 0) || !(wanted > 0)) continue
      const rest = map[pixel]! - without[pixel]!
      if (has > RAISED_FROM * wanted && Math.abs(rest) < MOST_DEVIATIONS * has)
        values[i * channels + c] = without[pixel]! + (wanted / has) * rest
      kept[i] = Math.min(kept[i]!, (has * has) / (wanted * wanted))
    }
  }
  return kept
}

/**
 * What would be there without grain, pixel by pixel: as other frames show it, in the brightness that the values have here, which may have been trimmed;
 * else the values averaged. @param averaged  Asked for only where it is needed: it costs most.
 */
function grainlessMap(
  grainless: Float32Array | null,
  values: Float32Array,
  raised: Float32Array,
  pixels: Int32Array,
  { width, height }: Size,
  channels: number,
  c: number,
  averaged: () => Float32Array,
): Float32Array {
  if (!grainless) return averaged()
  const size = width * height
  const [told, brighter, isTold] = [
    new Float32Array(size).fill(NaN),
    new Float32Array(size),
    new Float32Array(size),
  ]
  let isAnyUntold = false
  for (let i = 0; i < raised.length; i++) {
    const value = grainless[i * channels + c]!
    if (Number.isNaN(value)) {
      isAnyUntold ||= raised[i]! > 1
      continue
    }
    const pixel = pixels[i]!
    told[pixel] = value
    brighter[pixel] = values[pixel]! - value
    isTold[pixel] = 1
  }
  const mean = boxMeans(brighter, isTold, width, height, BRIGHTER_RADIUS_PX, 0)
  const rest = isAnyUntold ? averaged() : null
  for (let pixel = 0; pixel < size; pixel++)
    told[pixel] = isTold[pixel] === 1 ? told[pixel]! + mean[pixel]! : (rest?.[pixel] ?? 0)
  return told
}
