/** Pixels that hang together. */

/**
 * Numbers the parts of a mask whose pixels touch by a side or a corner.
 * @param mask  1 for the pixels of interest, row by row. @returns For each pixel the number of its part, from 0 in the order of rows; −1 elsewhere. Time and memory grow with the mask.
 */
export function islandsOf(
  mask: Uint8Array,
  width: number,
): { readonly labels: Int32Array; readonly count: number } {
  const labels = new Int32Array(mask.length).fill(-1)
  const stack: number[] = []
  let count = 0
  for (let start = 0; start < mask.length; start++) {
    if (mask[start] !== 1 || labels[start] !== -1) continue
    labels[start] = count
    stack.push(start)
    while (stack.length > 0) {
      const at = stack.pop()!
      const col = at % width
      for (let down = -width; down <= width; down += width) {
        for (let along = col > 0 ? -1 : 0; along <= (col + 1 < width ? 1 : 0); along++) {
          const to = at + down + along
          if (mask[to] !== 1 || labels[to] !== -1) continue
          labels[to] = count
          stack.push(to)
        }
      }
    }
    count++
  }
  return { labels, count }
}
