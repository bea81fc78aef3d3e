/**
 * Skin split: its form, that is light and shade as the head gives them; blotches, wider than a pore and no form; what is left are pores with all that is finer.
 * What is not skin has no say in any of them, so that neither hair nor lips are spread over it. The loops are in `kernels/assembly/skin.ts`.
 */
import { BRIGHTNESS_SHARES } from '../colour/ycc'
import { gaussianTaps } from '../image/convolve'
import { padded } from '../image/guided'
import { createRaster, type Raster } from '../image/raster'
import { withKernelMemory, writeWithKernel } from '../kernels/memory'
import { kernels } from '../kernels/module'

export interface BandWidths {
  /** Blotches are at most about so wide, px of what is split. */
  readonly radiusPx: number
  /** Down they are so many times as wide: creases and beards go one way. 1 where not said. */
  readonly downBy?: number
  /** Pores are at most about so wide, px of what is split. */
  readonly poresPx: number
  /** Steps of brightness from about this on are form. */
  readonly formStep: number
}

/**
 * What is wider than pores, and of it form: for each place a line over its brightness. Blotches are what is left between the two; what the picture has beyond
 * them are pores.
 */
export interface SkinBands {
  /** Red, green, blue without pores, and the matte; as large as what was split. */
  readonly middle: Raster
  /** Slopes of red, green, blue, 0; rests of them, 0. Smaller than the middle by `linesBy`. */
  readonly lines: Raster
  readonly linesBy: number
  readonly widths: BandWidths
}

/** A pore as wide as so many deviations of a blur is taken out by it. */
const PORE_DEVIATIONS = 2.5
/** Less of a window is not told by it. */
const MIN_SKIN = 1e-3
/** Lines are as well told by windows of so many px to either side: finer is not needed. */
const ENOUGH_PX = 4
const MAX_SHRINK = 4
const [MIDDLE, LINES] = [4, 8] as const
/** Blotches are at most a radius wide: what differs from the lines over twice so much of it, averaged twice, is light and shade. */
const WIDE_FORM = 0.5
/** Maps that `formLines` works with. */
const FORM_MAPS = 21

/**
 * @param picture  Encoded, at least three channels. @param matte  For each pixel, how far it is skin, 0 to 1.
 * Source of the lines: K. He, J. Sun, X. Tang, "Guided image filtering", ECCV 2010; at a part of the size: K. He, J. Sun, "Fast guided filter", arXiv:1505.00996, 2015.
 * A plane is taken out of each square first: light that falls off over a cheek is no edge. What lines miss over more than a blotch is wide is given back to form:
 * light falls off at a cheek's end as no plane does.
 */
export function splitSkin(picture: Raster, matte: Float32Array, widths: BandWidths): SkinBands {
  const { width, height, channels } = picture
  const size = width * height
  const middle = createRaster(width, height, MIDDLE)
  const taps = gaussianTaps(Math.max(0.4, widths.poresPx / PORE_DEVIATIONS))
  withKernelMemory(picture.data.byteLength + (12 * size + taps.length + 64) * 4, (scope) => {
    const [source, shares] = [scope.pointerTo(picture.data), scope.pointerTo(matte)]
    const [weighed, across] = [scope.reserve(16 * size), scope.reserve(16 * size)]
    const weights = scope.pointerTo(taps)
    const radius = (taps.length - 1) / 2
    kernels().weighSkin(source, channels, shares, size, weighed)
    kernels().convolveRows(weighed, across, width, height, MIDDLE, weights, radius)
    kernels().convolveColumns(across, weighed, width, height, MIDDLE, weights, radius)
    kernels().settleSkin(weighed, source, channels, shares, size, MIN_SKIN)
    middle.data.set(new Float32Array(kernels().memory.buffer, weighed, MIDDLE * size))
  })
  const linesBy = Math.max(1, Math.min(MAX_SHRINK, Math.floor(widths.radiusPx / ENOUGH_PX)))
  return { middle, lines: formLines(middle, linesBy, widths), linesBy, widths }
}

function formLines(middle: Raster, by: number, { radiusPx, downBy = 1, formStep }: BandWidths): Raster {
  const [width, height] = [Math.ceil(middle.width / by), Math.ceil(middle.height / by)]
  const [size, length] = [width * height, padded(width * height)]
  const lines = createRaster(width, height, LINES)
  const [radius, down] = [1, downBy].map((times) => Math.max(1, Math.round((times * radiusPx) / by))) as [number, number] // prettier-ignore
  // Half of a step is taken out with the plane.
  const floor = (formStep * formStep) / 4
  const maps = FORM_MAPS * 4 * length
  withKernelMemory(
    middle.data.byteLength + maps + 4 * (6 * length + LINES * size) + 8 * width + 1024,
    (scope) => {
      const source = scope.pointerTo(middle.data)
      const planes = scope.floats(5 * length).fill(0)
      const [first, plane] = [planes.byteOffset, 4 * length]
      kernels().shrinkSkin(source, middle.width, middle.height, by, first, plane)
      const guide = planes.subarray(4 * length)
      for (let at = 0; at < size; at++)
        for (const [c, share] of BRIGHTNESS_SHARES.entries()) guide[at]! += share * planes[c * length + at]!
      const [scratch, across, columns] = [scope.reserve(maps), scope.reserve(plane), scope.reserve(8 * width)]
      const [wide, wideDown] = [radius, down].map((one) => Math.max(1, Math.round(WIDE_FORM * one))) as [number, number] // prettier-ignore
      writeWithKernel(scope, lines.data, (to) => {
        const known = first + 3 * plane
        kernels().formLines(guide.byteOffset, first, known, width, height, plane, radius, down, floor, MIN_SKIN, scratch, across, columns, to) // prettier-ignore
        kernels().keepWideForm(guide.byteOffset, first, known, width, height, plane, wide, wideDown, MIN_SKIN, scratch, across, columns, to) // prettier-ignore
      })
    },
  )
  return lines
}

