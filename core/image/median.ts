/** The middle one of the values, of two the greater; NaN of none. Cost: linear. Source: C. A. R. Hoare, "Algorithm 65: FIND", CACM 4(7), 1961. */
export function medianOf(values: ArrayLike<number>): number {
  const list = Float64Array.from(values)
  const wanted = list.length >> 1
  let [low, high] = [0, list.length - 1]
  while (low < high) {
    // The middle of three keeps sorted lists from being the worst.
    const [a, b, c] = [list[low]!, list[(low + high) >> 1]!, list[high]!]
    const pivot = Math.max(Math.min(a, b), Math.min(Math.max(a, b), c))
    let [i, j] = [low, high]
    while (i <= j) {
      while (list[i]! < pivot) i++
      while (list[j]! > pivot) j--
      if (i > j) break
      const swapped = list[i]!
      list[i++] = list[j]!
      list[j--] = swapped
    }
    if (wanted <= j) high = j
    else if (wanted >= i) low = i
    else break
  }
  return list[wanted] ?? NaN
}
