/**
 * Spots on skin that stand out from it: darker or lighter, round, within a range of sizes. Lines, such as creases and hairs, and what lies at the skin's border are none.
 * Sources: T. Lindeberg, "Feature detection with automatic scale selection", IJCV 30(2), 1998, for sizes; D. G. Lowe, "Distinctive image features from scale-invariant
 * keypoints", IJCV 60(2), 2004, for telling spots from lines; what is not skin has no say in any mean.
 */
import { deltaE2000, labOf, type Lab } from '../colour/lab'
import { srgb } from '../colour/transfer'
import { brightnessOf } from '../colour/ycc'
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createRaster, type Raster } from '../image/raster'
import { boxSums } from '../image/windows'

export interface Spot {
  /** Its middle, px of the picture looked at. */
  readonly x: number
  readonly y: number
  readonly radiusPx: number
  readonly isDarker: boolean
  /** How far it looks from the skin around it, CIEDE2000. */
  readonly deltaE: number
}

export interface SpotSizes {
  readonly minRadiusPx: number
  readonly maxRadiusPx: number
}

const SCALE_STEP = 1.25
/** A disc responses a Laplacian most whose deviation is its radius by the square root of two. */
const RADII = Math.SQRT2
/** Every n-th place tells what is usual; it falls in step with nothing. */
const SAMPLED = 37
/** Differences of two means that are nothing, of a scale of 1. */
const MIN_RESPONSE = 0.004
/** Longer than so many times its width, it is a line. */
const LONGEST = 3
/** So much of what lies around a spot must be skin: mouths of nostrils and eyes have other things beside them. */
const MIN_SKIN_AROUND = 0.75
/** A place belongs to the skin if so much of its surroundings does. */
const MOSTLY = 0.6
/** Darker than this share of the skin's lightness, it is a hole: a nostril, a pupil. */
const HOLE = 0.55
/** What lies around a spot varies by less than this share of what sets the spot apart: the end of a brow has more of the brow beside it. */
const MAX_UNEVENNESS = 0.45
/** So far from the skin around it a spot is seen, CIEDE2000. */
const MIN_DELTA_E = 3
/** It responses so many times as much as skin usually does at its size. */
const STANDS_OUT = 4

/** @param matte  For each pixel how far it is skin, 0 to 1. @returns Spots, the plainest first. */
export function findSpots(picture: Raster, matte: Float32Array, sizes: SpotSizes): Spot[] {
  const { width, height } = picture
  const skin = closedSkin(matte, width, height, Math.ceil(2 * sizes.maxRadiusPx))
  const levels = levelsOf(picture, skin, sizes)
  const found: Spot[] = []
  for (let level = 1; level + 1 < levels.length; level++) {
    const { responses, radiusPx } = levels[level]!
    const threshold = Math.max(MIN_RESPONSE, STANDS_OUT * medianResponse(responses, skin))
    for (let row = 1; row < height - 1; row++) {
      for (let col = 1; col < width - 1; col++) {
        const at = row * width + col
        if (skin[at] === 0 || Math.abs(responses[at]!) < threshold) continue
        if (!isPeak(levels, level, at, width) || isLine(responses, at, width)) continue
        const spot = measured(picture, matte, col + 0.5, row + 0.5, radiusPx)
        if (spot) found.push(spot)
      }
    }
  }
  return plainest(found)
}

/** Skin with the holes that spots make in it: places most of whose surroundings are skin. */
function closedSkin(matte: Float32Array, width: number, height: number, radiusPx: number): Uint8Array {
  const sums = boxSums(matte, width, height, radiusPx)
  const counts = boxSums(new Float32Array(matte.length).fill(1), width, height, radiusPx)
  const out = new Uint8Array(matte.length)
  for (let at = 0; at < out.length; at++) if (sums[at]! > MOSTLY * counts[at]!) out[at] = 1
  return out
}

interface Level {
  readonly radiusPx: number
  /** A spot of this radius responses most: above 0 where it is lighter. */
  readonly responses: Float32Array
}

function levelsOf({ width, height, channels, data }: Raster, skin: Uint8Array, sizes: SpotSizes): Level[] {
  const weighted = createRaster(width, height, 2)
  for (let at = 0; at < skin.length; at++) {
    if (skin[at] === 0) continue
    const from = at * channels
    weighted.data[2 * at] = brightnessOf(data[from]!, data[from + 1]!, data[from + 2]!)
    weighted.data[2 * at + 1] = 1
  }
  const meansAt = (deviationPx: number): Float32Array => {
    const taps = gaussianTaps(deviationPx)
    const { data: sums } = convolveSeparable(weighted, taps, taps)
    const means = new Float32Array(skin.length)
    for (let at = 0; at < skin.length; at++)
      if (sums[2 * at + 1]! > 0.05) means[at] = sums[2 * at]! / sums[2 * at + 1]!
    return means
  }
  const levels: Level[] = []
  let finer = meansAt(sizes.minRadiusPx / RADII / SCALE_STEP)
  // One level beyond each end: a spot must respond more at its size than at the next.
  for (
    let radiusPx = sizes.minRadiusPx / SCALE_STEP;
    radiusPx < sizes.maxRadiusPx * SCALE_STEP * SCALE_STEP;
    radiusPx *= SCALE_STEP
  ) {
    const coarser = meansAt((radiusPx / RADII) * SCALE_STEP)
    const responses = new Float32Array(skin.length)
    for (let at = 0; at < skin.length; at++) if (skin[at] !== 0) responses[at] = finer[at]! - coarser[at]!
    levels.push({ radiusPx, responses })
    finer = coarser
  }
  return levels
}

