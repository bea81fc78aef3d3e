/**
 * How the light of another frame differs from this one's around an area: a gain for each channel that may change
 * smoothly over the place (one lamp flickers, another does not), and an offset.
 *
 * Weighted least squares, repeated with weights that fall as Tukey's biweight. The gain is a polynomial of second
 * degree over the place; what the ring does not fix stays level. Source: common practice.
 */
import { addEquation, solveSymmetric } from '../geometry/linear'
import { medianOf } from '../image/median'

export interface ToneField {
  /** Gain at a place and offset. Six terms and one more for each channel. */
  readonly terms: readonly Float64Array[]
  readonly x0: number
  readonly y0: number
  readonly unit: number
  /** Standard deviation of what remains, for each channel, in the plate's scale. */
  readonly residuals: readonly number[]
}

const TERMS = 6
const ROUNDS = 3
const MIN = 40

/** @param here, there  Values at the same places, channels interleaved. @param kept  Below 0: nothing was read there. */
export function fitToneField(
  places: Float32Array,
  here: Float32Array,
  there: Float32Array,
  kept: Float32Array,
  channels: number,
  box: { readonly x: number; readonly y: number; readonly halfPx: number },
): ToneField | null {
  const count = kept.length
  const terms: Float64Array[] = []
  const residuals: number[] = []
  const { x: x0, y: y0, halfPx: unit } = box
  const row = new Float64Array(TERMS + 1)
  for (let c = 0; c < channels; c++) {
    // Begun with the usual ratio: a plain fit would be led astray by what shows something else.
    let now: Float64Array | null = Float64Array.of(
      usualRatio(here, there, kept, c, channels) - 1,
      0,
      0,
      0,
      0,
      0,
      0,
    )
    let reach = Infinity
    for (let round = 0; round < ROUNDS; round++) {
      const n = TERMS + 1
      const upper = new Float64Array((n * (n + 1)) / 2)
      const right = new Float64Array(n)
      const sizes: number[] = []
      if (round === 0) reach = reachOf(here, there, kept, c, channels, 1 + now[0]!)
      for (let k = 0; k < count; k++) {
        if (kept[k]! <= 0) continue
        const value = there[k * channels + c]!
        rowInto(row, (places[2 * k]! - x0) / unit, (places[2 * k + 1]! - y0) / unit, value)
        const target = here[k * channels + c]!
        // Solved for what a gain of 1 leaves, so that the little that holds every term holds it at no change.
        const difference = target - value - (now ? dot(row, now) : 0)
        sizes.push(Math.abs(difference))
        const off = difference / reach
        if (Math.abs(off) >= 1) continue
        const weight = (1 - off * off) * (1 - off * off)
        addEquation(upper, right, row, target - value, weight)
      }
      if (sizes.length < MIN) return null
      const usual = Math.max(1.4826 * medianOf(sizes), 1e-5)
      if (round > 0) residuals[c] = usual
      reach = 4.685 * usual
      holdLevel(upper, n)
      const solved = solveSymmetric(upper, right)
      if (!solved) return null
      now = solved
    }
    terms.push(now)
  }
  return { terms, x0, y0, unit, residuals }
}

/** Median of what this frame shows over what the other does. */
function usualRatio(
  here: Float32Array,
  there: Float32Array,
  kept: Float32Array,
  c: number,
  channels: number,
): number {
  const ratios: number[] = []
  for (let k = 0; k < kept.length; k++)
    if (kept[k]! > 0 && there[k * channels + c]! > DARK)
      ratios.push(here[k * channels + c]! / there[k * channels + c]!)
  return ratios.length < MIN ? 1 : medianOf(ratios)
}

const DARK = 0.02 // below, a ratio says nothing

/** Differences beyond this are no difference of light. */
function reachOf(
  here: Float32Array,
  there: Float32Array,
  kept: Float32Array,
  c: number,
  channels: number,
  gain: number,
): number {
  const sizes: number[] = []
  for (let k = 0; k < kept.length; k++)
    if (kept[k]! > 0) sizes.push(Math.abs(here[k * channels + c]! - gain * there[k * channels + c]!))
  return 4.685 * Math.max(1.4826 * (sizes.length > 0 ? medianOf(sizes) : 0), 1e-5)
}

/** Values of the other frame as they would be in this frame's light. */
export function relight(
  field: ToneField,
  places: Float32Array,
  values: Float32Array,
  channels: number,
): void {
  const { terms, x0, y0, unit } = field
  const count = places.length / 2
  const flat = new Float64Array(channels * (TERMS + 1))
  terms.forEach((one, c) => flat.set(one, c * (TERMS + 1)))
  for (let k = 0; k < count; k++) {
    const x = (places[2 * k]! - x0) / unit
    const y = (places[2 * k + 1]! - y0) / unit
    const [xx, xy, yy] = [x * x, x * y, y * y]
    for (let c = 0, term = 0; c < channels; c++, term += TERMS + 1) {
      const at = k * channels + c
      const gain =
        1 +
        flat[term]! +
        flat[term + 1]! * x +
        flat[term + 2]! * y +
        flat[term + 3]! * xx +
        flat[term + 4]! * xy +
        flat[term + 5]! * yy
      values[at] = gain * values[at]! + flat[term + 6]!
    }
  }
}

function rowInto(row: Float64Array, x: number, y: number, value: number): void {
  row[0] = value
  row[1] = value * x
  row[2] = value * y
  row[3] = value * x * x
  row[4] = value * x * y
  row[5] = value * y * y
  row[6] = 1
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!
  return sum
}

/**
 * Some of the gain's own weight on the slopes, the bends and the offset: they stay 0 unless the ring asks for them from all sides.
 * Where it is seen on one side only, a bend would run away on the other.
 */
function holdLevel(upper: Float64Array, n: number): void {
  const base = upper[0]!
  for (let i = 0, at = 0; i < n; at += n - i, i++) upper[at]! += base * HOLD[i]!
}

const HOLD = [1e-9, 2e-3, 2e-3, 1e-2, 1e-2, 1e-2, 1e-3] as const
