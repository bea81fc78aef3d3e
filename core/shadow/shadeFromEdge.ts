/**
 * A shadow measured by its own edge, where no frame shows its ground lit: what lies inside against what lies outside, colour by colour, in stops of light.
 *
 * How dark it is as a function of the depth in the area is averaged all along the edge: texture goes, the shadow stays. What the averages leave open, for the depth in
 * each colour, is settled by how shadows are: the sky lights them, so blue goes least and red most. Place by place the strength is then told twice, by the depth in the
 * area and by what is there, in that mixture of colours in which the ground varies least; each has a say by how sure it is.
 * Sources: inside against outside across the edge: Y. Shor, D. Lischinski, "The shadow meets the mask", CGF 27(2), 2008; the mixture is Fisher's linear
 * discriminant, 1936; monotone averages: R. E. Barlow et al., "Statistical inference under order restrictions", 1972.
 */
import { solveSymmetric } from '../geometry/linear'
import { gaussianTaps } from '../image/convolve'
import { exp } from '../kernels/exact'
import { product, type Symmetric } from './covariance'
import {
  fullDepth,
  LEAST_DARK,
  meanAt,
  meanOver,
  OUTSIDE_PX,
  profileOf,
  type Full,
  type Profile,
} from './depthProfile'
import { COARSE_SIGMA_PX, lookAtGround, type EdgeLook, type GroundLook } from './groundLook'
import type { Shade, ShadedPlaces } from './shade'

/** What a place shows by itself is averaged over so many times the softness. */
const FINE_TIMES = 1.25
/** A drawn edge runs so far off the shadow's own, to either side: deviation. */
const DRAWN_OFF_PX = 5
/** Shadows are not everywhere the same at the same depth: deviation of a strength told by depth, at least. */
const UNEVEN = 0.1
/** A strength is never told to be above this, by depth and in all. */
const MOST_BY_DEPTH = 1.15
const MOST = 1.3
const ROUNDS = 3
/** How far, in logarithms of light, colours of a shadow differ from each other: mean for red, green and blue, and deviation. Common practice, no source: skylight is blue. */
const SKYLIGHT = [-0.08, 0, 0.1] as const
const COLOUR_DEVIATION = 0.05
/** So for shadows at least as dark as this, less for fainter ones. */
const USUALLY_DARK = 0.7
/** What is darker by fewer deviations of that may be the ground's own. */
const SURE_DEVIATIONS = 1.5
/** Texture is rougher than averages over independent places would have it. */
const ROUGHNESS = 3

/**
 * @param softPx  Deviation of the window over which a place tells its strength, above 0.
 * @returns null where nothing inside is darker than what is around by more than the ground's own texture, or nothing is around.
 */
export function shadeFromEdge(look: EdgeLook, places: ShadedPlaces, softPx: number): Shade | null {
  const measured = lookAtGround(look, FINE_TIMES * softPx)
  if (!measured) return null
  const profile = profileOf(measured, look.depths)
  const full = fullDepth(profile)
  if (!full) return null
  const spread = spreadOfMeans(measured, profile, full)
  if (-full.lightness < SURE_DEVIATIONS * lightnessDeviation(spread, profile.colours)) return null
  const settle = settledBy(spread, profile.colours)
  let depth = settle(meanOver(profile, full.bins))
  let byDepth = profile.falling.map((value) => Math.min(MOST_BY_DEPTH, Math.max(0, value / full.lightness)))
  let strengths: Float32Array = new Float32Array(look.depths.length)
  for (let round = 0; round < ROUNDS; round++) {
    const told = toldByColour(measured, depth)
    if (!told) return null
    strengths = joinedStrengths(told, byDepth, profile, look.depths)
    const again = settle(regressed(measured, strengths, look.depths))
    depth = depth.map((one, c) => 0.5 * (one + again[c]!))
    byDepth = byDepth.map((one, bin) => 0.5 * (one + meanAt(strengths, profile, bin)))
  }
  return linearShade(strengths, depth, places)
}

/** How far the ground's texture alone makes means over the full shadow and over as much ground beside it differ. */
function spreadOfMeans({ coarseSpread }: GroundLook, { counts }: Profile, { bins }: Full): Symmetric {
  const outside = counts.slice(0, OUTSIDE_PX + 1).reduce((sum, one) => sum + one, 0)
  const inside = bins.reduce((sum, bin) => sum + counts[bin]!, 0)
  const placePx = 4 * Math.PI * COARSE_SIGMA_PX * COARSE_SIGMA_PX
  const independent = Math.max(1, Math.min(inside, outside) / 2 / placePx)
  return coarseSpread.map((one) => (one * ROUGHNESS) / independent)
}

function lightnessDeviation(spread: Symmetric, colours: number): number {
  const ones = new Array<number>(colours).fill(1 / colours)
  return Math.sqrt(product(spread, ones).reduce((sum, one) => sum + one / colours, 0))
}

/** What is measured of the depth, drawn to how shadows are as far as texture leaves it open. */
function settledBy(spread: Symmetric, colours: number) {
  // Lightness is free, differences between colours are not.
  const prior = Float64Array.from(spread, (_, i) => {
    const [a, b] = placeInTriangle(i, colours)
    return 1 / colours + COLOUR_DEVIATION * COLOUR_DEVIATION * ((a === b ? 1 : 0) - 1 / colours)
  })
  const both = prior.map((one, i) => one + spread[i]!)
  return (measured: readonly number[]): number[] => {
    const dark = Math.min(1, -measured.reduce((sum, one) => sum + one, 0) / colours / USUALLY_DARK)
    const mean = measured.map((_, c) => (colours === 3 ? SKYLIGHT[c]! * Math.max(0, dark) : 0))
    const off = solveSymmetric(
      both,
      measured.map((one, c) => one - mean[c]!),
    )
    return off ? product(prior, off).map((one, c) => mean[c]! + one) : [...measured]
  }
}

