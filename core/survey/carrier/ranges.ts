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
  spread(low, high, width, height)
  return { low, high }
}

/** Each row with those above and below it, in place: two rows are remembered as they were. */
function spread(low: Int16Array, high: Int16Array, width: number, height: number): void {
  const lowAbove = low.slice(0, width)
  const highAbove = high.slice(0, width)
  for (let row = 0; row < height; row++) {
    const below = row + 1 < height ? width : 0
    for (let col = 0, at = row * width; col < width; col++, at++) {
      const [l, h] = [low[at]!, high[at]!]
      const [lb, hb] = [low[at + below]!, high[at + below]!]
      const [la, ha] = [lowAbove[col]!, highAbove[col]!]
      lowAbove[col] = l
      highAbove[col] = h
      const least = l < lb ? l : lb
      const most = h > hb ? h : hb
      low[at] = least < la ? least : la
      high[at] = most > ha ? most : ha
    }
  }
}
