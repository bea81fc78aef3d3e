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
