/** Where a picture shows a tone: a soft matte that keeps to the picture's own edges. */
import { blueDifference, brightnessOf, redDifference } from '../colour/ycc'
import { guidedMean } from '../image/guided'
import type { Raster } from '../image/raster'
import { offFrom, squareOf, type Tone, type ToneAxes } from './tone'

/** Within so many deviations, at widths of 1, a colour is the tone's. */
const FULL = 2.4
/** From the full matte to none, as a share of the width. */
const RAMP = 0.6
/** Light that skin throws back is only brighter: so many times as far. */
const BRIGHTER = 6
/** The matte follows edges where brightness changes by more than this. */
const EDGE = 0.03

/** Following edges leaves so little over them, and so little out beside them. */
const LEAK = 0.12

/**
 * @param widths  Factors: how much wider than the tone's own deviations each axis may be. @param followsPx  Edges of the picture are followed over this distance.
 * @returns For each pixel 0 to 1.
 */
export function toneMatte(picture: Raster, tone: Tone, widths: ToneAxes, followsPx = 3): Float32Array {
  const { width, height, channels, data } = picture
  const size = width * height
  const [guide, raw] = [new Float32Array(size), new Float32Array(size)]
  const darker = scaled(tone.deviations, widths)
  const brighter = { ...darker, brightness: BRIGHTER * darker.brightness }
  for (let at = 0; at < size; at++) {
    const [red, green, blue] = [data[at * channels]!, data[at * channels + 1]!, data[at * channels + 2]!]
    const brightness = brightnessOf(red, green, blue)
    guide[at] = brightness
    const off = offFrom(tone, brightness, blueDifference(blue, brightness), redDifference(red, brightness))
    const away = Math.sqrt(squareOf(off, off.brightness > 0 ? brighter : darker))
    raw[at] = Math.min(1, Math.max(0, 1 - (away - FULL) / (RAMP * FULL)))
  }
  const soft = guidedMean(
    { guide, width, height, radiusPx: followsPx, edgeDeviation: EDGE },
    raw,
    new Float32Array(size).fill(1),
    1,
  )
  return soft.map((one) => Math.min(1, Math.max(0, (one - LEAK) / (1 - 2 * LEAK))))
}

const scaled = (one: ToneAxes, by: ToneAxes): ToneAxes => ({
  brightness: by.brightness * one.brightness,
  colour: by.colour * one.colour,
  hue: by.hue * one.hue,
})
