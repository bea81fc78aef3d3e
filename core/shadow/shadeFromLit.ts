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

/** The first looks are over a window so many times as wide, and at fewer places: this share of the window's deviation apart. */
const WIDER = 2
const APART = 0.75
const ROUNDS = 3
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
  const seen: Seen = { own, lit, isLit, places }
  const cellPx = Math.max(1, Math.floor(APART * WIDER * softPx))
  const few = thinned(seen, cellPx)
  const say = Float32Array.from(few.seen.isLit)
  let missing: number[] | null = new Array<number>(colours).fill(1)
  let wide = new Float32Array(0)
  for (let round = 0; round < ROUNDS; round++) {
    if (round > 0) setSay(say, few.seen, (k) => wide[k]!, missing)
    wide = windowStrengths(few.seen, say, missing, (WIDER * softPx) / cellPx, null)
    missing = missingOf(few.seen, say, wide)
    if (!missing) return null
  }
  // Now every place, with what was found around it.
  const around = new Float32Array(pixels.length)
  for (let k = 0; k < pixels.length; k++) around[k] = wide[few.nearest[k]!]!
  const sayOfAll = new Float32Array(pixels.length)
  setSay(sayOfAll, seen, (k) => around[k]!, missing)
  const strengths = windowStrengths(seen, sayOfAll, missing, softPx, around)
  missing = missingOf(seen, sayOfAll, strengths)
  if (!missing) return null
  for (let k = 0; k < pixels.length; k++) {
    const strength = Math.max(0, strengths[k]!)
    strengths[k] = (strength * strength * strength) / (strength * strength + FAINT * FAINT) || 0
  }
  return scaledToFull(strengths, missing)
}

/** What frames show of places. */
interface Seen {
  readonly own: Float32Array
  readonly lit: Float32Array
  readonly isLit: Uint8Array
  readonly places: ShadedPlaces
}

/** The first place of each cell, on a map of the cells; and for every place which of them stands for it. */
function thinned(
  { own, lit, isLit, places }: Seen,
  cellPx: number,
): { readonly seen: Seen; readonly nearest: Int32Array } {
  const { width, height, colours, pixels } = places
  const [cols, rows] = [Math.ceil(width / cellPx), Math.ceil(height / cellPx)]
  const placeOf = new Int32Array(cols * rows).fill(-1)
  const nearest = new Int32Array(pixels.length)
  const [chosen, cells] = [new Int32Array(pixels.length), new Int32Array(pixels.length)]
  let count = 0
  for (let k = 0; k < pixels.length; k++) {
    const row = (pixels[k]! / width) | 0
    const cell = ((row / cellPx) | 0) * cols + (((pixels[k]! - row * width) / cellPx) | 0)
    if (placeOf[cell]! < 0) {
      placeOf[cell] = count
      cells[count] = cell
      chosen[count++] = k
    }
    // A cell is better told by a place that was seen.
    else if (isLit[chosen[placeOf[cell]!]!] === 0 && isLit[k] === 1) chosen[placeOf[cell]!] = k
    nearest[k] = placeOf[cell]!
  }
  const few = {
    own: new Float32Array(count * colours),
    lit: new Float32Array(count * colours),
    isLit: new Uint8Array(count),
  }
  for (let i = 0; i < count; i++) {
    const k = chosen[i]!
    few.isLit[i] = isLit[k]!
    for (let c = 0; c < colours; c++) {
      few.own[i * colours + c] = own[k * colours + c]!
      few.lit[i * colours + c] = lit[k * colours + c]!
    }
  }
  const onCells = { width: cols, height: rows, colours, pixels: cells.slice(0, count) }
  return { seen: { ...few, places: onCells }, nearest }
}

/** Gives places their say by how well a strength explains them. */
function setSay(
  say: Float32Array,
  { own, lit, isLit }: Seen,
  strengthAt: (k: number) => number,
  missing: readonly number[],
): void {
  for (let k = 0; k < say.length; k++)
    say[k] = isLit[k] === 1 ? sayOf(strayOf(own, lit, k, strengthAt(k), missing) / STRAY_SHARE) : 0
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
  { own, lit, isLit, places }: Seen,
  say: Float32Array,
  missing: readonly number[],
  sigmaPx: number,
  prior: Float32Array | null,
): Float32Array<ArrayBuffer> {
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
  const strengths = windowedRatio(products, squares, say, pixels, places, sigmaPx, prior)
  for (let k = 0; k < strengths.length; k++) strengths[k] ||= 0
  return strengths
}

/** Scaled to average 1 over the colours: a strength is the mean share that is missing. */
function missingOf(
  { own, lit, places: { colours } }: Seen,
  say: Float32Array,
  strengths: Float32Array,
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
