/** At its rim a mark covers any share of a pixel: told from what is left around. */
import type { Raster } from '../image/raster'
import type { MarkLine } from './edgeShares'

/** So far around a place the picture is looked at, px. */
const AROUND_PX = 3
/** Where the mark's colour is nearer to the ground, summed squares, its share is left as it was told. */
const MIN_CONTRAST = 0.02

/** @returns The shares, told anew where they change from one place to the next. */
export function softenRim(
  { width, height, channels, data }: Raster,
  asked: Uint8Array,
  shares: Float32Array,
  { opacity, colour }: MarkLine,
): Float32Array {
  const out = shares.slice()
  const isRim = (at: number) => {
    const one = shares[at]!
    if (one > 0 && one < 1) return true
    return [at - 1, at + 1, at - width, at + width].some((beside) => shares[beside] !== one)
  }
  const rim = shares.map((_, at) => (isRim(at) ? 1 : 0))
  const under = new Float64Array(channels)
  for (let row = AROUND_PX; row < height - AROUND_PX; row++) {
    for (let col = AROUND_PX; col < width - AROUND_PX; col++) {
      const at = row * width + col
      if (asked[at] !== 1 || rim[at] !== 1) continue
      let total = 0
      under.fill(0)
      for (let y = -AROUND_PX; y <= AROUND_PX; y++) {
        for (let x = -AROUND_PX; x <= AROUND_PX; x++) {
          const there = at + y * width + x
          if (rim[there] === 1) continue
          const square = x * x + y * y
          const weight = 1 / (square * square)
          const covered = shares[there]! * opacity
          total += weight
          for (let c = 0; c < channels; c++)
            under[c]! += (weight * (data[there * channels + c]! - covered * colour[c]!)) / (1 - covered)
        }
      }
      let [cross, square] = [0, 0]
      for (let c = 0; c < channels && total > 0; c++) {
        const ground = under[c]! / total
        const contrast = colour[c]! - ground
        cross += (data[at * channels + c]! - ground) * contrast
        square += contrast * contrast
      }
      if (square >= MIN_CONTRAST) out[at] = Math.min(1, Math.max(0, cross / (square * opacity)))
    }
  }
  return out
}
