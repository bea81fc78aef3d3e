/**
 * The value that would stand at `index` were the first `count` in order. They are partly reordered. Cost: linear.
 * Source: C. A. R. Hoare, "Algorithm 65: FIND", CACM 4(7), 1961.
 */
export function nthSmallest(values: Float32Array | Float64Array, count: number, index: number): number {
  let [low, high] = [0, count - 1]
  while (low < high) {
    const pivot = values[(low + high) >> 1]!
    let [i, j] = [low, high]
    while (i <= j) {
      while (values[i]! < pivot) i++
      while (values[j]! > pivot) j--
      if (i > j) break
      const swap = values[i]!
      values[i++] = values[j]!
      values[j--] = swap
    }
    if (index <= j) high = j
    else if (index >= i) low = i
    else break
  }
  return values[index] ?? NaN
}

/** The middle one of the values, of two the greater; NaN of none. */
export const medianOf = (values: ArrayLike<number>): number =>
  nthSmallest(Float64Array.from(values), values.length, values.length >> 1)