/** Tones as the kernel takes them, see `toneParams`, and how many of them are added and taken away. */
export interface OwnTones {
  readonly params: Float32Array
  readonly added: number
  readonly taken: number
}

/** What is to be done with the bands. */
export interface EvenParams {
  /** So often blotches are told and taken anew from what is left. */
  readonly passes: number
  /** Share of blotches and of pores that stays. */
  readonly blotchShare: number
  readonly poreShare: number
  /** Share of the shine that goes, and the brightness from which light is shine. */
  readonly shineShare: number
  readonly shineFrom: number
  /** For each pixel of the middle the share by which it becomes brighter; null where none does. */
  readonly lifts: Float32Array | null
  /** Added to red, green and blue. */
  readonly trims: readonly [number, number, number]
  /** Where a pixel by itself is further from these tones than it may be, it is less skin; null where all is. */
  readonly tones: OwnTones | null
  /** What brightness becomes, at equal steps from 0 to 1 and on beyond; null where it stays. */
  readonly curve: Float32Array | null
}

/**
 * Evens pixels of a picture `width` px wide that was split at 1 / `by` of its size.
 * @param values  The pixels' own values, `channels` each; changed in place. @param pixels  Their indices.
 * @returns For each pixel how far it is skin, 0 to 1.
 */
export function evenPixels(
  values: Float32Array,
  channels: number,
  pixels: Int32Array,
  width: number,
  bands: SkinBands,
  by: number,
  params: EvenParams,
): Float32Array {
  const count = pixels.length
  const needed = new Float32Array(count)
  const { tones } = params
  let last = bands
  for (let pass = 1; pass < params.passes; pass++) last = evenedOnce(last, params.blotchShare)
  const evened = evenedMiddle(last, bands.middle, params)
  const settings = settingsOf(params)
  const bytes = 2 * values.byteLength + evened.data.byteLength + 8 * count + (tones?.params.byteLength ?? 0)
  withKernelMemory(bytes + 1024, (scope) => {
    const own = scope.floats(values.length)
    own.set(values)
    const tonesAt = tones ? scope.pointerTo(tones.params) : 0
    writeWithKernel(scope, needed, (to) =>
      // prettier-ignore
      kernels().evenSkin(
        own.byteOffset, channels, scope.pointerTo(pixels), count, width, scope.pointerTo(evened.data), evened.width, evened.height, by,
        scope.pointerTo(settings), tonesAt, tones?.added ?? 0, tones?.taken ?? 0, to,
      ),
    )
    values.set(own)
  })
  return needed
}

const NOTHING_ELSE = {
  poreShare: 0,
  shineShare: 0,
  shineFrom: 0,
  lifts: null,
  trims: [0, 0, 0],
  curve: null,
} as const

/** Bands of what is left once a share of the blotches is gone. */
function evenedOnce(bands: SkinBands, blotchShare: number): SkinBands {
  const middle = evenedMiddle(bands, bands.middle, { ...NOTHING_ELSE, blotchShare })
  return { ...bands, middle, lines: formLines(middle, bands.linesBy, bands.widths) }
}

type MiddleParams = Omit<EvenParams, 'passes' | 'tones'>

const settingsOf = ({ blotchShare, poreShare, shineShare, shineFrom, trims }: MiddleParams): Float32Array =>
  Float32Array.of(...BRIGHTNESS_SHARES, 0, ...trims, 0, blotchShare, poreShare, shineShare, shineFrom)

/** What the middle becomes, less the share of pores of the first one; and the matte. */
function evenedMiddle({ middle, lines, linesBy }: SkinBands, first: Raster, params: MiddleParams): Raster {
  const { lifts, curve } = params
  const out = createRaster(middle.width, middle.height, MIDDLE)
  const bytes = 3 * middle.data.byteLength + lines.data.byteLength + (lifts?.byteLength ?? 0) + (curve?.byteLength ?? 0) // prettier-ignore
  withKernelMemory(bytes + 1024, (scope) => {
    const from = scope.pointerTo(middle.data)
    writeWithKernel(scope, out.data, (to) =>
      // prettier-ignore
      kernels().evenMiddle(
        from, first === middle ? from : scope.pointerTo(first.data), middle.width, middle.height, scope.pointerTo(lines.data), lines.width, lines.height, linesBy,
        scope.pointerTo(settingsOf(params)), lifts ? scope.pointerTo(lifts) : 0, curve ? scope.pointerTo(curve) : 0, (curve?.length ?? 1) - 1, to,
      ),
    )
  })
  return out
}
