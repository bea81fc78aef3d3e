/** Blotches: pixels that stand together out of what the frames before and after show there. */
import type { Place } from '../../geometry/transform'
import { atan2, cos, sin } from '../../kernels/exact'
import type { Beside } from './beside'
import type { Light } from './light'
import { grainAt } from './lightGrain'

/** A frame, and those before and after it as they lie along the motion. */
export interface Look {
  readonly light: Light
  readonly before: Beside
  readonly after: Beside
  /** Its grain's deviation by light. */
  readonly grain: Float32Array
}

/** Grain's deviations that the strongest pixels stand out of the range of their neighbours in time by, and steps of light at least. */
const OUT_DEVIATIONS = 4
const OUT_LEAST = 14
/** And share of that range: a glint that a frame catches better than those beside it has structure there too. */
const OUT_SHARE = 0.8
/** And what belongs to it. */
const PART_DEVIATIONS = 2.5
const PART_LEAST = 6
export const MAX_SIDE_PX = 96

/** Pixels outside the range of what both frames beside show around the same place: above 0 lighter, else darker; as places. */
export function seedsOf({ light: { data }, before: a, after: b, grain }: Look): Int32Array {
  const out = new Int32Array(data.length)
  let count = 0
  for (let i = 0; i < data.length; i++) {
    const value = data[i]!
    const [a0, b0] = [a.values[i]!, b.values[i]!]
    if (a0 < 0 || b0 < 0) continue
    const most = Math.max(a.high[i]!, b.high[i]!)
    const least = Math.min(a.low[i]!, b.low[i]!)
    const beyond = value > most ? value - most : least - value
    if (beyond <= OUT_LEAST || beyond <= OUT_SHARE * (most - least)) continue
    const limit = OUT_DEVIATIONS * grainAt(grain, (a0 + b0) >> 1)
    if (beyond > limit) out[count++] = i
  }
  return out.subarray(0, count)
}

export interface Blotch {
  readonly pixels: readonly number[]
  readonly sign: 1 | -1
}

/** What stands out together with seeds. */
export function blotchesOf(
  { light: { width, data }, before, after, grain }: Look,
  seeds: Int32Array,
): Blotch[] {
  const [a, b] = [before.values, after.values]
  const isTaken = new Uint8Array(data.length)
  const out: Blotch[] = []
  for (const seed of seeds) {
    if (isTaken[seed]) continue
    const sign = data[seed]! > a[seed]! ? 1 : -1
    const pixels = [seed]
    isTaken[seed] = 1
    for (let k = 0; k < pixels.length && pixels.length <= MAX_SIDE_PX * MAX_SIDE_PX; k++) {
      const col = pixels[k]! % width
      for (let dy = -1; dy <= 1; dy++) {
        for (let dx = -1; dx <= 1; dx++) {
          const at = pixels[k]! + dy * width + dx
          if (col + dx < 0 || col + dx >= width || at < 0 || at >= data.length || isTaken[at]) continue
          if (a[at]! < 0 || b[at]! < 0) continue
          const off = sign > 0 ? data[at]! - Math.max(a[at]!, b[at]!) : Math.min(a[at]!, b[at]!) - data[at]!
          if (off < Math.max(PART_LEAST, PART_DEVIATIONS * grainAt(grain, a[at]!))) continue
          isTaken[at] = 1
          pixels.push(at)
        }
      }
    }
    out.push({ pixels, sign })
  }
  return out
}

/** As a line with round ends. */
export interface Extent {
  /** Between the middles of its ends, and across. */
  readonly lengthPx: number
  readonly widthPx: number
  readonly turnDeg: number
}

/** A blotch as a line with round ends: by its second moments along and across. */
export function extentOf({ pixels }: Blotch, width: number, middle: Place): Extent {
  const { x, y } = middle
  let [xx, xy, yy] = [0, 0, 0]
  for (const at of pixels) {
    const [dx, dy] = [(at % width) + 0.5 - x, ((at / width) | 0) + 0.5 - y]
    xx += dx * dx
    xy += dx * dy
    yy += dy * dy
  }
  const angle = atan2(2 * xy, xx - yy) / 2
  const [c, s] = [cos(angle), sin(angle)]
  let [along, across] = [0.5, 0.5]
  for (const at of pixels) {
    const [dx, dy] = [(at % width) + 0.5 - x, ((at / width) | 0) + 0.5 - y]
    along = Math.max(along, Math.abs(dx * c + dy * s) + 0.5)
    across = Math.max(across, Math.abs(dy * c - dx * s) + 0.5)
  }
  return {
    widthPx: 2 * across,
    lengthPx: Math.max(0, 2 * (along - across)),
    turnDeg: (angle * 180) / Math.PI,
  }
}
