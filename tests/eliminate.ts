/** A linear system by plain elimination, nothing clever: what quicker solvers are compared with. */

/** @param rows  Coefficients, then the right-hand side; they are overwritten. Diagonally dominant, so that no row has to be swapped. */
export function eliminate(rows: readonly Float64Array[]): Float64Array {
  const n = rows.length
  for (let k = 0; k < n; k++) {
    for (let r = k + 1; r < n; r++) {
      const factor = rows[r]![k]! / rows[k]![k]!
      if (factor !== 0) for (let c = k; c <= n; c++) rows[r]![c]! -= factor * rows[k]![c]!
    }
  }
  const x = new Float64Array(n)
  for (let k = n - 1; k >= 0; k--) {
    let sum = rows[k]![n]!
    for (let c = k + 1; c < n; c++) sum -= rows[k]![c]! * x[c]!
    x[k] = sum / rows[k]![k]!
  }
  return x
}

/**
 * The equations of an area: at each unknown pixel four times its value less its four neighbours' is `divergence` there.
 * @param unknown  Row of the system for each unknown pixel. @param valueOf  What is known of the others.
 */
export function poissonRows(
  unknown: ReadonlyMap<number, number>,
  width: number,
  valueOf: (pixel: number) => number,
  divergence: (pixel: number) => number = () => 0,
): Float64Array[] {
  const n = unknown.size
  return [...unknown.keys()].map((pixel) => {
    const row = new Float64Array(n + 1)
    row[unknown.get(pixel)!] = 4
    row[n] = divergence(pixel)
    for (const near of [pixel - 1, pixel + 1, pixel - width, pixel + width]) {
      const at = unknown.get(near)
      if (at === undefined) row[n] += valueOf(near)
      else row[at] = -1
    }
    return row
  })
}
