// Order statistics of a list of 32-bit floats.

/** The value that would stand at `index` were the first `count` in order; they are partly reordered. Hoare, "Algorithm 65: FIND", 1961. */
export function nthSmallest(values: usize, count: i32, index: i32): f32 {
  let low = 0, high = count - 1
  while (low < high) {
    const pivot = load<f32>(values + (<usize>((low + high) >> 1) << 2))
    let i = low, j = high
    while (i <= j) {
      while (load<f32>(values + (<usize>i << 2)) < pivot) i++
      while (load<f32>(values + (<usize>j << 2)) > pivot) j--
      if (i > j) break
      const swap = load<f32>(values + (<usize>i << 2))
      store<f32>(values + (<usize>i << 2), load<f32>(values + (<usize>j << 2)))
      store<f32>(values + (<usize>j << 2), swap)
      i++
      j--
    }
    if (index <= j) high = j
    else if (index >= i) low = i
    else break
  }
  return count > 0 ? load<f32>(values + (<usize>index << 2)) : NaN
}

/**
 * The variance of normal noise behind sizes |x|, some of them far larger for other reasons. Begun with the lower quartile
 * (`quartile` of deviation 1); then what lies beyond `far` deviations is left out and the rest taken as a cut-off normal
 * distribution, whose variance is `within`. The sizes are reordered.
 */
export function normalVariance(sizes: usize, count: i32, quartile: f64, far: f64, within: f64, rounds: i32): f64 {
  if (count == 0) return 0
  const deviation = <f64>nthSmallest(sizes, count, count >> 2) / quartile
  let variance = deviation * deviation
  for (let round = 0; round < rounds; round++) {
    const limit = <f32>(far * sqrt(variance))
    let sum: f64 = 0, inside = 0
    for (let i = 0; i < count; i++) {
      const size = load<f32>(sizes + (<usize>i << 2))
      if (size > limit) continue
      sum += <f64>size * <f64>size
      inside++
    }
    const next = inside > 0 ? sum / <f64>inside / within : 0
    const hasSettled = abs(next - variance) < 1e-3 * variance
    variance = min(variance, next)
    if (hasSettled) break
  }
  return variance
}
