import { addEquation, solveSymmetric } from '../../geometry/linear'

/**
 * A smooth function of the row through measured values: uniform cubic B-splines, outliers without a say.
 * Source: de Boor, "A Practical Guide to Splines"; weights after Beaton and Tukey, 1974.
 */
export function smoothAlong(
  values: Float64Array,
  weights: Float64Array,
  pieces: number,
  tolerance: number,
): { values: Float64Array; spread: number } {
  const rows = values.length
  const unknowns = pieces + 3
  const firsts = new Int32Array(rows)
  const bases = new Float64Array(rows * 4)
  for (let row = 0; row < rows; row++) {
    const t = (row / Math.max(rows - 1, 1)) * pieces
    const first = Math.min(Math.floor(t), pieces - 1)
    const f = t - first
    const g = 1 - f
    firsts[row] = first
    bases[row * 4] = (g * g * g) / 6
    bases[row * 4 + 1] = (3 * f * f * f - 6 * f * f + 4) / 6
    bases[row * 4 + 2] = (-3 * f * f * f + 3 * f * f + 3 * f + 1) / 6
    bases[row * 4 + 3] = (f * f * f) / 6
  }
  const used = weights.slice()
  const out = new Float64Array(rows)
  const off = new Float64Array(rows)
  let spread = 0
  for (let round = 0; round < 5; round++) {
    const upper = new Float64Array((unknowns * (unknowns + 1)) / 2)
    const right = new Float64Array(unknowns)
    const line = new Float64Array(unknowns)
    let total = 0
    for (let row = 0; row < rows; row++) {
      const weight = used[row]!
      if (weight <= 0) continue
      const b = row * 4
      for (let i = 0; i < 4; i++) {
        const r = firsts[row]! + i
        const at = r * unknowns - (r * (r - 1)) / 2
        const share = weight * bases[b + i]!
        for (let j = i; j < 4; j++) upper[at + j - i]! += share * bases[b + j]!
        right[r]! += share * values[row]!
      }
      total += weight
    }
    // A little stiffness: stretches that nothing measures run straight on between the others.
    const stiffness = 1e-3 * Math.max(total, 1e-9)
    for (let k = 0; k + 2 < unknowns; k++) {
      line.fill(0)
      line[k] = 1
      line[k + 1] = -2
      line[k + 2] = 1
      addEquation(upper, right, line, 0, stiffness)
    }
    const solved = solveSymmetric(upper, right)
    if (!solved) return { values: out, spread: Infinity }
    let measured = 0
    for (let row = 0; row < rows; row++) {
      const first = firsts[row]!
      let value = 0
      for (let k = 0; k < 4; k++) value += bases[row * 4 + k]! * solved[first + k]!
      out[row] = value
      if (weights[row]! > 0) off[measured++] = Math.abs(values[row]! - value)
    }
    spread = measured > 0 ? 1.4826 * off.subarray(0, measured).sort()[measured >> 1]! : 0
    const scale = 4.7 * Math.max(spread, 0.4 * tolerance)
    for (let row = 0; row < rows; row++) {
      const ratio = (values[row]! - out[row]!) / scale
      const rest = Math.max(0, 1 - ratio * ratio)
      used[row] = weights[row]! * rest * rest
    }
  }
  return { values: out, spread }
}
