/** What the ground in and beside a shadow looks like: logarithms of light, what is lit around each place taken off, and how far texture makes them vary. */
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createRaster, type Raster } from '../image/raster'
import { exp, log } from '../kernels/exact'
import { covarianceOf, type Symmetric } from './covariance'
import { localMean } from './localMean'

/** Ground beside the area that is looked at, px. */
export const BESIDE_PX = 60
/** What is lit is averaged over so wide a window; what lies so far outside has less of a say. */
const LIT_SIGMA_PX = 30
const NEAR_SIGMA_PX = 20
/** Below this share of full light a sample is mostly noise. */
const DARK = 0.02
/** Added to light before its logarithm is taken. */
const FLOOR = 0.004
/** Means of the ground's texture over so much are taken for independent of each other. */
export const COARSE_SIGMA_PX = 8
const MIN_GROUND = 50

export interface EdgeLook {
  /** Light of the crop, colours only. */
  readonly light: Raster
  /** For each pixel of the crop how deep inside the area it lies, px; below 0 outside. */
  readonly depths: Float32Array
  /** 1 for each pixel outside that shows lit ground. */
  readonly isGround: Uint8Array
}

export interface GroundLook {
  /** Logarithms of light without what is lit around, colours interleaved; 0 where no lit ground is near. */
  readonly offs: Raster
  /** How much each pixel tells, 0 to 1: dark ones are noise. */
  readonly say: Float32Array
  /** Pixels that are ground, not shadow. */
  readonly ground: Int32Array
  /** The same, averaged over a little. */
  readonly fine: Raster
  /** Whether there was lit ground near enough to be taken off. */
  readonly isNear: Float32Array
  /** How colours vary together over lit ground, averaged over a little and over more. */
  readonly fineSpread: Symmetric
  readonly coarseSpread: Symmetric
}

/** @param fineSigmaPx  What a place shows by itself is averaged over so much. @returns null where too little ground is around. */
export function lookAtGround({ light, depths, isGround }: EdgeLook, fineSigmaPx: number): GroundLook | null {
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
  if (ground.length < MIN_GROUND) return null
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
  const fine = localMean(offs, heard, fineSigmaPx).mean
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
