import { z } from 'zod'
import { convolveSeparable, gaussianTaps } from '../../image/convolve'
import { gridOf, solveLaplace } from '../../image/laplace'
import { createRaster } from '../../image/raster'
import { boxMeans, boxSums } from '../../image/windows'
import { log } from '../../kernels/exact'
import { measurePathField } from '../../matte/pathField'
import { across } from '../across/across'
import {
  completed,
  defineFill,
  FREE,
  isTrouble,
  type FillInput,
  type FillMethod,
  type FillResult,
} from '../method'
import { texture } from '../texture/texture'
import type { MatchBeside } from '../across/match'
import type { RunContext } from '../../shot/context'

const params = z.strictObject({})

const ACROSS = across.params.parse({})
const TEXTURE = texture.params.parse({})

/** Plate around the area on which both are tried: half as wide as the bar's half, within these bounds, px. */
const MIN_RIM_PX = 4
const MAX_RIM_PX = 12
/** Errors are compared without grain and over places, px. */
const GRAIN_SIGMA_PX = 1.5
const PLACE_RADIUS_PX = 8
/** Errors below this are no errors: a code value of 8 bits. */
const NO_ERROR = 1 / 255
/** From so much more than the other's error, in powers of two, one has all the say. */
const CLEAR_STOPS = 1

/**
 * Either: Across and Texture are both made of a bar, and at each place the one is taken that continues what lies beside it better.
 *
 * Both are given a hole that is wider by a rim, whose plate is known: how far each is off there, without grain and averaged over
 * places, is spread into the area as a membrane. Where they are about as good they are blended, so no seam shows.
 */
export const either: FillMethod = defineFill<typeof params, MatchBeside>({
  id: 'either',
  version: 1,
  title: 'Either',
  summary:
    'Makes both Across and Texture of a bar, and takes at each place what continues the picture beside it better. For rods and stands; costs as much as both.',
  source: 'Common practice, no source; spread by the Laplace equation as Membrane is.',
  params,
  needsPath: true,
  hasDraft: true,
  reach: (_, halfPx) => {
    const rimPx = rimWidthOf(halfPx)
    return {
      marginPx:
        rimPx +
        Math.max(texture.reach(TEXTURE, halfPx).marginPx, across.reach(ACROSS, halfPx + rimPx).marginPx),
      ringPx: texture.reach(TEXTURE, halfPx).ringPx!,
    }
  },
  steady: {
    wants: () => across.steady!.wants(ACROSS),
    prepare: (input, _, context, purpose) =>
      across.steady!.prepare(input, ACROSS, context, purpose) as MatchBeside | null,
  },

  run(input, _settings, context, beside = []) {
    if (!input.path) throw new TypeError('Either needs a path')
    const plain = completed(across.run(input, ACROSS, context, beside))
    const tried = triedAround(input)
    const textured = completed(texture.run(tried.input, TEXTURE, context, []))
    if (!plain.ok) return textured.ok ? picked(input, tried, textured) : plain
    if (!textured.ok) return textured.reason === 'stopped' ? textured : plain
    const crossed = completed(across.run(tried.input, ACROSS, context, beside))
    if (!crossed.ok) return crossed.reason === 'stopped' ? crossed : plain
    const shares = texturedShares(tried, crossed.values, textured.values, context)
    return shares
      ? blended(input, tried, plain, textured, shares)
      : { ok: false, reason: 'stopped', detail: 'While comparing.' }
  },
})

type Filled = Extract<FillResult, { ok: true }>

const rimWidthOf = (halfPx: number): number =>
  Math.min(MAX_RIM_PX, Math.max(MIN_RIM_PX, Math.ceil(halfPx / 2)))

/** The area made wider by a rim of known plate. */
interface Tried {
  readonly input: FillInput
  /** For each of its entries 1 where the plate is known: the rim. */
  readonly isRim: Uint8Array
  /** For each entry of the area the entry here. */
  readonly entryOf: Int32Array
}

function triedAround(input: FillInput): Tried {
  const { picture, field, wanted, path, rect, rimPx, outerPx, taboo } = input
  const { curve } = path!
  const halfPx = curve.widths.reduce((max, width) => Math.max(max, width), 0) / 2
  const widthPx = rimWidthOf(halfPx)
  const size = picture.width * picture.height
  const isAsked = new Float32Array(size)
  for (let i = 0; i < field.count; i++)
    if (wanted[i]! > 0 && isTrouble(input, i)) isAsked[field.pixels[i]!] = 1
  const near = boxSums(isAsked, picture.width, picture.height, widthPx)
  const wide = measurePathField(curve, rect, outerPx + widthPx + 1)
  const [asked, edges] = [new Float32Array(wide.count), new Float32Array(wide.count)]
  const isRim = new Uint8Array(wide.count)
  const entryAt = new Int32Array(size).fill(-1)
  for (let i = 0; i < wide.count; i++) {
    const pixel = wide.pixels[i]!
    entryAt[pixel] = i
    isRim[i] = near[pixel]! > 0.5 && isAsked[pixel] === 0 && (!taboo || taboo[pixel] === FREE) ? 1 : 0
    asked[i] = isRim[i] === 1 || isAsked[pixel] === 1 ? 1 : 0
    edges[i] = asked[i] === 1 ? rimPx - 1 : outerPx + widthPx + 8
  }
  for (let i = 0; i < field.count; i++) {
    const entry = entryAt[field.pixels[i]!]!
    // What the area itself takes for known stays so.
    if (entry >= 0 && wanted[i]! > 0) {
      asked[entry] = 1
      edges[entry] = Math.min(edges[entry]!, field.edges[i]!)
    }
  }
  const entryOf = Int32Array.from({ length: field.count }, (_, i) => entryAt[field.pixels[i]!]!)
  return {
    input: {
      ...input,
      field: { ...wide, edges },
      wanted: asked,
      path: { curve, field: { ...wide, edges } },
      rimPx: rimPx + widthPx,
      outerPx: outerPx + widthPx,
    },
    isRim,
    entryOf,
  }
}

