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
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createRaster, type Raster } from '../image/raster'
import { exp, log } from '../kernels/exact'
import { covarianceOf, product, type Symmetric } from './covariance'
import { localMean } from './localMean'
import type { Shade, ShadedPlaces } from './shade'

/** Ground beside the area that is looked at, px. */
export const BESIDE_PX = 60
/** What is lit is averaged over so wide a window; what lies so far outside has less of a say. */
const LIT_SIGMA_PX = 30
const NEAR_SIGMA_PX = 20
/** Below this share of full light a sample is mostly noise. */
const DARK = 0.02
/** Added to light before its logarithm is taken. */
const FLOOR = 0.004
/** What a place shows by itself is averaged over so much. */
const FINE_SIGMA_PX = 2.5
/** Means of the ground's texture over so much are taken for independent of each other. */
const COARSE_SIGMA_PX = 8
/** The profile goes so far outside and inside. */
const OUTSIDE_PX = 20
const INSIDE_PX = 60
/** A drawn edge runs so far off the shadow's own, to either side: deviation. */
const DRAWN_OFF_PX = 5
const LEAST_DEVIATION = 0.03
/** Shadows are not everywhere the same at the same depth: deviation of a strength told by depth, at least. */
const UNEVEN = 0.1
const ROUNDS = 3
/** How far, in logarithms of light, colours of a shadow differ from each other: mean for red, green and blue, and deviation. Common practice, no source: skylight is blue. */
const SKYLIGHT = [-0.08, 0, 0.1] as const
const COLOUR_DEVIATION = 0.05
/** What is darker by fewer deviations of that may be the ground's own. */
const SURE_DEVIATIONS = 1.5
/** Texture is rougher than averages over independent places would have it. */
const ROUGHNESS = 3

export interface EdgeLook {
  /** Light of the crop, colours only. */
  readonly light: Raster
  /** For each pixel of the crop how deep inside the area it lies, px; below 0 outside. */
  readonly depths: Float32Array
  /** 1 for each pixel outside that shows lit ground. */
  readonly isGround: Uint8Array
}

