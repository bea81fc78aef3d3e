/**
 * How much of the noise was there after the mark: inverting the mark raises that, and brings what was under it back as it was.
 *
 * Symbols: G how many times the inversion raises a variance, λ the share that came after the mark. Noise under the mark has a variance of 1 + λ (G − 1) in
 * parts of what is around, told by second differences. Source: J. Immerkær, "Fast noise variance estimation", CVIU 64(2), 1996 (the mask); quartiles: common practice.
 */
import type { Raster } from '../../image/raster'

/** Raised by less, nothing is told; as little raised, a place is around. */
const RAISED_FROM = 1.4
const AS_IT_IS = 1.02
const MIN_PLACES = 80
const MAX_PLACES = 6000
/** Second differences below this, in the plate's scale, are rounding. */
const ROUNDING = 0.004

/**
 * @param picture  With the mark undone. @param raised  For each pixel how many times the variance was raised; 0 where it is not to be looked at.
 * @returns 0 to 1; 1 where too little is there to tell.
 */
export function shareLaidAfter({ width, height, channels, data }: Raster, raised: Float32Array): number {
  const [inside, around]: [number[], number[]] = [[], []]
  let gains = 0
  const green = channels >= 3 ? 1 : 0
  const step = 1 + Math.floor((width * height) / (8 * MAX_PLACES))
  for (let row = 1; row + 1 < height; row++) {
    for (let at = row * width + 1 + ((row * 7) % step); at < (row + 1) * width - 1; at += step) {
      const [least, most] = rangeAround(raised, at, width)
      const isInside = least >= RAISED_FROM
      if (!isInside && !(least > 0 && most <= AS_IT_IS)) continue
      const size = Math.abs(secondDifference(data, at, width, channels, green))
      if (!isInside) around.push(size)
      else {
        inside.push(size)
        gains += raised[at]!
      }
    }
  }
  if (inside.length < MIN_PLACES || around.length < MIN_PLACES) return 1
  const there = quartileOf(around)
  if (there < ROUNDING) return 1
  const ratio = quartileOf(inside) / there
  return Math.min(1, Math.max(0, (ratio * ratio - 1) / (gains / inside.length - 1)))
}

function rangeAround(map: Float32Array, at: number, width: number): readonly [number, number] {
  let [least, most] = [Infinity, 0]
  for (let down = -width; down <= width; down += width) {
    for (let across = -1; across <= 1; across++) {
      const value = map[at + down + across]!
      if (value < least) least = value
      if (value > most) most = value
    }
  }
  return [least, most]
}

function secondDifference(
  data: Float32Array,
  at: number,
  width: number,
  channels: number,
  c: number,
): number {
  const line = (from: number) =>
    data[(from - 1) * channels + c]! - 2 * data[from * channels + c]! + data[(from + 1) * channels + c]!
  return line(at - width) - 2 * line(at) + line(at + width)
}

const quartileOf = (sizes: number[]): number => Float32Array.from(sizes).sort()[sizes.length >> 2]!