/** For each entry of what was tried, how much say Texture has: 0 to 1; null where that was stopped. */
function texturedShares(
  { input, isRim }: Tried,
  crossed: Float32Array,
  textured: Float32Array,
  { shouldStop }: RunContext,
): Float32Array | null {
  const { picture, field, wanted } = input
  const { width, height } = picture
  const errors = [crossed, textured].map((values) => errorsAtRim(input, isRim, values))
  const shares = new Float32Array(field.count).fill(0.5)
  const scores = createRaster(width, height, 1)
  const [isKnown, isUnknown] = [new Uint8Array(width * height), new Uint8Array(width * height)]
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    if (isRim[i] === 0) {
      isUnknown[pixel] = wanted[i]! > 0 ? 1 : 0
      continue
    }
    isKnown[pixel] = 1
    const stops = (log(errors[0]![pixel]!) - log(errors[1]![pixel]!)) / Math.LN2
    scores.data[pixel] = 0.5 + Math.min(0.5, Math.max(-0.5, stops / (2 * CLEAR_STOPS)))
    shares[i] = scores.data[pixel]!
  }
  const grid = gridOf(isUnknown, isKnown, width)
  if (!grid.hasRim) return shares
  const solved = solveLaplace(grid, scores, shouldStop)
  if (!solved) return null
  for (let i = 0, k = 0; i < field.count; i++) {
    if (field.pixels[i] !== grid.pixels[k]) continue
    shares[i] = solved[k]!
    k++
  }
  return shares
}

/** How far values are off on the rim, rms for each pixel of the crop: without grain, averaged over places of the rim. */
function errorsAtRim({ picture, field }: FillInput, isRim: Uint8Array, values: Float32Array): Float32Array {
  const { width, height, channels, data } = picture
  const off = createRaster(width, height, channels + 1)
  const known = new Float32Array(width * height)
  for (let i = 0; i < field.count; i++) {
    if (isRim[i] === 0) continue
    const pixel = field.pixels[i]!
    known[pixel] = 1
    off.data[pixel * (channels + 1) + channels] = 1
    for (let c = 0; c < channels; c++)
      off.data[pixel * (channels + 1) + c] = values[i * channels + c]! - data[pixel * channels + c]!
  }
  const taps = gaussianTaps(GRAIN_SIGMA_PX)
  const blurred = convolveSeparable(off, taps, taps).data
  const squares = new Float32Array(width * height)
  for (let pixel = 0; pixel < squares.length; pixel++) {
    if (known[pixel] === 0) continue
    const weight = blurred[pixel * (channels + 1) + channels]!
    for (let c = 0; c < channels; c++) {
      const one = blurred[pixel * (channels + 1) + c]! / weight
      squares[pixel]! += (one * one) / channels
    }
  }
  const means = boxMeans(squares, known, width, height, PLACE_RADIUS_PX, 0)
  return means.map((mean) => Math.sqrt(mean + NO_ERROR * NO_ERROR))
}

/** Both, each as far as it has a say. */
function blended(
  { field, picture: { channels } }: FillInput,
  { entryOf }: Tried,
  plain: Filled,
  textured: Filled,
  shares: Float32Array,
): FillResult {
  const values = plain.values.slice()
  const grainKept = plain.grainKept.slice()
  for (let i = 0; i < field.count; i++) {
    const entry = entryOf[i]!
    if (entry < 0) continue
    const share = shares[entry]!
    for (let c = 0; c < channels; c++) {
      const at = i * channels + c
      values[at]! += share * (textured.values[entry * channels + c]! - values[at]!)
    }
    const kept = share * share * textured.grainKept[entry]! + (1 - share) * (1 - share) * grainKept[i]!
    grainKept[i] = Math.min(1, kept)
  }
  return { ok: true, values, grainKept }
}

/** Texture alone, at the area's own entries. */
function picked(
  { field, picture: { channels } }: FillInput,
  { entryOf }: Tried,
  { values, grainKept }: Filled,
): FillResult {
  const out = new Float32Array(field.count * channels)
  const kept = new Float32Array(field.count).fill(1)
  entryOf.forEach((entry, i) => {
    if (entry < 0) return
    out.set(values.subarray(entry * channels, (entry + 1) * channels), i * channels)
    kept[i] = grainKept[entry]!
  })
  return { ok: true, values: out, grainKept: kept }
}