/** @returns null where nothing inside is darker than what is around, or nothing is around. */
export function shadeFromEdge(look: EdgeLook, places: ShadedPlaces): Shade | null {
  const measured = measureGround(look)
  if (!measured) return null
  const profile = profileOf(measured, look.depths)
  const full = fullDepth(profile)
  if (!full) return null
  const spread = spreadOfMeans(measured, profile, full)
  if (-full.lightness < SURE_DEVIATIONS * lightnessDeviation(spread, profile.colours)) return null
  const settle = settledBy(spread, profile.colours)
  let depth = settle(meanOver(profile, full.bins))
  let byDepth = profile.falling.map((value) => Math.min(MOST, Math.max(0, value / full.lightness)))
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

const MOST = 1.15

/** The ground's own logarithms of light, what is lit around each place taken off. */
interface Measured {
  readonly offs: Raster
  readonly say: Float32Array
  /** Pixels that are ground, not shadow. */
  readonly ground: Int32Array
  readonly fine: Raster
  /** Whether there was lit ground near enough to be taken off. */
  readonly isNear: Float32Array
  readonly fineSpread: Symmetric
  readonly coarseSpread: Symmetric
}

function measureGround({ light, depths, isGround }: EdgeLook): Measured | null {
  const { width, height, channels } = light
  const count = width * height
  const smooth = convolveSeparable(light, gaussianTaps(1), gaussianTaps(1))
  const logs = createRaster(width, height, channels)
  const [say, litSay] = [new Float32Array(count), new Float32Array(count)]
  const ground: number[] = []
  for (let pixel = 0; pixel < count; pixel++) {
    let least = Infinity
    for (let c = 0; c < channels; c++) {
      const value = Math.max(0, smooth.data[pixel * channels + c]!) + FLOOR
      least = Math.min(least, value)
      logs.data[pixel * channels + c] = log(value)
    }
    say[pixel] = (least * least) / (least * least + DARK * DARK)
    if (isGround[pixel] !== 1 || depths[pixel]! < -BESIDE_PX) continue
    ground.push(pixel)
    const far = depths[pixel]! / NEAR_SIGMA_PX
    litSay[pixel] = say[pixel]! * exp(-0.5 * far * far)
  }
  if (ground.length < 50) return null
  const lit = localMean(logs, litSay, LIT_SIGMA_PX)
  const offs = createRaster(width, height, channels)
  for (let pixel = 0; pixel < count; pixel++) {
    if (lit.say[pixel] === 0) continue
    for (let c = 0; c < channels; c++) {
      const at = pixel * channels + c
      offs.data[at] = logs.data[at]! - lit.mean.data[at]!
    }
  }
  const isNear = lit.say.map((one) => (one > 0 ? 1 : 0))
  const heard = say.map((one, pixel) =>
    depths[pixel]! > 0 || isGround[pixel] === 1 ? one * isNear[pixel]! : 0,
  )
  const pixels = Int32Array.from(ground.filter((pixel) => isNear[pixel] === 1))
  const fine = localMean(offs, heard, FINE_SIGMA_PX).mean
  const coarse = localMean(offs, heard, COARSE_SIGMA_PX).mean
  return {
    offs,
    say: heard,
    ground: pixels,
    fine,
    isNear,
    fineSpread: covarianceOf(fine, pixels, 1e-6),
    coarseSpread: covarianceOf(coarse, pixels, 1e-5),
  }
}

/** Averages over all places of about the same depth, one for each px from outside to inside. */
interface Profile {
  readonly colours: number
  /** Of each bin, colour by colour; 0 is what is lit. */
  readonly means: Float64Array
  readonly counts: Float64Array
  /** The mean of the colours, made to fall from outside to inside; 0 outside. */
  readonly falling: number[]
  /** The pixels of each bin that lie inside. */
  readonly members: readonly Int32Array[]
}

function profileOf({ offs, say }: Measured, depths: Float32Array): Profile {
  const colours = offs.channels
  const deepest = depths.reduce((most, depth) => Math.max(most, depth), 0)
  const bins = OUTSIDE_PX + Math.min(INSIDE_PX, Math.max(1, Math.floor(deepest))) + 1
  const [sums, weights, counts] = [
    new Float64Array(bins * colours),
    new Float64Array(bins),
    new Float64Array(bins),
  ]
  const members: number[][] = Array.from({ length: bins }, () => [])
  for (let pixel = 0; pixel < depths.length; pixel++) {
    const bin = Math.round(depths[pixel]! + OUTSIDE_PX)
    if (!(bin >= 0 && bin < bins) || say[pixel] === 0) continue
    if (depths[pixel]! > 0) members[bin]!.push(pixel)
    counts[bin]!++
    weights[bin]! += say[pixel]!
    for (let c = 0; c < colours; c++)
      sums[bin * colours + c]! += say[pixel]! * offs.data[pixel * colours + c]!
  }
  const means = sums.map((sum, i) => sum / Math.max(1e-9, weights[Math.floor(i / colours)]!))
  takeLitOff(means, counts, colours)
  const lightness = Array.from(counts, (_, bin) => {
    let sum = 0
    for (let c = 0; c < colours; c++) sum += means[bin * colours + c]!
    return sum / colours
  })
  const falling = [
    ...new Array<number>(OUTSIDE_PX + 1).fill(0),
    ...fallingMeans(lightness.slice(OUTSIDE_PX + 1), counts.subarray(OUTSIDE_PX + 1)).map((one) =>
      Math.min(0, one),
    ),
  ]
  return { colours, means, counts, falling, members: members.map((list) => Int32Array.from(list)) }
}

/** What is outside is lit by definition. */
function takeLitOff(means: Float64Array, counts: Float64Array, colours: number): void {
  for (let c = 0; c < colours; c++) {
    let [sum, count] = [0, 0]
    for (let bin = 0; bin <= OUTSIDE_PX; bin++) {
      sum += counts[bin]! * means[bin * colours + c]!
      count += counts[bin]!
    }
    for (let bin = 0; count > 0 && bin < counts.length; bin++) means[bin * colours + c]! -= sum / count
  }
}

/** The nearest row of numbers that never rises, by squares; neighbours that would rise are pooled. */
export function fallingMeans(values: readonly number[], weights: ArrayLike<number>): number[] {
  const pools: { mean: number; weight: number; length: number }[] = []
  values.forEach((mean, i) => {
    pools.push({ mean, weight: Math.max(weights[i]!, 1e-3), length: 1 })
    while (pools.length > 1 && pools.at(-2)!.mean < pools.at(-1)!.mean) {
      const [a, b] = pools.splice(-2) as [(typeof pools)[number], (typeof pools)[number]]
      const weight = a.weight + b.weight
      pools.push({
        mean: (a.mean * a.weight + b.mean * b.weight) / weight,
        weight,
        length: a.length + b.length,
      })
    }
  })
  return pools.flatMap(({ mean, length }) => new Array<number>(length).fill(mean))
}

/** Bins in which the shadow is full, and how dark it is there. */
interface Full {
  readonly bins: readonly number[]
  readonly lightness: number
}

/** Of the inside this share is full at least; what is this near to it is full too. */
const FULL_SHARE = 0.15
const NEARLY_FULL = 0.75

function fullDepth({ falling, counts }: Profile): Full | null {
  const inside = falling.map((_, bin) => bin).filter((bin) => bin > OUTSIDE_PX && counts[bin]! > 0)
  const whole = inside.reduce((sum, bin) => sum + counts[bin]!, 0)
  let passed = 0
  let full = 0
  for (const bin of [...inside].sort((a, b) => falling[a]! - falling[b]!)) {
    passed += counts[bin]!
    full = falling[bin]!
    if (passed >= FULL_SHARE * whole) break
  }
  if (!(full < -LEAST_DEVIATION)) return null
  const bins = inside.filter((bin) => falling[bin]! <= NEARLY_FULL * full)
  const weight = bins.reduce((sum, bin) => sum + counts[bin]!, 0)
  return { bins, lightness: bins.reduce((sum, bin) => sum + counts[bin]! * falling[bin]!, 0) / weight }
}

function meanOver({ means, counts, colours }: Profile, bins: readonly number[]): number[] {
  const weight = bins.reduce((sum, bin) => sum + counts[bin]!, 0)
  return Array.from({ length: colours }, (_, c) =>
    bins.reduce((sum, bin) => sum + (counts[bin]! * means[bin * colours + c]!) / weight, 0),
  )
}

/** How far the ground's texture alone makes means over the full shadow and over as much ground beside it differ. */
function spreadOfMeans({ coarseSpread }: Measured, { counts }: Profile, { bins }: Full): Symmetric {
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
    const dark = Math.min(1, -measured.reduce((sum, one) => sum + one, 0) / colours / 0.7)
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

function toldByColour({ fine, fineSpread, ground, isNear }: Measured, depth: readonly number[]): Told | null {
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
    return Math.min(1.3, Math.max(0, joined))
  })
}

