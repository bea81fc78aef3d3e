/** The least and the greatest light around each pixel. */
import type { Light } from './light'

export interface Ranges {
  readonly low: Int16Array
  readonly high: Int16Array
}

/** Over the 3 x 3 pixels around, first along rows, then along columns. */
export function rangeAround({ width, height, data }: Light): Ranges {
  const [low, high] = [new Int16Array(data.length), new Int16Array(data.length)]
  for (let row = 0; row < height; row++) {
    const from = row * width
    for (let col = 0; col < width; col++) {
      const at = from + col
      const [a, b, c] = [data[col > 0 ? at - 1 : at]!, data[at]!, data[col + 1 < width ? at + 1 : at]!]
      low[at] = a < b ? (a < c ? a : c) : b < c ? b : c
      high[at] = a > b ? (a > c ? a : c) : b > c ? b : c
    }
  }
  return {
    low: ofThreeRows(low, width, height, (a, b) => (a < b ? a : b)),
    high: ofThreeRows(high, width, height, (a, b) => (a > b ? a : b)),
  }
}

function ofThreeRows(
  rows: Int16Array,
  width: number,
  height: number,
  better: (a: number, b: number) => number,
): Int16Array {
  const out = new Int16Array(rows.length)
  for (let row = 0; row < height; row++) {
    const [above, at, below] = [Math.max(0, row - 1), row, Math.min(height - 1, row + 1)].map((r) => r * width) as [number, number, number] // prettier-ignore
    for (let col = 0; col < width; col++)
      out[at + col] = better(rows[at + col]!, better(rows[above + col]!, rows[below + col]!))
  }
  return out
}
