/** Where a picture shows a tone: a soft matte that keeps to the picture's own edges. */
import { BRIGHTNESS_SHARES, DIFFERENCE_SCALES } from '../colour/ycc'
import { guidedMean } from '../image/guided'
import type { Raster } from '../image/raster'
import { slidingLeast } from '../image/windows'
import { withKernelMemory } from '../kernels/memory'
import { kernels } from '../kernels/module'
import { DARKEST, NO_COLOUR, type Tone, type ToneAxes } from './tone'
import type { Tones } from './tonesSet'

/** Within so many deviations, at widths of 1, a colour is the tone's. */
export const FULL = 2.4
/** From the full matte to none, as a share of the width. */
export const RAMP = 0.6
/** Light that skin throws back is only brighter: so many times as far. */
export const BRIGHTER = 6
/** The matte follows edges where brightness changes by more than this. */
const EDGE = 0.03

/** Following edges leaves so little over them, and so little out beside them. */
const LEAK = 0.12

/** Factors: how much wider than the tone's own deviations each axis may be, and how much softer the way from skin to none is than usual. */
export interface ToneWidths extends ToneAxes {
  readonly softness?: number
}

/**
 * @param followsPx  Edges of the picture are followed over this distance.
 * @returns For each pixel 0 to 1.
 */
export function toneMatte(picture: Raster, tones: Tones, widths: ToneWidths, followsPx = 3): Float32Array {
  const { width, height } = picture
  const { guide, shares } = toneShares(picture, tones, widths)
  const soft = guidedMean(
    { guide, width, height, radiusPx: followsPx, edgeDeviation: EDGE },
    shares,
    new Float32Array(shares.length).fill(1),
    1,
  )
  for (let at = 0; at < soft.length; at++)
    soft[at] = Math.min(1, Math.max(0, (soft[at]! - LEAK) / (1 - 2 * LEAK)))
  return soft
}

/** How far each pixel by itself has the tones, and its brightness. The loop is in `kernels/assembly/skin.ts`; `offFrom` and `squareOf` are what it works out. */
export function toneShares({ width, height, channels, data }: Raster, tones: Tones, widths: ToneWidths) {
  const size = width * height
  const [guide, shares] = [new Float32Array(size), new Float32Array(size)]
  const { added, taken } = tones
  const settings = toneParams(tones, widths)
  withKernelMemory(data.byteLength + 8 * size + settings.byteLength + 256, (scope) => {
    const [source, asked, guideTo, sharesTo] = [scope.pointerTo(data), scope.pointerTo(settings), scope.floats(size), scope.floats(size)] // prettier-ignore
    kernels().toneShares(
      source,
      channels,
      size,
      asked,
      added.length,
      taken.length,
      guideTo.byteOffset,
      sharesTo.byteOffset,
    )
    guide.set(guideTo)
    shares.set(sharesTo)
  })
  return { guide, shares }
}

/** Tones as the kernels take them: the skin's own, those that are added, those that are taken away. */
export const toneParams = ({ own, added, taken }: Tones, widths: ToneWidths): Float32Array =>
  // A place that was clicked says nothing of highlights.
  Float32Array.from([
    ...paramsOf(own, widths, BRIGHTER),
    ...[...added, ...taken].flatMap((tone) => paramsOf(tone, widths, 1)),
  ])

function paramsOf(
  { brightness, blue, red, slopes, brightest, deviations }: Tone,
  widths: ToneWidths,
  brighterBy: number,
): number[] {
  const length = Math.sqrt(blue * blue + red * red)
  // A tone of no colour has no axes: any two will do.
  const [alongBlue, alongRed] = length < NO_COLOUR ? [1, 0] : [blue / length, red / length]
  const darker = 1 / (widths.brightness * deviations.brightness)
  return [
    ...BRIGHTNESS_SHARES,
    DIFFERENCE_SCALES.blue,
    DIFFERENCE_SCALES.red,
    brightness,
    length < NO_COLOUR ? 0 : length,
    alongBlue,
    alongRed,
    darker,
    darker / brighterBy,
    1 / (widths.colour * deviations.colour),
    1 / (widths.hue * deviations.hue),
    DARKEST * length,
    FULL,
    (widths.softness ?? 1) * RAMP * FULL,
    length < NO_COLOUR ? 0 : slopes.colour,
    length < NO_COLOUR ? 0 : slopes.hue,
    brightest,
  ]
}

/** A matte that reaches further by so many px, or, below 0, less far: the largest or the least of what lies as near; in between for parts of a px. */
export function grownMatte(matte: Float32Array, width: number, height: number, growPx: number): Float32Array {
  if (growPx === 0) return matte
  const reach = Math.abs(growPx)
  const grown = (radius: number) =>
    growPx < 0
      ? slidingLeast(matte, width, height, radius)
      : slidingLeast(matte.map((share) => 1 - share), width, height, radius).map((share) => 1 - share) // prettier-ignore
  const [inner, outer, between] = [
    grown(Math.floor(reach)),
    grown(Math.ceil(reach)),
    reach - Math.floor(reach),
  ]
  return inner.map((share, at) => share + between * (outer[at]! - share))
}