const SLOPE_TAPS = 9

function smoothedSlopes(byDepth: readonly number[]): number[] {
  const taps = gaussianTaps(SLOPE_TAPS / 3)
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
function regressed({ offs, say }: Measured, strengths: Float32Array, depths: Float32Array): number[] {
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

function meanAt(strengths: Float32Array, { members }: Profile, bin: number): number {
  const pixels = members[bin]!
  if (pixels.length === 0) return 0
  let sum = 0
  for (const pixel of pixels) sum += strengths[pixel]!
  return sum / pixels.length
}

/** From logarithms to shares of the light: as strong a shadow in the mean of the colours. */
function linearShade(strengths: Float32Array, depth: readonly number[], { pixels }: ShadedPlaces): Shade {
  const missing = depth.map((one) => Math.min(0.97, Math.max(0, 1 - exp(one))))
  const colours = depth.length
  const out = Float32Array.from(pixels, (pixel) => {
    const strength = strengths[pixel]!
    const faint = strength * strength
    const sure = (strength * faint) / (faint + LEAST_DEVIATION * LEAST_DEVIATION) || 0
    let [sum, weight] = [0, 0]
    for (let c = 0; c < colours; c++) {
      sum += missing[c]! * (1 - exp(sure * depth[c]!))
      weight += missing[c]! * missing[c]!
    }
    return weight > 0 ? sum / weight : 0
  })
  return { strengths: out, missing }
}