/** Of their absolute values. */
function medianResponse(responses: Float32Array, skin: Uint8Array): number {
  const sizes: number[] = []
  for (let at = 0; at < responses.length; at += SAMPLED)
    if (skin[at] !== 0) sizes.push(Math.abs(responses[at]!))
  return sizes.sort((a, b) => a - b)[sizes.length >> 1] ?? 0
}

/** Further from 0 than all places beside it, and at the next sizes. */
function isPeak(levels: readonly Level[], level: number, at: number, width: number): boolean {
  const here = levels[level]!.responses[at]!
  const sign = here > 0 ? 1 : -1
  for (let other = level - 1; other <= level + 1; other++) {
    const { responses } = levels[other]!
    for (let down = -width; down <= width; down += width)
      for (let right = -1; right <= 1; right++) {
        const beside = at + down + right
        if ((other !== level || beside !== at) && sign * responses[beside]! >= sign * here) return false
      }
  }
  return true
}

/** The ratio of curvatures, as Lowe has it. */
function isLine(responses: Float32Array, at: number, width: number): boolean {
  const here = 2 * responses[at]!
  const across = responses[at + 1]! + responses[at - 1]! - here
  const down = responses[at + width]! + responses[at - width]! - here
  const mixed = (responses[at + width + 1]! - responses[at + width - 1]! - responses[at - width + 1]! + responses[at - width - 1]!) / 4 // prettier-ignore
  const determinant = across * down - mixed * mixed
  const trace = across + down
  return determinant <= 0 || trace * trace * LONGEST >= (LONGEST + 1) * (LONGEST + 1) * determinant
}

/** How a spot looks beside the skin around it; null where too little of that is skin. */
function measured(picture: Raster, matte: Float32Array, x: number, y: number, radiusPx: number): Spot | null {
  const { width, height, channels, data } = picture
  const reach = Math.ceil(2.4 * radiusPx)
  const [inside, around] = [[0, 0, 0], [0, 0, 0]] // prettier-ignore
  let [insideCount, skin, all, light, lightSquare] = [0, 0, 0, 0, 0]
  for (
    let row = Math.max(0, Math.floor(y) - reach);
    row <= Math.min(height - 1, Math.floor(y) + reach);
    row++
  ) {
    for (
      let col = Math.max(0, Math.floor(x) - reach);
      col <= Math.min(width - 1, Math.floor(x) + reach);
      col++
    ) {
      const [dx, dy] = [col + 0.5 - x, row + 0.5 - y]
      const away = Math.sqrt(dx * dx + dy * dy) / radiusPx
      const at = row * width + col
      if (away < 0.75) {
        insideCount++
        for (let c = 0; c < 3; c++) inside[c]! += data[at * channels + c]!
      } else if (away > 1.5 && away < 2.4) {
        all++
        skin += matte[at]!
        const brightness = brightnessOf(
          data[at * channels]!,
          data[at * channels + 1]!,
          data[at * channels + 2]!,
        )
        light += brightness
        lightSquare += brightness * brightness
        for (let c = 0; c < 3; c++) around[c]! += matte[at]! * data[at * channels + c]!
      }
    }
  }
  if (all === 0 || skin < MIN_SKIN_AROUND * all) return null
  const mean = light / all
  const apart = brightnessOf(inside[0]!, inside[1]!, inside[2]!) / insideCount - mean
  if (lightSquare / all - mean * mean > MAX_UNEVENNESS * MAX_UNEVENNESS * apart * apart) return null
  const [spot, ground] = [inside.map((sum) => sum / insideCount), around.map((sum) => sum / skin)].map(
    ([red, green, blue]) => labOf(srgb.decode(red!), srgb.decode(green!), srgb.decode(blue!)),
  ) as [Lab, Lab]
  if (spot[0] < HOLE * ground[0]) return null
  return {
    x,
    y,
    radiusPx,
    isDarker: spot[0] < ground[0],
    deltaE: deltaE2000(spot, ground),
  }
}

/** Those that stand out, each once. */
function plainest(found: readonly Spot[]): Spot[] {
  const sorted = [...found].sort((a, b) => b.deltaE - a.deltaE)
  const kept: Spot[] = []
  for (const spot of sorted) {
    if (spot.deltaE < MIN_DELTA_E) break
    const isKnown = kept.some(({ x, y, radiusPx }) => {
      const [dx, dy] = [x - spot.x, y - spot.y]
      const near = Math.max(radiusPx, spot.radiusPx)
      return dx * dx + dy * dy < near * near
    })
    if (!isKnown) kept.push(spot)
  }
  return kept
}
