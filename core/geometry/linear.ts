/** Small dense linear systems: the normal equations of fits with a handful of unknowns. */

/**
 * Solves A x = b for a symmetric positive definite A by Cholesky's method.
 *
 * @param upper  The upper triangle of A, row by row: n (n + 1) / 2 values. Only read.
 * @returns null when A is not positive definite: the measurements do not fix the unknowns.
 * Source: Golub and Van Loan, "Matrix Computations", section 4.2.
 */
export function solveSymmetric(upper: ArrayLike<number>, right: ArrayLike<number>): Float64Array | null {
  const n = right.length
  const at = (row: number, col: number) => row * n - (row * (row - 1)) / 2 + (col - row)
  const factor = new Float64Array((n * (n + 1)) / 2) // Rᵀ R = A, R upper
  let greatest = 0
  for (let i = 0; i < n; i++) greatest = Math.max(greatest, upper[at(i, i)]!)
  for (let i = 0; i < n; i++) {
    for (let j = i; j < n; j++) {
      let sum = upper[at(i, j)]!
      for (let k = 0; k < i; k++) sum -= factor[at(k, i)]! * factor[at(k, j)]!
      if (j > i) {
        factor[at(i, j)] = sum / factor[at(i, i)]!
        continue
      }
      if (!(sum > greatest * 1e-14)) return null
      factor[at(i, i)] = Math.sqrt(sum)
    }
  }
  const x = Float64Array.from(right)
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) x[i]! -= factor[at(k, i)]! * x[k]!
    x[i]! /= factor[at(i, i)]!
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) x[i]! -= factor[at(i, k)]! * x[k]!
    x[i]! /= factor[at(i, i)]!
  }
  return x
}

/** Adds weight · rowᵀ row to an upper triangle and weight · row · value to the right side. */
export function addEquation(
  upper: Float64Array,
  right: Float64Array,
  row: ArrayLike<number>,
  value: number,
  weight: number,
): void {
  const n = right.length
  let at = 0
  for (let i = 0; i < n; i++) {
    const w = weight * row[i]!
    for (let j = i; j < n; j++) upper[at++]! += w * row[j]!
    right[i]! += w * value
  }
}

/**
 * As `solveSymmetric`, with no unknown below 0: those that come out so are left out, the lowest first, and are 0. Unknowns that nothing was measured of are 0 too.
 * Source: the active set of Lawson and Hanson, "Solving Least Squares Problems", chapter 23, without taking any in again.
 */
export function solveNotNegative(upper: ArrayLike<number>, right: ArrayLike<number>): Float64Array {
  const n = right.length
  const at = (row: number, col: number) => row * n - (row * (row - 1)) / 2 + (col - row)
  const out = new Float64Array(n)
  let open = Array.from({ length: n }, (_, i) => i).filter((i) => upper[at(i, i)]! > 0)
  while (open.length > 0) {
    const part = open.flatMap((i, k) => open.slice(k).map((j) => upper[at(i, j)]!))
    const found = solveSymmetric(
      part,
      open.map((i) => right[i]!),
    )
    if (!found) return out
    const min = Math.min(...found)
    if (min >= 0) {
      open.forEach((i, k) => (out[i] = found[k]!))
      return out
    }
    open = open.filter((_, k) => found[k]! > min)
  }
  return out
}