function placeInTriangle(index: number, size: number): readonly [number, number] {
  let row = 0
  while (index >= size - row) index -= size - row++
  return [row, row + index]
}

/** What each place says of its strength by itself, and how unsure that is. */
interface Told {
  readonly strengths: Float32Array
  readonly variance: number
  readonly isTold: Float32Array
}

function toldByColour(
  { fine, fineSpread, ground, isNear }: GroundLook,
  depth: readonly number[],
): Told | null {
  const mixture = solveSymmetric(fineSpread, depth)
  const scale = mixture?.reduce((sum, one, c) => sum + one * depth[c]!, 0)
  if (!mixture || !scale || !(scale > 0)) return null
  const colours = depth.length
  const strengths = new Float32Array(isNear.length)
  for (let pixel = 0; pixel < strengths.length; pixel++) {
    let sum = 0
    for (let c = 0; c < colours; c++) sum += mixture[c]! * fine.data[pixel * colours + c]!
    strengths[pixel] = sum / scale
  }
  let [mean, squares] = [0, 0]
  for (const pixel of ground) mean += strengths[pixel]! / ground.length
  for (const pixel of ground) {
    const off = strengths[pixel]! - mean
    squares += off * off
  }
  return { strengths, variance: squares / ground.length, isTold: isNear }
}

/** The place's depth in the area and its own colour, each by how sure it is. */
function joinedStrengths(
  { strengths, variance, isTold }: Told,
  byDepth: readonly number[],
  { counts }: Profile,
  depths: Float32Array,
): Float32Array {
  const slopes = smoothedSlopes(byDepth)
  const last = counts.length - 1
  return strengths.map((told, pixel) => {
    if (!(depths[pixel]! > 0)) return 0
    const at = Math.min(last, depths[pixel]! + OUTSIDE_PX)
    const bin = Math.min(Math.floor(at), last - 1)
    const f = at - bin
    const expected = byDepth[bin]! + f * (byDepth[bin + 1]! - byDepth[bin]!)
    const slope = DRAWN_OFF_PX * (slopes[bin]! + f * (slopes[bin + 1]! - slopes[bin]!))
    const own = slope * slope + UNEVEN * UNEVEN
    const say = isTold[pixel] === 1 ? 1 / variance : 0
    const joined = (expected / own + say * told) / (1 / own + say)
    return Math.min(MOST, Math.max(0, joined))
  })
}

/** Slopes of the profile are averaged over so much. */
const SLOPE_SIGMA_PX = 3

function smoothedSlopes(byDepth: readonly number[]): number[] {
  const taps = gaussianTaps(SLOPE_SIGMA_PX)
  const radius = taps.length >> 1
  const slope = (bin: number) => {
    const [a, b] = [Math.max(0, bin - 1), Math.min(byDepth.length - 1, bin + 1)]
    return Math.abs(byDepth[b]! - byDepth[a]!) / 2
  }
  return byDepth.map((_, bin) => {
    let sum = 0
    taps.forEach((tap, i) => {
      sum += tap * slope(Math.min(byDepth.length - 1, Math.max(0, bin + i - radius)))
    })
    return sum
  })
}

/** Depth of each colour by least squares of what is there over the strengths. */
function regressed({ offs, say }: GroundLook, strengths: Float32Array, depths: Float32Array): number[] {
  const colours = offs.channels
  let [weight, mean] = [0, 0]
  const means = new Float64Array(colours)
  const isAsked = (pixel: number) => depths[pixel]! > -OUTSIDE_PX && say[pixel]! > 0
  for (let pixel = 0; pixel < strengths.length; pixel++) {
    if (!isAsked(pixel)) continue
    weight += say[pixel]!
    mean += say[pixel]! * strengths[pixel]!
    for (let c = 0; c < colours; c++) means[c]! += say[pixel]! * offs.data[pixel * colours + c]!
  }
  let squares = 0
  const products = new Float64Array(colours)
  for (let pixel = 0; pixel < strengths.length; pixel++) {
    if (!isAsked(pixel)) continue
    const off = strengths[pixel]! - mean / weight
    squares += say[pixel]! * off * off
    for (let c = 0; c < colours; c++)
      products[c]! += say[pixel]! * off * (offs.data[pixel * colours + c]! - means[c]! / weight)
  }
  return Array.from(products, (one) => (squares > 0 ? one / squares : 0))
}

/** Ambient light is always left. */
const MOST_MISSING = 0.97

/** From logarithms to shares of the light: as strong a shadow in the mean of the colours. */
function linearShade(strengths: Float32Array, depth: readonly number[], { pixels }: ShadedPlaces): Shade {
  const missing = depth.map((one) => Math.min(MOST_MISSING, Math.max(0, 1 - exp(one))))
  const colours = depth.length
  const out = Float32Array.from(pixels, (pixel) => {
    const strength = strengths[pixel]!
    const faint = strength * strength
    const sure = (strength * faint) / (faint + LEAST_DARK * LEAST_DARK) || 0
    let [sum, weight] = [0, 0]
    for (let c = 0; c < colours; c++) {
      sum += missing[c]! * (1 - exp(sure * depth[c]!))
      weight += missing[c]! * missing[c]!
    }
    return weight > 0 ? sum / weight : 0
  })
  return { strengths: out, missing }
}
