/**
 * A shadow measured by the same ground lit, as other frames show it.
 *
 * Symbols: P the plate, S the ground lit, both as light; s the strength at a place, m the share of a colour's light that is missing at strength 1.
 * P = (1 − s m) S. All places of a shadow share m: s is the weighted mean of (S − P) / (m S) over a small window and all colours, m that over all places.
 * Sources: least squares over a window as in guided filtering: K. He, J. Sun, X. Tang, ECCV 2010; two factors in turn: common practice (alternating least squares).
 */
import { nthSmallest } from '../image/median'
import { sayOf, windowedRatio } from '../image/windowedRatio'
import type { Shade, ShadedPlaces } from './shade'

/** The first look is over a window so many times as wide. */
const WIDER = 2
const ROUNDS = 4
/** Share of the light by which a place is off from which on it has half a say: something that passes there by itself. */
const STRAY_SHARE = 0.2
/** Strengths below this are as likely the lit frames' own error. */
const FAINT = 0.02

/**
 * @param own, lit  Light of the plate and of the ground lit, colours interleaved, place by place.
 * @param isLit     1 for each place that was seen lit; others have no say, and strength 0.
 * @param softPx    Deviation of the window; above 0.
 * @returns null where no place was seen lit, or nothing is darker than that.
 */
export function shadeFromLit(
  own: Float32Array,
  lit: Float32Array,
  isLit: Uint8Array,
  places: ShadedPlaces,
  softPx: number,
): Shade | null {
  const { colours, pixels } = places
  const count = pixels.length
  let missing: number[] | null = new Array<number>(colours).fill(1)
  let strengths: Float32Array = new Float32Array(count)
  const say = new Float32Array(count)
  for (let round = 0; round < ROUNDS; round++) {
    for (let k = 0; k < count; k++) {
      const off = round === 0 ? 0 : strayOf(own, lit, k, strengths[k]!, missing) / STRAY_SHARE
      say[k] = isLit[k] === 1 ? sayOf(off) : 0
    }
    const isLast = round === ROUNDS - 1
    const wide = windowStrengths(own, lit, isLit, say, places, missing, WIDER * softPx, null)
    strengths = isLast ? windowStrengths(own, lit, isLit, say, places, missing, softPx, wide) : wide
    missing = missingOf(own, lit, say, strengths, colours)
    if (!missing) return null
  }
  for (let k = 0; k < count; k++) {
    const strength = Math.max(0, strengths[k]!)
    strengths[k] = (strength * strength * strength) / (strength * strength + FAINT * FAINT) || 0
  }
  return scaledToFull(strengths, missing)
}

/** The shadow is full where this share of the shaded places is: the rest are its soft edge. */
const FULL_SHARE = 0.1
/** Places with less of a shadow are not counted as shaded. */
const SHADED = 0.05

function scaledToFull(strengths: Float32Array, missing: readonly number[]): Shade | null {
  const shaded = strengths.filter((strength) => strength > SHADED)
  if (shaded.length === 0) return null
  const full = nthSmallest(shaded, shaded.length, Math.floor((1 - FULL_SHARE) * (shaded.length - 1)))
  return { strengths: strengths.map((one) => one / full), missing: missing.map((one) => one * full) }
}

/** How far a place is from what its strength says, as a share of its light; all colours together. */
function strayOf(
  own: Float32Array,
  lit: Float32Array,
  k: number,
  strength: number,
  missing: readonly number[],
): number {
  const colours = missing.length
  let [off, whole] = [0, 0]
  for (let c = 0; c < colours; c++) {
    const light = lit[k * colours + c]!
    off += Math.abs(own[k * colours + c]! - light * (1 - strength * missing[c]!))
    whole += light
  }
  return off / (whole + 0.01 * colours)
}

/** A strength for each place by least squares over its window; 0 where nothing around it tells. */
function windowStrengths(
  own: Float32Array,
  lit: Float32Array,
  isLit: Uint8Array,
  say: Float32Array,
  places: ShadedPlaces,
  missing: readonly number[],
  sigmaPx: number,
  prior: Float32Array | null,
): Float32Array {
  const { pixels, colours } = places
  const [products, squares] = [new Float32Array(pixels.length), new Float32Array(pixels.length)]
  for (let k = 0; k < pixels.length; k++) {
    if (isLit[k] === 0) continue
    for (let c = 0; c < colours; c++) {
      const light = lit[k * colours + c]!
      const full = light * missing[c]!
      products[k]! += full * (light - own[k * colours + c]!)
      squares[k]! += full * full
    }
  }
  return windowedRatio(products, squares, say, pixels, places, sigmaPx, prior).map((one) => one || 0)
}

/** Scaled to average 1 over the colours: a strength is the mean share that is missing. */
function missingOf(
  own: Float32Array,
  lit: Float32Array,
  say: Float32Array,
  strengths: Float32Array,
  colours: number,
): number[] | null {
  const [products, squares] = [new Float64Array(colours), new Float64Array(colours)]
  for (let k = 0; k < say.length; k++) {
    for (let c = 0; c < colours; c++) {
      const light = lit[k * colours + c]!
      const full = strengths[k]! * light
      products[c]! += say[k]! * full * (light - own[k * colours + c]!)
      squares[c]! += say[k]! * full * full
    }
  }
  const missing = Array.from(products, (product, c) => product / squares[c]!)
  const mean = missing.reduce((sum, one) => sum + one, 0) / colours
  return mean > 0 && Number.isFinite(mean) ? missing.map((one) => one / mean) : null
}
